import fc from 'fast-check'
import { dealLocations, dealUsers } from '../../core/placement/deal-users'
import { countsOf, quotaSequence } from '../../core/placement/quota-method'

const weights = fc.array(fc.nat(60), { minLength: 1, maxLength: 6 }).filter(w => w.some(x => x > 0))

function furthestOff(sequence: ArrayLike<number>, w: number[], users: number): number {
  const total = w.reduce((a, b) => a + b, 0)
  const counts = w.map(() => 0)
  let worst = 0
  for (let n = 1; n <= users; n++) {
    counts[sequence[(n - 1) % sequence.length]!]!++
    w.forEach((x, i) => {
      worst = Math.max(worst, Math.abs(counts[i]! - (n * x) / total))
    })
  }
  return worst
}

describe('quota method', () => {
  it('gives the textbook’s seats: 53,000/24,000/23,000 votes, 7 seats → 4, 2, 1 (the quota method agrees with d’Hondt here)', () => {
    expect(countsOf(quotaSequence([53, 24, 23]), 3, 7)).toEqual([4, 2, 1])
  })

  it('keeps every location within one user of its exact share at every prefix', () => {
    fc.assert(fc.property(weights, w => furthestOff(quotaSequence(w), w, 400) < 1))
  })

  it('does so also when the first user is sent elsewhere', () => {
    fc.assert(
      fc.property(weights, fc.nat(), (w, k) => {
        const open = w.flatMap((x, i) => (x > 0 ? [i] : []))
        const first = open[k % open.length]!
        const sequence = quotaSequence(w, first)
        expect(sequence[0]).toBe(first)
        return furthestOff(sequence, w, 400) < 1
      }),
      { numRuns: 1000 },
    )
  })

  it('adds users without moving any: a prefix is a prefix, past the period too', () => {
    const sequence = quotaSequence([4000, 3500, 2500])
    expect(sequence.length).toBe(20)
    for (let n = 0; n < 45; n++) {
      const [a, b] = [countsOf(sequence, 3, n), countsOf(sequence, 3, n + 1)]
      expect(b.reduce((sum, x, i) => sum + Math.abs(x - a[i]!), 0)).toBe(1)
    }
  })
})

describe('dealing users', () => {
  const even = (n: number) => Array.from({ length: n }, () => 1)
  const tally = (list: ArrayLike<number>, size: number) =>
    Array.from({ length: size }, (_, i) => Array.from(list).filter(x => x === i).length)

  it('20 groups of 5 users on 4 equal generators are 25 each', () => {
    const dealt = dealUsers(
      Array.from({ length: 20 }, () => ({ users: 5, shares: [10_000], networks: [[1]] })),
      [{ generators: even(4) }],
    )
    expect(
      tally(
        dealt.flatMap(d => [...d.generatorOf]),
        4,
      ),
    ).toEqual([25, 25, 25, 25])
  })

  it('100 users on 2 generators and 2 networks are 25 of each pair: machine and network are not entangled', () => {
    const [d] = dealUsers([{ users: 100, shares: [10_000], networks: [[5000, 5000]] }], [{ generators: even(2) }])
    expect(
      tally(
        Array.from(d!.generatorOf, (g, i) => g * 2 + d!.networkOf[i]!),
        4,
      ),
    ).toEqual([25, 25, 25, 25])
  })

  it('groups of one user do not all fall to the first location', () => {
    const shares = [4000, 3000, 3000]
    const dealt = dealLocations(
      Array.from({ length: 10 }, () => ({ users: 1, shares })),
      3,
    )
    expect(
      tally(
        dealt.map(d => d[0]!),
        3,
      ),
    ).toEqual([4, 3, 3])
  })

  it('keeps generator, network and pair within two users of their share at every prefix, whatever the mix', () => {
    const groups = fc.array(
      fc.record({
        users: fc.integer({ min: 1, max: 60 }),
        mix: fc.array(fc.integer({ min: 1, max: 20 }), { minLength: 1, maxLength: 3 }),
      }),
      { minLength: 1, maxLength: 5 },
    )
    fc.assert(
      fc.property(groups, fc.integer({ min: 1, max: 4 }), (gs, machines) => {
        const dealt = dealUsers(
          gs.map(g => ({ users: g.users, shares: [1], networks: [g.mix] })),
          [{ generators: even(machines) }],
        )
        dealt.forEach((d, g) => {
          const mix = gs[g]!.mix
          const total = mix.reduce((a, b) => a + b, 0)
          const byNetwork = mix.map(() => 0)
          const byGenerator = even(machines).map(() => 0)
          for (let n = 1; n <= d.networkOf.length; n++) {
            byNetwork[d.networkOf[n - 1]!]!++
            byGenerator[d.generatorOf[n - 1]!]!++
            const off = [
              ...mix.map((m, k) => byNetwork[k]! - (n * m) / total),
              ...byGenerator.map(c => c - n / machines),
            ]
            if (off.some(x => Math.abs(x) > 2 + 1e-9)) throw new Error(`off by ${off} after ${n} users`)
          }
        })
      }),
      { numRuns: 200 },
    )
  })

  it('gives larger machines their larger share', () => {
    const [d] = dealUsers([{ users: 90, shares: [1], networks: [[1]] }], [{ generators: [1, 2] }])
    expect(tally(d!.generatorOf, 2)).toEqual([30, 60])
  })

  it('says so when there is nowhere to go', () => {
    expect(() =>
      dealUsers([{ users: 3, shares: [0, 0], networks: [[1], [1]] }], [{ generators: [1] }, { generators: [1] }]),
    ).toThrow('no share anywhere')
    expect(() => dealUsers([{ users: 3, shares: [1], networks: [[1]] }], [{ generators: [] }])).toThrow('no generator')
  })
})

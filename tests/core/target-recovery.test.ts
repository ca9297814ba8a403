/** When a target was as before, and how its own count agrees with ours. */
import { accountOf, accountOfAll, othersFrom, type OurCount } from '../../core/result/three-way'
import { median } from '../../core/values/median'
import { recoveryOf, stepsOf, type Value } from '../../core/target/recovery'
import { seededRandom } from '../../core/random/seeded'

const every = (fromS: number, toS: number, value: (atS: number) => number): Value[] =>
  Array.from({ length: toS - fromS }, (_, i) => ({ atS: fromS + i, value: value(fromS + i) }))

describe('as before', () => {
  /** 9 at rest, 5,000 under a load of 60 s, back in 20 s. */
  const connections = (rest: number) =>
    every(-30, 200, s => (s < 0 ? 9 : s < 60 ? 5000 : s < 80 ? 5000 - (s - 60) * 249.5 : rest))

  it('is when it stays within a tolerance of the median before, for 30 s', () => {
    const recovery = recoveryOf(connections(9), 60)!
    expect(recovery).toMatchObject({ value: 9, furthest: { value: 5000 } })
    // 2 % of the excursion is the largest of the tolerances.
    expect(recovery.within).toBeCloseTo(0.02 * 4991, 9)
    expect(recovery.atS).toBe(80)
  })

  it('is never where it stays away', () => {
    expect(recoveryOf(connections(300), 60)!.atS).toBeUndefined()
  })

  it('is not yet where it has not lasted', () => {
    expect(recoveryOf(connections(9).filter(v => v.atS < 105), 60)!.atS).toBeUndefined()
  })

  it('is known of nothing that was not read at rest', () => {
    expect(recoveryOf(every(0, 100, () => 1), 60)).toBeUndefined()
    expect(recoveryOf(every(-30, 0, () => 1), 60)).toBeUndefined()
  })

  it('one odd reading before does not move it (a median)', () => {
    const values = connections(9)
    values[3]!.value = 100_000
    expect(recoveryOf(values, 60)).toMatchObject({ value: 9, atS: 80 })
  })

  it('of replicas is only the same number', () => {
    const replicas = every(-30, 200, s => (s < 20 ? 4 : s < 100 ? 6 : s < 120 ? 5 : 4))
    expect(recoveryOf(replicas, 60, true)!.atS).toBe(120)
    expect(recoveryOf(replicas, 60)!.atS).toBe(100)
  })

  it('a median of an even number lies in the middle', () => {
    expect(median([4, 1, 3, 2])).toBe(2.5)
  })
})

it('a change of replicas is one that stays for two readings', () => {
  const values = [4, 4, 5, 4, 4, 6, 6, 6, 4, 4].map((value, atS) => ({ atS, value }))
  expect(stepsOf(values)).toEqual([
    { atS: 5, from: 4, to: 6 },
    { atS: 8, from: 6, to: 4 },
  ])
})

describe('the three-way account', () => {
  const ours = (over: Partial<OurCount> = {}): OurCount => ({
    started: 1000,
    neverSent: 0,
    unclear: 0,
    cut: 0,
    redirects: 0,
    answered: 1000,
    ...over,
  })
  const MARKED = { how: 'mark', least: 0, most: 0 } as const

  it('balances where it is exact', () => {
    expect(accountOf('Enrol', ours(), 1000, MARKED)).toMatchObject({ state: 'balanced', openBy: 0 })
    expect(accountOf('Enrol', ours({ redirects: 40 }), 1040, MARKED)).toMatchObject({ state: 'balanced' })
  })

  it('is explained within what the target can have seen, and open beyond, by how many', () => {
    const some = ours({ neverSent: 5, unclear: 3, cut: 2, answered: 990 })
    expect(accountOf('Enrol', some, 990, MARKED)).toMatchObject({ state: 'explained', between: [990, 995] })
    expect(accountOf('Enrol', some, 995, MARKED).state).toBe('explained')
    expect(accountOf('Enrol', some, 996, MARKED)).toMatchObject({ state: 'open', openBy: 1 })
    expect(accountOf('Enrol', some, 980, MARKED)).toMatchObject({ state: 'open', openBy: -10 })
  })

  it('waits while the target is read, where fewer were counted: more may come, and never fewer', () => {
    const coming = accountOf('Enrol', ours(), 980, MARKED, false)
    expect(coming).toMatchObject({ state: 'coming', openBy: -20 })
    expect(accountOf('Enrol', ours(), 1001, MARKED, false).state).toBe('open')
    expect(accountOf('Enrol', ours(), 1000, MARKED, false).state).toBe('balanced')
    const balanced = accountOf('Ask', ours(), 1000, MARKED, false)
    expect(accountOfAll([balanced, coming])).toMatchObject({ state: 'coming', sentence: expect.stringMatching(/^Not told yet/) })
    expect(accountOfAll([accountOf('Look', ours(), 1001, MARKED), coming]).state).toBe('open')
  })

  it('of all steps is as good as the worst of them', () => {
    const balanced = accountOf('Enrol', ours(), 1000, MARKED)
    const explained = accountOf('Ask', ours({ unclear: 3, answered: 997 }), 998, MARKED)
    const open = accountOf('Look', ours(), 1001, MARKED)
    expect(accountOfAll([balanced, balanced])).toEqual({
      state: 'balanced',
      sentence: 'Balanced: the target counted exactly what was answered, 2\u2009000 requests.',
    })
    expect(accountOfAll([balanced, explained]).state).toBe('explained')
    expect(accountOfAll([open, balanced, explained])).toMatchObject({ state: 'open' })
    expect(accountOfAll([open, open, explained]).sentence).toMatch(/^2 steps are open: /)
  })

  it('one more caller opens it by that caller’s count where the mark tells callers apart', () => {
    expect(accountOf('Enrol', ours(), 1000 + 37, MARKED)).toMatchObject({ state: 'open', openBy: 37 })
  })

  it('and is within the interval of what others called before where it does not', () => {
    const others = othersFrom(60, 30, 90)
    expect(others.least).toBeLessThan(180)
    expect(others.most).toBeGreaterThan(180)
    expect(accountOf('Enrol', ours(), 1180, others)).toMatchObject({ state: 'explained', openBy: 0 })
    expect(accountOf('Enrol', ours(), 1600, others).openBy).toBe(600 - others.most!)
    // Nothing was read before: nobody knows of others.
    expect(accountOf('Enrol', ours(), 99_000, othersFrom(0, 0, 90)).state).toBe('explained')
  })

  it('the interval of others holds as often as it says (Poisson callers, simulated)', () => {
    const random = seededRandom(19)
    const poisson = (mean: number) => {
      let [n, t] = [0, -Math.log(1 - random())]
      while (t < mean) {
        n++
        t -= Math.log(1 - random())
      }
      return n
    }
    for (const perSecond of [0.5, 4]) {
      let held = 0
      for (let i = 0; i < 600; i++) {
        const { least, most } = othersFrom(poisson(perSecond * 30), 30, 60)
        const now = poisson(perSecond * 60)
        if (now >= least && now <= most!) held++
      }
      expect(held / 600).toBeGreaterThan(0.92)
      expect(held / 600).toBeLessThan(0.995)
    }
  })
})

/** Capacities and the fleets that are sized by them. */
import fc from 'fast-check'
import { bothMargins, fingerprintText, recommended, useOf, type Capacity } from '../../core/capacity/capacity'
import { CapacityBook } from '../../core/fleet/capacity-book'
import { holds, type Option } from '../../core/fleet/cheapest'
import { sayMachines, type SizingAround } from '../../core/fleet/place'
import { sizePlan } from '../../core/fleet/sizing'
import type { MachineType, RegionOffer } from '../../core/offers/machine-type'
import type { Plan } from '../../core/plan/document'
import { hill, journey, plan, step } from '../build/plans'

const costOf = (options: readonly Option[], counts: readonly number[]) =>
  options.reduce((sum, o, i) => sum + o.cost * counts[i]!, 0)

const BRISK: MachineType[] = [
  { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.06, interruptiblePerHour: 0.02, billingGrainS: 60 },
  { name: 'brisk-2', vcpu: 2, memoryMb: 4096, pricePerHour: 0.11, billingGrainS: 60 },
  { name: 'brisk-4', vcpu: 4, memoryMb: 8192, pricePerHour: 0.21, billingGrainS: 3600 },
]
const offered = (over: Partial<RegionOffer> = {}) => ({
  nimbral: ['reyk', 'tavira'].map(region => ({
    region,
    types: BRISK,
    quota: { most: 20, used: 0 },
    bootS: 1,
    ...over,
  })),
})
const around = (over: Partial<SizingAround> = {}): SizingAround => ({
  journeys: [journey()],
  offers: offered(),
  capacities: [],
  stale: [],
  billedS: 300,
  ...over,
})
/** What a calibration of one generator would have left. */
function capacity(over: Partial<Capacity> = {}): Capacity {
  const lower = over.lower ?? 100
  return {
    schema: 'vornak-capacity/1',
    id: `c-${over.machineType ?? 'brisk-1'}-${over.journeyId ?? 'look'}-${over.network ?? 'direct'}`,
    origin: 'calibrated',
    journeyId: 'look',
    journeyName: 'Look around',
    network: 'direct',
    provider: 'nimbral',
    machineType: 'brisk-1',
    vcpu: 1,
    outcome: 'measured',
    users: lower,
    lower,
    upper: lower,
    binds: 'cpuShare',
    signals: {
      cpuShare: { users: lower, lower, upper: lower, base: 0.05 },
      memoryShare: { users: 4 * lower, lower: 4 * lower, upper: 4 * lower, base: 0.1 },
    },
    responseMs: 100,
    thinkMs: 300,
    requestsPerPass: 2,
    costs: {},
    machines: 1,
    fingerprint: 'x',
    journeyVersion: 1,
    release: '0',
    at: 1,
    ...over,
  }
}
const cheap = (p: Plan): Plan => ({ ...p, locations: p.locations.map(l => ({ ...l, choose: 'cheapest' as const })) })

describe('a capacity', () => {
  it('recommends its lower bound less the headroom, and shows both margins as one figure', () => {
    expect(recommended({ lower: 412.6 })).toBe(330)
    expect(recommended({ lower: 412.6 }, 0)).toBe(412)
    expect(bothMargins(0.75, 0.2)).toBeCloseTo(0.6, 12)
  })

  it('is rescaled to another think time in what grows with passes, not in what grows with users', () => {
    // 100 users, a pass of 400 ms: 250 passes/s. With 800 ms between passes as many passes are made by 225 users: (100
    // + 800) ÷ 400 = 2.25.
    const use = useOf(capacity(), { thinkMs: 800 }, 0)
    expect(1 / use.cpuShare!).toBeCloseTo(225, 9)
    expect(1 / use.memoryShare!).toBeCloseTo(400, 9)
    // A rhythm of 2 s per pass: five times the users.
    expect(1 / useOf(capacity(), { thinkMs: 300, pacingMs: 2000 }, 0).cpuShare!).toBeCloseTo(500, 9)
  })

  it('that was never reached is no more than what was tried', () => {
    expect(useOf(capacity({ outcome: 'atLeast', signals: {}, binds: undefined }), { thinkMs: 300 }, 0.2)).toEqual({
      tried: 1 / 80,
    })
  })

  it('changes its fingerprint with what users do and how, not with its name', () => {
    const of = (j = journey(), type = 'brisk-1', release = '1') =>
      fingerprintText({ journey: j, network: undefined, provider: 'nimbral', machineType: type, release })
    expect(of(journey({ name: 'Another name' }))).toBe(of())
    expect(of(journey({ round: [step()] }))).not.toBe(of())
    expect(of(journey(), 'brisk-2')).not.toBe(of())
    expect(of(journey(), 'brisk-1', '2')).not.toBe(of())
  })
})

describe('what is known of a machine', () => {
  const asked = (network: string, type = BRISK[0]!) => ({
    journeyId: 'look',
    thinkMs: 300,
    network,
    provider: 'nimbral',
    type,
  })
  const book = (capacities: Capacity[], stale: string[] = []) => new CapacityBook(capacities, new Set(stale), 60, 0.2)
  it('is the calibration itself, else the nearest, and says which', () => {
    const direct = capacity()
    const slow = capacity({ network: 'copper-line', lower: 70 })
    expect(book([direct, slow]).find(asked('copper-line'))).toMatchObject({
      basis: 'calibrated',
      capacity: { network: 'copper-line' },
    })
    // Of several other networks the one that carries least.
    expect(book([direct, slow]).find(asked('far-satellite'))).toMatchObject({
      basis: 'otherNetwork',
      capacity: { network: 'copper-line' },
    })
    expect(book([direct], [direct.id]).find(asked('direct')).basis).toBe('stale')
    expect(book([capacity({ origin: 'byHand' })]).find(asked('direct')).basis).toBe('byHand')
    expect(book([]).find(asked('direct', BRISK[1]))).toEqual({ basis: 'assumed', use: { assumed: 1 / 120 } })
    expect(book([capacity({ outcome: 'inconclusive', lower: 0, signals: {} })]).find(asked('direct')).basis).toBe(
      'assumed',
    )
  })
  it('is scaled by vCPU from a calibrated sibling, and said to be assumed', () => {
    const { basis, use } = book([capacity()]).find(asked('direct', BRISK[1]))
    expect(basis).toBe('scaled')
    expect(1 / use.cpuShare!).toBeCloseTo(160, 9)
  })
})

describe('a plan’s fleet', () => {
  it('adds mixed groups up signal by signal', () => {
    // Worked by hand, no headroom: A takes 1/100 CPU and 1/400 memory a user, B 1/50 and 1/100. 60 A and 30 B: CPU 0.6
    // + 0.6 = 1.2, memory 0.15 + 0.3.
    const b = journey({ id: 'other' })
    const mixed = plan({
      groups: [
        { letter: 'A', name: 'A', journeyId: 'look', profile: hill(60, 1, 9, 1) },
        { letter: 'B', name: 'B', journeyId: 'other', profile: hill(30, 1, 9, 1) },
      ],
      locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' }],
      placement: { A: { REY: 10_000 }, B: { REY: 10_000 } },
      sizing: { headroom: 0 },
    })
    const other = capacity({
      journeyId: 'other',
      lower: 50,
      signals: {
        cpuShare: { users: 50, lower: 50, upper: 50, base: 0 },
        memoryShare: { users: 100, lower: 100, upper: 100, base: 0 },
      },
    })
    const [size] = sizePlan(mixed, around({ journeys: [journey(), b], capacities: [capacity(), other] }))
    expect(size).toMatchObject({ users: 90, needed: 2, carries: 150, basis: 'calibrated' })
    expect(size!.loads.map(l => [l.signal, Number(l.share.toFixed(4))])).toEqual([
      ['cpuShare', 0.6],
      ['memoryShare', 0.225],
    ])
  })

  it('is sized by the peak of the curve, not by the sum of the peaks', () => {
    const turns = plan({
      assumedUsersPerVcpu: 10,
      groups: [
        { letter: 'A', name: 'A', journeyId: 'look', profile: hill(20, 0, 5, 0) },
        {
          letter: 'B',
          name: 'B',
          journeyId: 'look',
          profile: {
            startDelayMs: 5000,
            segments: [
              { to: 18, overMs: 0 },
              { to: 18, overMs: 5000 },
            ],
          },
        },
      ],
      placement: { A: { REY: 10_000 }, B: { REY: 10_000 } },
    })
    expect(sizePlan(turns, around())[0]).toMatchObject({ users: 20, needed: 2 })
  })

  it('takes the cheapest types, spares on top, and says what binds and what is left', () => {
    // 12 users at REY, 4 per vCPU: three brisk-1 (€0.18/h) or one brisk-4, billed by the hour; brisk-2 + brisk-1
    // €0.17/h are the cheapest.
    const p = cheap(plan({ assumedUsersPerVcpu: 4 }))
    const [rey] = sizePlan(p, around())
    expect(
      sayMachines(
        rey!.machines.map(m => ({ type: m.type, interruptible: m.interruptible })),
        rey!.machines.map(m => m.count),
      ),
    ).toBe('1 × brisk-1, 1 × brisk-2')
    expect(rey).toMatchObject({
      carries: 12,
      unfit: false,
      basis: 'assumed',
      binds: 'Assumed capacity is the fullest: 100 % of what its machines may bear.',
      slack: '18 more machines free',
    })
    expect(rey!.choices[0]).toMatchObject({ kind: 'safer' })
    const [spared] = sizePlan({ ...p, sizing: { spares: 1 } }, around())
    const lost = Math.max(...spared!.machines.map(m => m.carries))
    expect(spared!.machines.reduce((sum, m) => sum + m.count * m.carries, 0) - lost).toBeGreaterThanOrEqual(12 - 1e-6)
    expect(spared!.withSparesLost).toBeLessThanOrEqual(1 + 1e-9)
    expect(spared!.choices.map(c => c.kind)).toEqual(['safer', 'cheaper'])
  })

  it('lets interruptible machines of one type carry no more than their share', () => {
    const p = cheap(
      plan({
        assumedUsersPerVcpu: 2,
        locations: [
          {
            code: 'REY',
            provider: 'nimbral',
            region: 'reyk',
            machineType: 'brisk-1',
            machines: 'auto',
            interruptible: true,
          },
        ],
        placement: { A: { REY: 10_000 } },
      }),
    )
    const [size] = sizePlan(p, around())
    const carried = size!.machines.reduce((sum, m) => sum + m.count * m.carries, 0)
    const taken = size!.machines.find(m => m.interruptible)!
    expect((taken.count * taken.carries) / carried).toBeLessThanOrEqual(0.4 + 1e-9)
    expect(taken.count).toBeGreaterThan(0)
    expect(
      sizePlan({ ...p, sizing: { interruptibleShare: 0 } }, around())[0]!.machines.some(m => m.interruptible),
    ).toBe(false)
  })

  it('says why nothing fits, and the smallest single change of each kind that would help', () => {
    const p = { ...cheap(plan({ assumedUsersPerVcpu: 2 })), sizing: { spares: 1, headroom: 0.3 } }
    const [rey] = sizePlan(p, around({ offers: offered({ quota: { most: 2, used: 0 }, types: BRISK.slice(0, 2) }) }))
    expect(rey).toMatchObject({
      unfit: true,
      machines: [],
      binds: 'REY: 2 machines are free in reyk; they would carry at most 8 of 12 users, and 1 may be lost.',
    })
    // 12 users, 4 on a brisk-2: three, and one may be lost.
    expect(rey!.remedies.find(r => r.kind === 'quota')!.sentence).toBe('A quota of 2 more in reyk: 4 × brisk-2.')
    // With one of two lost, 4 of 12 users are carried: two thirds must go, to the next 5 %.
    expect(rey!.remedies.find(r => r.kind === 'move')!.sentence).toBe('70 % of its users elsewhere: 2 × brisk-2.')
    expect(rey!.remedies.find(r => r.kind === 'spares')).toBeUndefined()
    const [none] = sizePlan(p, around({ offers: offered({ quota: { most: 0, used: 0 } }) }))
    expect(none!.binds).toBe('REY: no machine can be had in reyk: its quota is used up.')
    const [sold] = sizePlan(p, around({ offers: offered({ noStock: ['brisk-1', 'brisk-2', 'brisk-4'] }) }))
    expect(sold!.binds).toContain('every type is out of stock')
  })

  it('gives up headroom or spares where that alone helps', () => {
    const calibrated = [capacity({ lower: 10 }), capacity({ machineType: 'brisk-2', vcpu: 2, lower: 14 })]
    const p = { ...cheap(plan()), sizing: { headroom: 0.5 } }
    const [rey] = sizePlan(
      p,
      around({ capacities: calibrated, offers: offered({ quota: { most: 1, used: 0 }, types: BRISK.slice(0, 2) }) }),
    )
    // One brisk-2 carries 14 at its limit; 12 users leave it 14 %: 10 % to the next 5 %.
    expect(rey!.remedies.find(r => r.kind === 'headroom')).toMatchObject({
      sentence: 'A headroom of 10 % instead of 50 %: 1 × brisk-2.',
      change: { headroom: 0.1 },
    })
  })

  it('pinned by hand shows the consequences, and what the cheapest would save', () => {
    const p = plan({ assumedUsersPerVcpu: 4, locations: plan().locations.map(l => ({ ...l, machines: 1 })) })
    const [rey] = sizePlan(p, around())
    expect(rey).toMatchObject({ needed: 3, carries: 4 })
    expect(rey!.loads[0]!.share).toBeCloseTo(3, 9)
    const [dear] = sizePlan(
      plan({
        assumedUsersPerVcpu: 4,
        locations: plan().locations.map(l => ({ ...l, machineType: 'brisk-4', machines: 2 })),
      }),
      around(),
    )
    expect(dear!.choices).toMatchObject([
      { kind: 'cheaper', sentence: 'The cheapest here would be 1 × brisk-1, 1 × brisk-2.' },
    ])
    expect(dear!.choices[0]!.cost).toBeLessThan(0)
  })

  it('shares the quota of a region between its locations', () => {
    const p = cheap(
      plan({
        assumedUsersPerVcpu: 12,
        locations: [
          { code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'x', machines: 'auto' },
          { code: 'RET', provider: 'nimbral', region: 'reyk', machineType: 'x', machines: 'auto' },
        ],
        placement: { A: { REY: 5000, RET: 5000 } },
      }),
    )
    const sizes = sizePlan(p, around({ offers: offered({ quota: { most: 1, used: 0 }, types: BRISK.slice(0, 1) }) }))
    expect(sizes.map(s => s.unfit)).toEqual([false, true])
  })

  it('counts machines that wait in a region once, no matter which of its locations gets them', () => {
    const two = cheap(
      plan({
        assumedUsersPerVcpu: 6,
        locations: ['REY', 'RET'].map(code => ({
          code,
          provider: 'nimbral',
          region: 'reyk',
          machineType: 'x',
          machines: 'auto' as const,
        })),
        placement: { A: { REY: 5000, RET: 5000 } },
        sizing: { headroom: 0, allThrough: true, spares: 0 },
      }),
    )
    const of = (offer: Partial<RegionOffer>) =>
      sizePlan(two, around({ offers: offered(offer) })).map(s =>
        s.unfit
          ? 'unfit'
          : sayMachines(
              s.machines.map(m => ({ type: m.type, interruptible: m.interruptible })),
              s.machines.map(m => m.count),
            ),
      )
    // 10 users each: two of brisk-1, or one brisk-2. Nothing more can be ordered than what waits.
    const full = { quota: { most: 9, used: 9 } }
    expect(of({ ...full, waiting: { 'brisk-1': 4 } })).toEqual(['2 × brisk-1', '2 × brisk-1'])
    expect(of({ ...full, waiting: { 'brisk-1': 2 } })).toEqual(['2 × brisk-1', 'unfit'])
    expect(of({ ...full, waiting: { 'brisk-1': 3 } })).toEqual(['2 × brisk-1', 'unfit'])
    // One may be ordered besides; what waits of another type does not stand for it.
    expect(of({ quota: { most: 9, used: 8 }, waiting: { 'brisk-1': 3 } })).toEqual(['2 × brisk-1', '1 × brisk-2'])
    expect(of({ quota: { most: 9, used: 8 }, waiting: { 'brisk-4': 1 } }).includes('unfit')).toBe(false)
    expect(of({ quota: { most: 9, used: 8 }, waiting: { 'brisk-1': 1 } }).filter(m => m === 'unfit')).toHaveLength(1)
  })

  describe('of locations that share a region', () => {
    const codes = ['REY', 'RET', 'REX']
    const sharing = (users: readonly number[], pinned?: { at: number, machines: number }) => {
      const all = users.reduce((sum, n) => sum + n, 0)
      return plan({
        assumedUsersPerVcpu: 1,
        groups: users.map((n, l) => ({
          ...plan().groups[0]!,
          letter: 'ABC'[l]!,
          name: codes[l]!,
          profile: hill(n, 1, 9, 1),
        })),
        sizing: { allThrough: true, spares: all % 2 },
        locations: users.map((_, l) => ({
          code: codes[l]!,
          provider: 'nimbral',
          region: 'reyk',
          machineType: 'brisk-1',
          machines: pinned?.at === l ? pinned.machines : ('auto' as const),
          ...(pinned?.at === l ? {} : { choose: 'cheapest' as const }),
        })),
        placement: Object.fromEntries(users.map((_, l) => ['ABC'[l]!, { [codes[l]!]: 10_000 }])),
      })
    }
    const priceOf = (sizes: ReturnType<typeof sizePlan>) =>
      sizes.reduce((sum, s) => sum + s.machines.reduce((n, m) => n + m.count * m.type.pricePerHour, 0), 0)
    const machinesOf = (sizes: ReturnType<typeof sizePlan>) =>
      sizes.map(s => s.machines.reduce((n, m) => n + m.count, 0))

    it('costs what trying everything together finds, and fits whenever that does', () => {
      let [fitted, bound] = [0, 0]
      fc.assert(
        fc.property(
          fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 2, maxLength: 3 }),
          fc.integer({ min: 1, max: 12 }),
          fc.array(fc.integer({ min: 5, max: 40 }), { minLength: 3, maxLength: 3 }),
          (users, quota, prices) => {
            const types = BRISK.map((t, i) => ({ ...t, pricePerHour: (prices[i]! * t.vcpu) / 100, billingGrainS: 1 }))
            const p = sharing(users)
            const sizes = sizePlan(p, around({ offers: offered({ quota: { most: quota, used: 0 }, types }) }))
            // All ways of each location alone, then all of them together.
            const ways = users.map((n) => {
              const options = types.map((t): Option => ({
                carries: t.vcpu / n,
                cost: t.pricePerHour,
                vcpu: t.vcpu,
                most: 10,
              }))
              const least = new Map<number, number>()
              const counts = [0, 0, 0]
              for (counts[0] = 0; counts[0]! <= 10; counts[0]!++)
                for (counts[1] = 0; counts[1]! <= 6; counts[1]!++)
                  for (counts[2] = 0; counts[2]! <= 4; counts[2]!++) {
                    if (
                      !holds(options, counts, { mostMachines: quota, spares: p.sizing!.spares!, interruptibleShare: 1 })
                    )
                      continue
                    const machines = counts.reduce((a, b) => a + b, 0)
                    least.set(
                      machines,
                      Math.min(least.get(machines) ?? Number.POSITIVE_INFINITY, costOf(options, counts)),
                    )
                  }
              return [...least]
            })
            const together = (l: number, left: number): number =>
              l === ways.length
                ? 0
                : Math.min(
                    Number.POSITIVE_INFINITY,
                    ...ways[l]!.filter(([m]) => m <= left).map(([m, cost]) => cost + together(l + 1, left - m)),
                  )
            const truth = together(0, quota)
            if (truth < Number.POSITIVE_INFINITY) {
              fitted++
              if (truth > together(0, 100) + 1e-9) bound++
              expect(sizes.every(s => !s.unfit)).toBe(true)
              expect(priceOf(sizes)).toBeCloseTo(truth, 6)
            }
            else expect(sizes.some(s => s.unfit)).toBe(true)
            expect(machinesOf(sizes).reduce((a, b) => a + b, 0)).toBeLessThanOrEqual(quota)
          },
        ),
        { numRuns: 400, seed: 7 },
      )
      // Enough of them were such that the quota stood in the way of what each would take alone.
      expect(fitted).toBeGreaterThan(150)
      expect(bound).toBeGreaterThan(60)
    })

    it('leaves to those pinned by hand what they take, wherever they stand in the plan', () => {
      const small = { offers: offered({ quota: { most: 5, used: 0 } }) }
      // By the hour brisk-1 is the cheapest for 4 users: four of them. Three are pinned at the other.
      expect(machinesOf(sizePlan(sharing([4, 3], { at: 1, machines: 3 }), around(small)))[1]).toBe(3)
      expect(machinesOf(sizePlan(sharing([4, 3], { at: 1, machines: 3 }), around(small)))[0]).toBeLessThanOrEqual(2)
      // Forty where there are five: that is said at the plan; the other is sized as if it were alone.
      expect(sizePlan(sharing([4, 3], { at: 0, machines: 40 }), around(small))[1]!.unfit).toBe(false)
    })

    it('asks for no more quota than they lack together', () => {
      // 9 and 9 users with no spare: at the least three machines each; there are four.
      const sizes = sizePlan(
        { ...sharing([9, 9]), sizing: { allThrough: true } },
        around({ offers: offered({ quota: { most: 4, used: 0 } }) }),
      )
      expect(sizes.map(s => s.unfit)).toEqual([false, true])
      expect(sizes[1]!.remedies.find(r => r.kind === 'quota')!.sentence).toMatch(/^A quota of 2 more in reyk: /)
    })
  })
})

/**
 * Machines for the peak alone: what they save, worked by hand and against trying every cut; who plays whom, and that
 * nobody is asked to carry more than it was sized for.
 */
import loadHighs from 'highs'
import fc from 'fast-check'
import { ceilingOverRun } from '../../core/fleet/ceiling'
import { costOf, priceOf } from '../../core/offers/cost'
import { goWith } from '../../core/run/go-with'
import { leadMsOf } from '../../core/fleet/peak-shift'
import type { SizingAround } from '../../core/fleet/place'
import { sizePlan } from '../../core/fleet/sizing'
import { levelAt, peakOf, type LoadProfile } from '../../core/load/profile'
import { spanOf, staysOf } from '../../core/load/stays'
import type { FleetOrder } from '../../core/fleet/order'
import type { MachineType } from '../../core/offers/machine-type'
import type { Plan } from '../../core/plan/document'
import { problemsOf } from '../../core/checks/problems'
import { runLengthMs } from '../../core/plan/length'
import { shiftAt, sliceFor } from '../../core/run/slice'
import { journey, plan, runDocument, target } from '../build/plans'

const TYPE: MachineType = { name: 'brisk-1', vcpu: 1, memoryMb: 2048, pricePerHour: 0.6, billingGrainS: 60 }
const LARGE: MachineType = { name: 'brisk-4', vcpu: 4, memoryMb: 8192, pricePerHour: 2.2, billingGrainS: 60 }
const GATHER_S = 10
const minutes = (n: number) => n * 60_000
/** A base for the whole run, a peak of an hour's length within it. */
const tower = (base: number, peak: number, beforeMin: number, peakMin: number, afterMin: number): LoadProfile => ({
  startDelayMs: 0,
  segments: [
    { to: base, overMs: 0 },
    { to: base, overMs: minutes(beforeMin) },
    { to: peak, overMs: 0 },
    { to: peak, overMs: minutes(peakMin) },
    { to: base, overMs: 0 },
    { to: base, overMs: minutes(afterMin) },
  ],
})
const planOf = (profile: LoadProfile, over: Partial<Plan> = {}) =>
  plan({
    groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile }],
    locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' }],
    placement: { A: { REY: 10_000 } },
    assumedUsersPerVcpu: 100,
    ...over,
  })
const around = (p: Plan, over: Partial<SizingAround> = {}): SizingAround => ({
  journeys: [journey()],
  capacities: [],
  stale: [],
  billedS: GATHER_S + runLengthMs({ plan: p }) / 1000,
  offers: { nimbral: [{ region: 'reyk', types: [TYPE], quota: { most: 40, used: 0 }, bootS: 20 }] },
  ...over,
})
const sized = (p: Plan, over: Partial<SizingAround> = {}) => sizePlan(p, around(p, over))[0]!
const cheap = (p: Plan): Plan => ({ ...p, locations: p.locations.map(l => ({ ...l, choose: 'cheapest' as const })) })

describe('machines for the peak', () => {
  it('come late and leave early where that saves: worked by hand', () => {
    // 200 users for 60 min, 600 for the 20 min from minute 20 on; 100 a machine. All through: 6 machines for 3610 s, 61
    // min each.
    const s = sized(planOf(tower(200, 600, 20, 20, 20)))
    const [through, peak] = s.machines
    expect(through).toMatchObject({ count: 2, carries: 100 })
    expect(through!.shift).toBeUndefined()
    // A boot of 20 s: ordered 20 × 1.5 + 30 = 60 s ahead. From minute 19 until 15 s after minute 40: 1275 s, 22 min.
    expect(peak).toMatchObject({
      count: 4,
      carries: 100,
      shift: { fromMs: minutes(20), toMs: minutes(40), leadMs: 60_000, above: { A: 200 }, others: 200 },
    })
    expect(s.cost).toBeCloseTo(((2 * 61 + 4 * 22) / 60) * 0.6, 9)
    expect(s).toMatchObject({ users: 600, needed: 6, carries: 600 })
    // What it would cost to have them all through is said: 6 × 61 min.
    expect(s.choices.find(c => c.kind === 'safer')).toMatchObject({
      sentence: 'All of them there all through: 6 × brisk-1.',
      change: { allThrough: true },
    })
    expect(s.choices.find(c => c.kind === 'safer')!.cost).toBeCloseTo(((6 * 61 - 2 * 61 - 4 * 22) / 60) * 0.6, 9)
  })

  it('are none where the plan wants every machine all through, keeps them warm, or gives their number', () => {
    const high = tower(200, 600, 20, 20, 20)
    const pinned = planOf(high)
    for (const p of [
      planOf(high, { sizing: { allThrough: true } }),
      planOf(high, { keepMachinesMin: 5 }),
      { ...pinned, locations: pinned.locations.map(l => ({ ...l, machines: 6 })) },
    ]) {
      expect(sized(p).machines.map(m => [m.count, m.shift])).toEqual([[6, undefined]])
    }
  })

  it('are none where nothing is saved: a peak as long as the run, billing by the hour, or users who are no plan’s', () => {
    expect(sized(planOf(tower(200, 600, 0.5, 60, 0.5))).machines).toHaveLength(1)
    expect(
      sized(planOf(tower(200, 600, 5, 40, 5)), {
        offers: {
          nimbral: [
            { region: 'reyk', types: [{ ...TYPE, billingGrainS: 3600 }], quota: { most: 40, used: 0 }, bootS: 20 },
          ],
        },
      }).machines,
    ).toHaveLength(1)
    const arrivals = planOf(tower(200, 600, 20, 20, 20))
    expect(
      sized({
        ...arrivals,
        groups: arrivals.groups.map(g => ({
          ...g,
          drive: { kind: 'arrivals' as const, spacing: 'poisson' as const, mostInFlight: 900 },
        })),
      }).machines,
    ).toHaveLength(1)
  })

  it('that would have to be ordered before the run are gathered with the others, and only leave early', () => {
    // The peak at the beginning: 600 for 10 min, then 200 for 50.
    const s = sized(
      planOf({
        startDelayMs: 0,
        segments: [
          { to: 600, overMs: 0 },
          { to: 600, overMs: minutes(10) },
          { to: 200, overMs: 0 },
          { to: 200, overMs: minutes(50) },
        ],
      }),
    )
    expect(s.machines.map(m => [m.count, m.shift?.leadMs])).toEqual([
      [2, undefined],
      [4, 0],
    ])
    // Gathering and 10 min and 15 s: 625 s, 11 min.
    expect(s.cost).toBeCloseTo(((2 * 61 + 4 * 11) / 60) * 0.6, 9)
  })

  it('leave no machine of the others half empty: one that is there all through takes as many as it has room for', () => {
    // 150 all through, 400 at the peak: 2 machines carry 200, so the peak needs 2 more, not 3.
    const s = sized(planOf(tower(150, 400, 20, 20, 20)))
    expect(s.machines.map(m => m.count)).toEqual([2, 2])
    expect(s.machines[1]!.shift!.above.A).toBeGreaterThanOrEqual(199)
  })

  it('have spares of their own, and share the quota', () => {
    const p = planOf(tower(200, 600, 20, 20, 20), { sizing: { spares: 1 } })
    expect(sized(cheap(p)).machines.map(m => m.count)).toEqual([3, 5])
    // 7 machines are enough all through, 8 in layers are not to be had.
    expect(
      sized(cheap(p), {
        offers: { nimbral: [{ region: 'reyk', types: [TYPE], quota: { most: 7, used: 0 }, bootS: 20 }] },
      }).machines.map(m => m.count),
    ).toEqual([7])
  })

  it('cost no more than 5 % above the best of every cut there is, and never more than all of them all through', () => {
    const shape = fc.record({
      base: fc.integer({ min: 20, max: 400 }),
      more: fc.integer({ min: 50, max: 900 }),
      before: fc.integer({ min: 2, max: 40 }),
      peakMin: fc.integer({ min: 2, max: 40 }),
      after: fc.integer({ min: 0, max: 40 }),
    })
    fc.assert(
      fc.property(shape, ({ base, more, before, peakMin, after }) => {
        const p = planOf(tower(base, base + more, before, peakMin, after))
        const s = sized(p)
        const lengthS = runLengthMs({ plan: p }) / 1000
        const one = (ms: number) => costOf(priceOf(TYPE, {}), ms)
        const whole = Math.ceil((base + more) / 100 - 1e-9) * one((GATHER_S + lengthS) * 1000)
        // Everybody above k comes and goes with the peak, whatever k from the base on is.
        const startS = before * 60
        const lead = startS >= 60 ? 60 : startS + GATHER_S
        let best = whole
        for (let k = base; k < base + more; k++) {
          const billed = lead + Math.min(lengthS, startS + peakMin * 60 + 15) - startS
          best = Math.min(
            best,
            Math.ceil(k / 100 - 1e-9) * one((GATHER_S + lengthS) * 1000) +
              Math.ceil((base + more - k) / 100 - 1e-9) * one(billed * 1000),
          )
        }
        return s.cost <= whole + 1e-9 && s.cost <= Math.max(best / 0.95, best) + 1e-9
      }),
      { numRuns: 120, seed: 11 },
    )
  })

  it('cost no more than 5 % above what HiGHS finds among several types, with the cut left to it', async () => {
    const highs = await loadHighs()
    const types = [TYPE, { ...TYPE, name: 'brisk-2', vcpu: 2, pricePerHour: 1.05 }, LARGE]
    fc.assert(
      fc.property(
        fc.integer({ min: 50, max: 700 }),
        fc.integer({ min: 100, max: 1500 }),
        fc.integer({ min: 5, max: 30 }),
        (base, more, peakMin) => {
          const p = cheap(planOf(tower(base, base + more, 15, peakMin, 15)))
          const s = sized(p, {
            offers: { nimbral: [{ region: 'reyk', types, quota: { most: 400, used: 0 }, bootS: 20 }] },
          })
          // Machines all through carry the first k users, those for the peak all others; k may be anything from the
          // base on.
          const through = types.map(t => costOf(priceOf(t, {}), (GATHER_S + (30 + peakMin) * 60) * 1000))
          const peak = types.map(t => costOf(priceOf(t, {}), (60 + peakMin * 60 + 15) * 1000))
          const sum = (of: string, values: readonly number[]) =>
            values.map((v, i) => `+ ${v.toFixed(6)} ${of}${i}`).join(' ')
          const carry = types.map(t => 100 * t.vcpu)
          const oracle = highs.solve(
            `Minimize\n obj: ${sum('x', through)} ${sum('y', peak)}\nSubject To\n through: ${sum('x', carry)} - k >= 0\n peak: ${sum('y', carry)} + k >= ${base + more}\nBounds\n ${base} <= k <= ${base + more}\nGeneral\n ${types.flatMap((_, i) => [`x${i}`, `y${i}`]).join(' ')}\nEnd`,
          )
          return (
            oracle.Status === 'Optimal' &&
            s.cost >= oracle.ObjectiveValue - 1e-4 &&
            s.cost <= oracle.ObjectiveValue / 0.95 + 1e-4
          )
        },
      ),
      { numRuns: 60, seed: 5 },
    )
  }, 60_000)

  it('are searched for among types as well', () => {
    const p = cheap(planOf(tower(350, 900, 20, 20, 20)))
    const s = sized(p, {
      offers: { nimbral: [{ region: 'reyk', types: [TYPE, LARGE], quota: { most: 40, used: 0 }, bootS: 20 }] },
    })
    expect(s.machines.filter(m => !m.shift).map(m => [m.type.name, m.count])).toEqual([['brisk-4', 1]])
    expect(s.machines.filter(m => m.shift).reduce((sum, m) => sum + m.count * m.carries, 0)).toBeGreaterThanOrEqual(500)
    expect(s.carries).toBeGreaterThanOrEqual(900)
  })

  it('are ordered half a boot and half a minute earlier than the usual boot needs', () => {
    expect(leadMsOf({ bootS: 60 })).toBe(120_000)
  })
})

describe('what a sheet says of them', () => {
  const p = planOf(tower(200, 600, 20, 20, 20))
  const { offers, billedS } = around(p)
  const sizing = sizePlan(p, around(p))

  it('is that they come late, what that saves, and how to have them all through', () => {
    const surroundings = {
      target: target(),
      journeys: [journey()],
      feeds: {},
      networks: [],
      clients: [],
      offers,
      sizing,
      lengthMs: runLengthMs({ plan: p }),
      now: '2026-01-01T00:00:00.000Z',
    }
    expect(problemsOf(p, surroundings).find(f => f.code === 'joins-late')).toMatchObject({
      weight: 'toKnow',
      sentence: 'REY: 4 machines are ordered while the run loads, for its peak only.',
      fix: { kind: 'setSizing', allThrough: true },
      price: '+€1.56',
    })
    const all = { ...p, sizing: { allThrough: true } }
    expect(
      problemsOf(all, { ...surroundings, sizing: sizePlan(all, { ...around(p), billedS }) }).map(f => f.code),
    ).not.toContain('joins-late')
  })

  it('is a ceiling that is lower while they are not there', () => {
    expect(ceilingOverRun(sizing, 600)).toEqual([
      { fromMs: 0, users: 200 },
      { fromMs: minutes(20), users: 600 },
      { fromMs: minutes(40), users: 200 },
    ])
    expect(ceilingOverRun([], 600)).toEqual([])
  })
})

describe('the span of a user', () => {
  it('is from its first coming to its last going', () => {
    const level = fc.integer({ min: 0, max: 30 })
    fc.assert(
      fc.property(
        fc.array(fc.record({ to: level, overMs: fc.constantFrom(0, 1, 700, 1000, 60_000) }), {
          minLength: 1,
          maxLength: 8,
        }),
        fc.integer({ min: 0, max: 5000 }),
        (segments, startDelayMs) => {
          const profile = { startDelayMs, segments }
          return (
            staysOf(profile).every((stays, u) => {
              const span = spanOf(profile, u + 1)
              // Stays that vanish count for the span, which may so be wider.
              return (
                stays.length === 0 ||
                (span !== undefined && span.startMs <= stays[0]!.startMs && span.stopMs >= stays.at(-1)!.stopMs)
              )
            }) && spanOf(profile, peakOf(profile) + 1) === undefined
          )
        },
      ),
    )
  })
})

describe('users at a location with machines for the peak', () => {
  /** Two groups, two locations; everything sized, then dealt. */
  const run = (p: Plan) => {
    const sizes = sizePlan(p, {
      ...around(p),
      offers: {
        nimbral: ['reyk', 'tavira'].map(region => ({ region, types: [TYPE], quota: { most: 40, used: 0 }, bootS: 20 })),
      },
    })
    const fleet: FleetOrder[] = sizes.flatMap(s =>
      s.machines.map(m => ({
        location: s.code,
        type: m.type,
        machines: m.count,
        carries: m.carries,
        ...(m.shift ? { shift: m.shift } : {}),
      })),
    )
    const document = runDocument({ plan: p, fleet })
    const generators = p.locations.map(l =>
      fleet.filter(o => o.location === l.code).flatMap(o => Array.from({ length: o.machines }, () => o.carries!)),
    )
    const posts = generators.flatMap((g, location) =>
      g.map((carries, generator) => ({ post: { location, generator }, carries })),
    )
    return {
      document,
      slices: posts.map(({ post, carries }) => ({
        carries,
        shift: shiftAt(document, post),
        users: sliceFor(document, generators, post).users,
      })),
    }
  }
  const two = (a: LoadProfile, b: LoadProfile) =>
    plan({
      groups: [
        { letter: 'A', name: 'A', journeyId: 'look', profile: a },
        { letter: 'B', name: 'B', journeyId: 'look', profile: b },
      ],
      assumedUsersPerVcpu: 100,
      locations: [
        { code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 'auto' },
        { code: 'TAV', provider: 'nimbral', region: 'tavira', machineType: 'brisk-1', machines: 'auto' },
      ],
      placement: { A: { REY: 6000, TAV: 'rest' }, B: { REY: 5000, TAV: 5000 } },
      networks: { A: { REY: { 'copper-line': 5000 } } },
    })

  it('are each played once, by machines of the peak only while those are there, and by nobody beyond what it carries', () => {
    const { slices, document } = run(
      two(tower(300, 900, 20, 20, 20), {
        startDelayMs: minutes(10),
        segments: [
          { to: 200, overMs: minutes(5) },
          { to: 200, overMs: minutes(30) },
          { to: 0, overMs: minutes(2) },
        ],
      }),
    )
    const late = slices.filter(s => s.shift)
    expect(late.length).toBeGreaterThan(0)
    expect(slices.flatMap(s => s.users.map(u => `${u.group}/${u.number}`)).sort()).toEqual(
      document.plan.groups
        .flatMap((g, i) => Array.from({ length: peakOf(g.profile) }, (_, u) => `${i}/${u + 1}`))
        .sort(),
    )
    for (const { users, shift } of late)
      for (const u of users)
        for (const stay of u.stays) {
          expect(stay.startMs).toBeGreaterThanOrEqual(shift!.fromMs)
          expect(stay.stopMs).toBeLessThanOrEqual(shift!.toMs)
        }
    // At every minute; whole users are dealt, so one more than the exact share may fall to a machine.
    for (const { users, carries } of slices)
      for (let at = 0; at < minutes(60); at += 30_000) {
        expect(users.filter(u => u.stays.some(s => s.startMs <= at && at < s.stopMs)).length).toBeLessThanOrEqual(
          Math.ceil(carries) + 1,
        )
      }
  })

  it('stay in the mix of their networks, in both layers', () => {
    const { slices } = run(
      two(tower(300, 900, 20, 20, 20), { startDelayMs: 0, segments: [{ to: 0, overMs: minutes(60) }] }),
    )
    const atRey = slices.flatMap(s =>
      s.users.filter(u => u.group === 0).map(u => ({ network: u.network, late: s.shift !== undefined })),
    )
    for (const late of [false, true]) {
      const here = atRey.filter(u => u.late === late && (u.network === 'copper-line' || u.network === 'direct'))
      expect(here.length).toBeGreaterThan(0)
    }
    const copper = atRey.filter(u => u.network === 'copper-line').length
    expect(Math.abs(copper - (900 * 0.6) / 2)).toBeLessThanOrEqual(4)
  })

  it('are lowered together when fewer machines can be had', () => {
    const { document } = run(planOf(tower(200, 600, 20, 20, 20)))
    const half = goWith(
      document,
      document.fleet.map(o => (o.shift ? o.machines : 1)),
    )!
    expect(half.wentWith).toMatchObject({ machines: 5, wanted: 6, factor: 0.5 })
    expect(levelAt(half.plan.groups[0]!.profile, minutes(30))).toBe(300)
    expect(half.fleet.find(o => o.shift)!.shift!.above).toEqual({ A: 100 })
  })
})

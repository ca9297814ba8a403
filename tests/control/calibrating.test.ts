/**
 * A calibration as it is led from second to second: levels, orders, what is not used; stress told by name; users of a
 * lost generator; what a run suggests.
 */
import { Calibrating } from '../../control/run/calibrating'
import { StressWatch } from '../../core/soundness/stress-watch'
import { saySizedBy, type SizedBy } from '../../core/fleet/sized-by'
import { calibrationDocument, verifyDocument } from '../../control/calibration/run-document'
import { estimate, sayVerified } from '../../core/capacity/estimate'
import { NO_HEALTH, SIGNAL_ORDER, type Health } from '../../core/capacity/signals'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { RunDocument } from '../../core/run/document'
import { suggestionsOf } from '../../core/soundness/suggestions'
import { journey, offers, plan, runDocument, target } from '../build/plans'

const FIGURES: SecondFigures = {
  second: 0,
  final: true,
  usersByLocation: [],
  usersByGroup: [],
  startedByGroup: [],
  passes: 0,
  notStarted: 0,
  started: 0,
  right: 0,
  failed: 0,
  cut: 0,
  bytes: 0,
  failures: {},
  all: [0, 0, null, null, null],
  steps: {},
  locations: {},
  generators: [],
}
const document = (machines = 1, most = 5000, mostStolenShare?: number): RunDocument =>
  calibrationDocument(journey(), undefined, 3, {
    batch: 1,
    item: 0,
    provider: 'nimbral',
    offer: offers().nimbral![0]!,
    type: offers().nimbral![0]!.types[0]!,
    machines,
    code: 'REY',
    target: target(),
    sink: true,
    mostStolenShare,
    most,
    seed: 1,
  })

/** Plays a machine whose CPU rises straight with its users. */
function play(
  calibrating: Calibrating,
  machines: number,
  cpu: (users: number, machine: number) => number,
  until = 400,
  stolen: (second: number) => number = () => 0,
): { users: number[], seconds: number } {
  const asked: number[] = []
  let users = 0
  for (let second = 0; second < until && !calibrating.over; second++) {
    for (const order of calibrating.step(second)) users = order.users / machines
    asked.push(users)
    calibrating.note([
      {
        ...FIGURES,
        second,
        passes: (users * machines) / 0.7,
        right: (users * machines * 2) / 0.7,
        bytes: 1000,
        health: Array.from({ length: machines }, (_, m): [number, ...number[]] => [
          m,
          ...SIGNAL_ORDER.map(
            s => ({ ...NO_HEALTH, cpuShare: cpu(users, m) * (1 + 4 * stolen(second)), stolenShare: stolen(second) })[s],
          ),
        ]),
      },
    ])
  }
  return { users: asked, seconds: asked.length }
}

describe('a calibration', () => {
  it('is a run of its own: one group that is called, one machine, nothing to judge', () => {
    const { plan: p, fleet, calibration } = document()
    expect(p).toMatchObject({
      groups: [{ drive: { kind: 'requests', mostUsers: 5000 } }],
      locations: [{ code: 'REY', machineType: 'brisk-1', machines: 1 }],
      objectives: [],
      rehearse: true,
    })
    expect(fleet).toMatchObject([{ location: 'REY', machines: 1 }])
    // 20 requests/s per vCPU at first: passes of two steps, each 150 ms of pause and 100 ms taken for an answer.
    expect(calibration).toMatchObject({ kind: 'steps', network: 'direct', rules: { first: 5, most: 5000 } })
  })

  it('warms up, goes from low levels to those near the limit, confirms, and finds what is true', () => {
    const calibrating = new Calibrating(document(), { cores: 1, memoryBytes: 1, descriptors: 1 })
    const { users, seconds } = play(calibrating, 1, u => 0.05 + (0.7 * u) / 400)
    expect(calibrating.over).toBe(true)
    const { estimate: found, levels } = calibrating.evidence()
    expect(found).toMatchObject({ outcome: 'measured', binds: 'cpuShare' })
    expect(found.users / 400).toBeCloseTo(1, 1)
    expect(levels.at(-1)!.seconds.length).toBeGreaterThanOrEqual(30)
    // Users come over some seconds, never all in one.
    const rises = users
      .slice(1)
      .map((n, i) => n - users[i]!)
      .filter(d => d > 100)
    expect(Math.max(0, ...rises)).toBeLessThan(400)
    expect(seconds).toBeLessThanOrEqual(185)
  })

  it('verifies a mix at one level: everybody comes, stays in proportion, and the level is judged', () => {
    const mixed = plan({
      groups: ['A', 'B'].map(letter => ({ ...plan().groups[0]!, letter, name: letter })),
      placement: { A: { REY: 10_000 }, B: { REY: 10_000 } },
    })
    const about = {
      batch: 1,
      item: 0,
      provider: 'nimbral',
      offer: offers().nimbral![0]!,
      type: offers().nimbral![0]!.types[0]!,
      machines: 1,
      code: 'REY',
      target: target(),
      sink: true,
      most: 5000,
      seed: 1,
    }
    const calibrating = new Calibrating(verifyDocument(mixed, [60, 20], [journey()], [], {}, about), {
      cores: 1,
      memoryBytes: 1,
      descriptors: 1,
    })
    const asked: number[][] = []
    for (let second = 0; second < 200 && !calibrating.over; second++) {
      const orders = calibrating.step(second)
      if (orders.length > 0) asked.push(orders.map(o => o.users))
      calibrating.note([
        {
          ...FIGURES,
          second,
          passes: 80,
          right: 80,
          health: [[0, ...SIGNAL_ORDER.map(s => (s === 'cpuShare' ? 0.6 : 0))]],
        },
      ])
    }
    expect(calibrating.over).toBe(true)
    expect(asked.at(-1)).toEqual([60, 20])
    // Once there, nobody is sent away between warming up and the level that counts.
    for (const [i, [a, b]] of asked.entries())
      if (i > 0) expect([a! >= asked[i - 1]![0]!, b! >= asked[i - 1]![1]!]).toEqual([true, true])
    expect(sayVerified(calibrating.evidence())).toEqual({
      held: true,
      sentence: 'Borne: 80 users in their mix bring CPU to 60 %, limit 75 %.',
    })
  })

  it('sets seconds aside in which neighbours took CPU, and holds levels so much longer', () => {
    const calibrating = new Calibrating(document(), { cores: 1, memoryBytes: 1, descriptors: 1 })
    // Every third second 10 % is stolen, and what runs then costs 40 % more.
    const { seconds } = play(
      calibrating,
      1,
      u => 0.05 + (0.7 * u) / 400,
      400,
      s => (s % 3 === 0 ? 0.1 : 0),
    )
    const { estimate: found, levels } = calibrating.evidence()
    expect(found.outcome).toBe('measured')
    expect(Math.abs(found.users / 400 - 1)).toBeLessThan(0.05)
    expect(levels.every(l => l.seconds.every(s => s.health.stolenShare === 0))).toBe(true)
    expect(levels.at(-1)!.seconds).toHaveLength(30)
    expect(levels.at(-1)!.aside).toBeGreaterThanOrEqual(13)
    expect(seconds).toBeGreaterThanOrEqual(levels.reduce((sum, l) => sum + 6 + l.seconds.length + (l.aside ?? 0), 0))
  })

  it('ends without a figure where it is never quiet, when its patience is used up', () => {
    const calibrating = new Calibrating(document(), { cores: 1, memoryBytes: 1, descriptors: 1 })
    const { seconds } = play(
      calibrating,
      1,
      u => 0.05 + (0.7 * u) / 400,
      900,
      s => (s > 60 ? 0.1 : 0),
    )
    expect(calibrating.evidence().estimate).toMatchObject({ outcome: 'inconclusive', why: 'stolen', users: 0 })
    // Two minutes of waiting, beside the level itself.
    expect(seconds).toBeGreaterThan(170)
    expect(seconds).toBeLessThan(215)
  })

  it('takes every second where that is wished: what neighbours always take is part of what a machine carries', () => {
    const calibrating = new Calibrating(document(1, 5000, 1), { cores: 1, memoryBytes: 1, descriptors: 1 })
    const { seconds } = play(
      calibrating,
      1,
      u => 0.05 + (0.7 * u) / 400,
      400,
      () => 0.1,
    )
    const { estimate: found, levels } = calibrating.evidence()
    expect(levels.every(l => l.aside === undefined)).toBe(true)
    expect(seconds).toBeLessThanOrEqual(185)
    // All is 40 % dearer: 1.4 × (0.05 + 0.7 u ÷ 400) = 0.75 at 278 users. What is stolen, twice its limit, neither
    // binds nor spoils it.
    expect(found).toMatchObject({ outcome: 'measured', binds: 'cpuShare' })
    expect(Math.abs(found.users / 277.6 - 1)).toBeLessThan(0.05)
    const half = new Calibrating(document(1, 5000, 0.05), { cores: 1, memoryBytes: 1, descriptors: 1 })
    play(
      half,
      1,
      u => 0.05 + (0.7 * u) / 400,
      400,
      s => (s % 3 === 0 ? 0.1 : 0.04),
    )
    expect(half.evidence().levels.every(l => l.aside! > 0 && l.seconds.every(s => s.health.stolenShare === 0.04))).toBe(
      true,
    )
  })

  it('of siblings calls each to the same level, and tells them apart', () => {
    const calibrating = new Calibrating(document(2), { cores: 1, memoryBytes: 1, descriptors: 1 })
    play(calibrating, 2, (u, m) => 0.05 + (0.7 * u) / (m === 0 ? 400 : 300))
    const { perMachine } = calibrating.evidence()
    expect(perMachine.map(n => Math.round(n / 20) * 20)).toEqual([400, 300])
  })

  it('ends early at a level far beyond the limits, and comes back', () => {
    const calibrating = new Calibrating(document(), { cores: 1, memoryBytes: 1, descriptors: 1 })
    play(calibrating, 1, u => (u <= 25 ? 0.1 : 3))
    const { levels, estimate: found } = calibrating.evidence()
    expect(levels.some(l => l.users > 25 && l.seconds.length < 8)).toBe(true)
    expect(found.users).toBeGreaterThan(24)
    expect(found.users).toBeLessThan(28)
  })

  it('takes no second in which a machine was not heard', () => {
    const calibrating = new Calibrating(document(2), { cores: 1, memoryBytes: 1, descriptors: 1 })
    for (let second = 0; second < 60; second++) {
      calibrating.step(second)
      calibrating.note([{ ...FIGURES, second, passes: 1, health: [[0, ...SIGNAL_ORDER.map(() => 0.1)]] }])
    }
    expect(calibrating.evidence().levels.every(l => l.seconds.length === 0)).toBe(true)
    expect(estimate(calibrating.evidence().levels)).toMatchObject({ outcome: 'inconclusive', why: 'fewLevels' })
  })
})

const by = (over: Partial<SizedBy> = {}): SizedBy => ({
  location: 'REY',
  basis: 'calibrated',
  capacities: [
    {
      id: 'c',
      origin: 'calibrated',
      journeyName: 'Look around',
      machineType: 'brisk-1',
      users: 100,
      cpu: { users: 100, base: 0.05 },
      runId: 12,
      at: 1,
    },
  ],
  ...over,
})

describe('a generator over its limits', () => {
  const second = (n: number, ratio: number): SecondFigures => ({
    ...FIGURES,
    second: n,
    generators: [
      [0, ratio, 0],
      [1, 0.5, 0],
    ],
  })
  it('is told by name after five seconds, once, with what it was sized by', () => {
    const watch = new StressWatch(runDocument({ sizedBy: [by()] }))
    const generators = [
      { name: 'REY-1', location: 0 },
      { name: 'TAV-1', location: 1 },
    ]
    const told = Array.from({ length: 12 }, (_, n) => watch.note([second(n, n < 3 ? 0.9 : 1.2)], generators)).flat()
    expect(told).toEqual([
      'REY-1 is over its limit for 5 s: CPU 90 %, limit 75 %. It was sized by what is calibrated: 100 users of Look around on brisk-1 (run 12).',
    ])
    // Well again for a while, then over: told anew.
    expect(
      Array.from({ length: 40 }, (_, n) => watch.note([second(12 + n, n < 31 ? 0.5 : 1.3)], generators)).flat(),
    ).toHaveLength(1)
  })
  it('says when nobody has measured anything', () => {
    expect(saySizedBy(runDocument(), 'REY')).toBe('It was sized by an assumption: 20 users per vCPU.')
  })
})

describe('what a run suggests', () => {
  const generators = [{ name: 'REY-1', location: 0 }]
  const run = (cpu: number, users: number): Parameters<typeof suggestionsOf> => [
    runDocument({ plan: plan(), sizedBy: [by()], fleet: [{ ...runDocument().fleet[0]!, carries: 80 }] }),
    generators,
    new Map([['REY-1', Array.from({ length: 30 }, (): Health => ({ ...NO_HEALTH, cpuShare: cpu }))]]),
    Array.from({ length: 30 }, (_, second) => ({ ...FIGURES, second, usersByLocation: [users, 0] })),
  ]
  it('is another capacity, where its CPU was not what was foretold', () => {
    // Foretold for 80 of 100 users: 0.05 + 0.7 × 0.8 = 0.61. At 0.53 the same users leave room: 0.56 ÷ 0.48 of 100.
    expect(suggestionsOf(...run(0.53, 80))).toMatchObject([
      {
        capacityId: 'c',
        was: 100,
        sentence: 'By the CPU of its brisk-1, this run suggests 117 users rather than 100.',
      },
    ])
    expect(suggestionsOf(...run(0.61, 80))).toEqual([])
  })
  it('is nothing where the load was too little to say', () => {
    expect(suggestionsOf(...run(0.2, 10))).toEqual([])
  })
})

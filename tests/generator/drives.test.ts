/**
 * The three drives on a real load: what was due, what was started and why the rest was not; users called and sent away;
 * passes counted; networks felt.
 */
import { createServer } from 'node:http'
import type { AddressInfo } from 'node:net'
import { measuresOf } from '../../core/journey/measures'
import { SeriesSum } from '../../core/merge/series-sum'
import { figuresOf } from '../../core/merge/figures'
import type { Group, Plan } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import { assignedLoadsOf, partsOf, sliceOfParts } from '../../core/run/assigned-load'
import { seriesOf } from '../../core/run/series'
import { momentsOf, sliceFor } from '../../core/run/slice'
import { PRESETS } from '../../core/network/presets'
import { HealthReader } from '../../generator/users/health'
import { Load, NO_SUPPLIES } from '../../generator/users/load'
import { addEntries, openFrame } from '../../protocol/frame'
import { hill, journey, plan, runDocument, step, target } from '../build/plans'

let delayMs = 0
const received: { path: string, at: number }[] = []
const server = createServer((request, response) => {
  received.push({ path: request.url!, at: performance.now() })
  setTimeout(() => response.end('ok'), delayMs)
})
let host = ''
beforeAll(async () => {
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  host = `127.0.0.1:${(server.address() as AddressInfo).port}`
})
afterAll(() => {
  server.close()
  server.closeAllConnections()
})
beforeEach(() => {
  received.length = 0
  delayMs = 0
})
const health = new HealthReader({
  hostname: '',
  platform: '',
  node: '',
  cores: 1,
  memoryBytes: 2 ** 33,
  descriptors: 1000,
})
afterAll(() => health.stop())

const THINKING = [
  step({ name: 'one', think: { kind: 'fixed', ms: 100 } }),
  step({ name: 'two', think: { kind: 'fixed', ms: 100 } }),
]

function begin(
  group: Partial<Group>,
  over: Partial<Plan> = {},
  round = THINKING,
  generators: number[][] = [[1], []],
  more: Partial<RunDocument> = {},
) {
  const p = plan({
    groups: [{ letter: 'A', name: 'A', journeyId: 'look', profile: hill(10, 0, 2, 0), ...group }],
    placement: { A: { REY: 'rest' } },
    ...over,
  })
  const document = runDocument({
    target: target({
      baseUrl: `http://${host}`,
      approval: { hosts: [host], mostUsers: 99, until: '2999', contact: 'x' },
    }),
    journeys: [journey({ round })],
    plan: p,
    networks: [...PRESETS],
    ...more,
  })
  const series = seriesOf(document)
  const sums = series.map(() => new SeriesSum())
  const present: number[] = []
  let ended = 0
  const startAt = performance.now() + 30
  let load!: Load
  const finished = new Promise<void>((resolve) => {
    load = new Load(
      {
        runId: '1',
        document,
        slice: sliceFor(document, generators, { location: 0, generator: 0 }),
        supplies: NO_SUPPLIES,
        incarnation: 1,
        worker: 0,
        leaveMs: 500,
        health,
        onExemplar() {
          /* not kept */
        },
        onFrame: ({ bytes }) => {
          const frame = openFrame(bytes)
          present.push(frame.top.users)
          addEntries(
            frame,
            n => sums[n]!,
            n => series[n]!.kind === 'request',
          )
        },
        onFinished: () => {
          ended = performance.now() - startAt
          resolve()
        },
      },
      startAt,
    )
    load.run()
  })
  const whole = () => {
    const sum = new SeriesSum()
    for (const [n, s] of sums.entries()) if (series[n]!.kind === 'request') sum.add(s)
    return sum
  }
  return {
    document,
    load,
    finished,
    whole,
    present,
    sums,
    series,
    group: p.groups[0]!,
    seed: p.seed,
    startAt,
    lasted: () => ended,
  }
}
const wait = (ms: number) =>
  new Promise<void>((done) => {
    setTimeout(done, ms)
  })

describe('arrivals', () => {
  const drive = { kind: 'arrivals' as const, spacing: 'poisson' as const, mostInFlight: 100 }

  it('start every pass at its moment, each a user who goes once round; the target counts the same', async () => {
    const run = begin({ drive, profile: hill(60, 0, 2, 0) })
    await run.finished
    const due = momentsOf(run.group, run.seed)
    const sum = run.whole()
    expect(due.length).toBeGreaterThan(80)
    expect([sum.passes, sum.notStartedByReason()]).toEqual([due.length, {}])
    const first = received.filter(r => r.path === '/timetable')
    expect(first.length).toBe(sum.started)
    // Who came in the last moments leaves before the second step; nobody goes round twice.
    expect(sum.started).toBeGreaterThan(due.length * 1.7)
    expect(sum.started).toBeLessThanOrEqual(due.length * 2)
    // Within 1 % of the plan's rate: all of it, in fact, and no later than a timer.
    const ones = run.sums[0]!
    expect(ones.started).toBe(due.length)
    expect(ones.timings.intended.percentileUs(0.5)!).toBeLessThan(20_000)
  })

  it('do not start what is over the ceiling, and count it with its reason', async () => {
    delayMs = 400
    const run = begin({ drive: { ...drive, spacing: 'even', mostInFlight: 5 }, profile: hill(50, 0, 1, 0) })
    await run.finished
    const sum = run.whole()
    expect(sum.passes + (sum.notStartedByReason().ceiling ?? 0)).toBe(50)
    expect(sum.passes).toBeLessThan(20)
    expect(Math.max(...run.present)).toBeLessThanOrEqual(5)
  })

  it('of a lost generator start here from then on, beside one’s own; when all is stopped, those still due are counted', async () => {
    const two = [[1, 1], []]
    const go = async (stops: boolean) => {
      const run = begin({ drive: { ...drive, spacing: 'even' }, profile: hill(60, 0, 2, 0) }, {}, THINKING, two)
      const [own, theirs] = [0, 1].map(
        generator => sliceFor(run.document, two, { location: 0, generator }).arrivals[0]!,
      )
      await wait(830)
      const parts = partsOf(assignedLoadsOf(run.document, two)[0]![1]!.pieces)
      const takenAtMs = performance.now() - run.startAt
      run.load.takeOver(sliceOfParts(run.document, two, parts))
      await wait(400)
      if (stops) run.load.drain()
      await run.finished
      const late = [...theirs!.atMs].filter(ms => ms >= takenAtMs).length
      return { sum: run.whole(), passes: own!.atMs.length + late, late }
    }
    const whole = await go(false)
    // One may have been due between the two looks at the clock.
    expect([whole.passes, whole.passes - 1]).toContain(whole.sum.passes)
    expect(whole.sum.notStartedByReason()).toEqual({})
    expect(whole.late).toBeGreaterThan(25)
    const stopped = await go(true)
    expect([stopped.passes, stopped.passes - 1]).toContain(
      stopped.sum.passes + stopped.sum.notStartedByReason().stopped!,
    )
    expect(stopped.sum.notStartedByReason().stopped).toBeGreaterThan(20)
  })

  it('count from when a pass was due, so that a stalled generator cannot hide a queue', async () => {
    const run = begin({ drive: { ...drive, spacing: 'even' }, profile: hill(20, 0, 1, 0) })
    await wait(300)
    // The generator stands still for 400 ms.
    const until = performance.now() + 400
    while (performance.now() < until);
    await run.finished
    const { right, intended } = run.sums[0]!.timings
    expect(intended.percentileUs(0.9)!).toBeGreaterThan(250_000)
    expect(right.percentileUs(0.5)!).toBeLessThan(100_000)
  })

  it('that a stop comes before are counted as stopped', async () => {
    const run = begin({ drive: { ...drive, spacing: 'even' }, profile: hill(20, 0, 5, 0) })
    await wait(800)
    run.load.drain()
    await run.finished
    const sum = run.whole()
    expect(sum.passes + sum.notStartedByReason().stopped!).toBe(100)
  })
})

describe('a held rate', () => {
  const held = {
    drive: { kind: 'requests' as const, fewestUsers: 1, mostUsers: 60 },
    profile: {
      startDelayMs: 0,
      segments: [
        { to: 60, overMs: 2000 },
        { to: 60, overMs: 3000 },
      ],
    },
  }

  it('is driven by its profile without a word from anybody, through its ramp and its last second', async () => {
    const run = begin(held)
    await run.finished
    const perSecond = [0, 1, 2, 3, 4].map(
      s => received.filter(r => r.at - run.startAt >= s * 1000 && r.at - run.startAt < (s + 1) * 1000).length,
    )
    // Answers were taken to need 100 ms and need 1: more is sent than wished until somebody says so, by no more than
    // that.
    expect(perSecond[0]! + perSecond[1]!).toBeGreaterThan(45)
    for (const n of perSecond.slice(2)) {
      expect(n).toBeGreaterThan(50)
      expect(n).toBeLessThan(150)
    }
    expect(run.present.at(-1)).toBe(0)
    expect(received.length).toBe(run.whole().started)
  }, 15_000)

  it('follows what it is told a user takes between two requests, and holds no rate above the most', async () => {
    const run = begin({ ...held, profile: hill(60, 0, 4, 0) })
    await wait(100)
    // A pause of 100 ms and an answer of 1 ms.
    run.load.holdRate(0, 0.101, 60)
    await wait(2000)
    run.load.holdRate(0, 0.101, 20)
    await run.finished
    const between = (from: number, to: number) =>
      received.filter(r => r.at - run.startAt >= from && r.at - run.startAt < to).length
    expect(between(500, 2000)).toBeGreaterThan(65)
    expect(between(500, 2000)).toBeLessThan(115)
    expect(between(2500, 4000)).toBeGreaterThan(18)
    expect(between(2500, 4000)).toBeLessThan(45)
    expect(run.present.slice(2, 4)).toEqual([2, 2])
  })

  it('of a calibration is its controller’s alone: users are called by their numbers, and the highest leave first', async () => {
    const run = begin(
      { drive: { kind: 'requests', fewestUsers: 1, mostUsers: 30 }, profile: hill(50, 0, 3, 0) },
      {},
      THINKING,
      [[1], []],
      { calibration: {} as never },
    )
    await wait(100)
    run.load.steer(0, 12)
    await wait(1000)
    run.load.steer(0, 4)
    await run.finished
    expect(run.present.slice(0, 3)).toEqual([12, 4, 4])
    expect(run.present.at(-1)).toBe(0)
    expect(received.length).toBe(run.whole().started)
  })
})

describe('a generator that stood still', () => {
  const still = (ms: number) => {
    const until = performance.now() + ms
    while (performance.now() < until);
  }

  it('reads what has come meanwhile before it gives anything up: what was answered in time is no time-out', async () => {
    delayMs = 20
    const run = begin({ profile: hill(5, 0, 2, 0) }, {}, [
      step({ name: 'one', think: { kind: 'fixed', ms: 50 }, timeoutMs: 400 }),
    ])
    await wait(300)
    still(900)
    await run.finished
    const sum = run.whole()
    expect(sum.failuresByKind().timeout).toBeUndefined()
    // Those under way when it stood still: it cannot say what they took, and they are nobody else’s failures.
    expect(sum.failuresByKind().ownDelay ?? 0).toBeLessThanOrEqual(5)
    expect(sum.timings.failed.count).toBe(0)
    expect(figuresOf(sum).failureShare).toBe(0)
    expect(received.length).toBe(sum.started)
  })

  it('still gives up what was never answered', async () => {
    delayMs = 5000
    const run = begin({ profile: hill(3, 0, 1, 0) }, {}, [
      step({ name: 'one', think: { kind: 'fixed', ms: 50 }, timeoutMs: 300 }),
    ])
    await wait(200)
    still(600)
    await run.finished
    expect(run.whole().failuresByKind().timeout).toBeGreaterThanOrEqual(3)
    expect(run.whole().failuresByKind().ownDelay).toBeUndefined()
  })
})

describe('users', () => {
  it('leave after a number of passes, and the load is over when all have', async () => {
    const run = begin({ passes: 3, profile: hill(5, 0, 30, 0) })
    await run.finished
    expect(run.whole()).toMatchObject({ passes: 15, started: 30, right: 30 })
    expect(run.lasted()).toBeLessThan(5000)
  })

  it('think as many times as long as is asked', async () => {
    const counts = await Promise.all(
      [1, 3].map(async (thinkScale) => {
        const run = begin({ thinkScale, profile: hill(10, 0, 2, 0) })
        await run.finished
        return run.whole().started
      }),
    )
    expect(counts[0]! / counts[1]!).toBeGreaterThan(2.2)
    expect(counts[0]! / counts[1]!).toBeLessThan(3.6)
  })

  it('of a cell with a mix are on their networks in its parts, and their connections tell', async () => {
    const run = begin(
      { profile: hill(20, 0, 2, 0) },
      { networks: { A: { REY: { 'commuter-mobile': 5000, 'city-fibre': 2500 } } } },
    )
    await run.finished
    const measures = measuresOf(journey({ round: THINKING })).length
    const connects = ['commuter-mobile', 'city-fibre', 'direct'].map((network) => {
      const at = run.series.findIndex(s => s.network === network)
      const sum = new SeriesSum()
      for (let m = 0; m < measures; m++) sum.add(run.sums[at + m]!)
      return [sum.timings.connect.count, sum.timings.connect.percentileUs(0.5)! / 1000] as const
    })
    expect(connects.map(c => c[0])).toEqual([10, 5, 5])
    expect(connects[0]![1]).toBeGreaterThan(45)
    expect(connects[0]![1]).toBeLessThan(95)
    expect(connects[1]![1]).toBeLessThan(30)
    expect(connects[2]![1]).toBeLessThan(20)
  })
})

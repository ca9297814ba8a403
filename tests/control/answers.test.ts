/**
 * Answers of whole merges: they claim no more than what was there, and a target that stalls gets no yes. Frames as
 * generators would send them; expected values are counted by hand.
 */
import { join } from 'node:path'
import { NO_HEALTH } from '../../core/capacity/signals'
import type { Group, Objective, Plan } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import { seriesOf } from '../../core/run/series'
import { answerSoFar } from '../../core/objectives/so-far'
import { RunMerge } from '../../control/ingest/run-merge'
import { readRun, windowFigures } from '../../control/ingest/run-reader'
import { summarise, type RunFacts } from '../../core/result/summary'
import { Recorder } from '../../protocol/recorder'
import { NOT_ON_THE_LINE } from '../../protocol/series-second'
import { ownFolder } from '../build/folder'
import { journey, plan, runDocument, step } from '../build/plans'
import { runFacts } from '../build/run-facts'

const folder = ownFolder()
let files = 0
const HOLD_S = 60

/** One generator's frames, second by second. `answers`: whether what is begun in a second is answered, 50 ms later. */
interface Playing {
  location: number
  users: (second: number) => number
  series: number
  perUser?: number
  answers?: (second: number) => boolean
  until?: number
  passes?: boolean
}

function framesOf(p: Playing, groups: number, group = 0): Uint8Array[] {
  const frames: Uint8Array[] = []
  const recorder = new Recorder({
    incarnation: p.location + 1,
    worker: p.series,
    groups,
    startedAt: 0,
    health: () => NO_HEALTH,
    onFrame: f => frames.push(f.bytes),
  })
  const until = p.until ?? HOLD_S
  for (let s = 0; s < until; s++) {
    recorder.present[group] = p.users(s)
    for (let i = 0; i < p.users(s) * (p.perUser ?? 1); i++) {
      recorder.started(p.series, s * 1000 + 10)
      if (p.passes) recorder.passBegan(p.series, s * 1000 + 10)
      if (p.answers?.(s) ?? true) recorder.right(p.series, s * 1000 + 60, 50, 50, 40, NOT_ON_THE_LINE)
    }
    recorder.roll((s + 1) * 1000)
  }
  return frames
}

const holding = (over: Partial<Group> = {}): Group => ({
  letter: 'A',
  name: 'Lookers',
  journeyId: 'look',
  profile: {
    startDelayMs: 0,
    segments: [
      { to: 30, overMs: 0 },
      { to: 30, overMs: HOLD_S * 1000 },
    ],
  },
  ...over,
})
const one = journey({ round: [step({ think: { kind: 'fixed', ms: 1000 } })] })
const asking = (objectives: Objective[], over: Partial<Plan> = {}, more: Partial<RunDocument> = {}) =>
  runDocument({
    journeys: [one],
    plan: plan({ groups: [holding()], placement: { A: { REY: 6666, TAV: 'rest' } }, objectives, ...over }),
    ...more,
  })

function run(document: RunDocument, playing: Playing[], over: Partial<RunFacts> = {}) {
  const path = join(folder, `${++files}.db`)
  const merge = new RunMerge(
    path,
    document,
    playing.map((p, i) => ({ machineId: `m${i}`, name: `G-${i}`, location: p.location })),
  )
  playing.forEach((p, g) => {
    for (const bytes of framesOf(p, document.plan.groups.length)) merge.take(g, bytes)
  })
  for (const [g, second] of over.goneAtSecond ?? []) merge.leave(g, second)
  merge.settle()
  const summary = summarise(merge, document, runFacts(over))
  merge.close()
  return {
    summary,
    path,
    window: (fromS: number, toS: number) => readRun(path, r => windowFigures(document, r, fromS, toS)),
  }
}
// 30 users: two thirds at REY, one at TAV; series 0 and 1 are the step there and here.
const rey = (over: Partial<Playing> = {}): Playing => ({ location: 0, series: 0, users: () => 20, ...over })
const tav = (over: Partial<Playing> = {}): Playing => ({ location: 1, series: 1, users: () => 10, ...over })
const P95: Objective = { metric: 'p95', step: 'Look', atMost: 200 }

describe('an answer', () => {
  it('says how many of the users were there when generators were lost, and holds users held against them', () => {
    const lost = () => [rey({ until: 8 }), tav()]
    const gone = { goneAtSecond: [[0, 9]] as [number, number][] }
    expect(run(asking([P95]), [rey(), tav()]).summary.answer).toMatchObject({
      verdict: 'held',
      heldUpTo: 30,
      sentence: 'Yes: p95 of Look 50.0 ms at 30 users.',
    })
    expect(run(asking([P95]), lost(), gone).summary.answer).toMatchObject({
      verdict: 'short',
      heldUpTo: 10,
      sentence: 'Held at 10 of 30 users only: p95 of Look 50.0 ms.',
    })
    expect(run(asking([{ metric: 'users', atLeast: 30 }]), lost(), gone).summary.answer).toMatchObject({
      verdict: 'broken',
      sentence: 'No: users held 10 users at 10 of 30 users.',
    })
    expect(run(asking([{ metric: 'users', atLeast: 30 }]), [rey(), tav()]).summary.answer).toMatchObject({
      verdict: 'held',
    })
  })

  it('is about its own slice: whose location was whole gets a plain yes, the other none', () => {
    const missing = [rey(), tav({ users: s => (s < 40 ? 10 : 4) })]
    const of = (location: string) => run(asking([{ ...P95, location }]), missing).summary.answer.sentence
    expect(of('REY')).toBe('Yes: p95 of Look from REY 50.0 ms at 30 users.')
    expect(of('TAV')).toBe('Held at 4 of 10 users for 20 of 30 s only: p95 of Look from TAV 50.0 ms.')
  })

  it('minds neither one user nor a passing second', () => {
    expect(run(asking([P95]), [rey({ users: () => 19 }), tav()]).summary.answer.verdict).toBe('held')
    expect(
      run(asking([P95]), [rey({ users: s => (s === 45 || s === 50 ? 2 : 20) }), tav()]).summary.answer.verdict,
    ).toBe('held')
    expect(run(asking([P95]), [rey({ users: s => (s >= 45 && s < 48 ? 2 : 20) }), tav()]).summary.answer.verdict).toBe(
      'short',
    )
  })

  it('is no yes while users wait and nothing returns: floors read 0, timed limits break once the oldest wait exceeds them', () => {
    // From second 42 on nobody is answered: the users who had been answered ask once more, and wait.
    const stalls = (over: Partial<Playing>): Partial<Playing> => ({ perUser: 1, answers: s => s < 42, ...over })
    const stuck = [rey(stalls({ users: s => (s <= 42 ? 20 : 0) })), tav(stalls({ users: s => (s <= 42 ? 10 : 0) }))]
    for (const frames of [stuck]) {
      const every = (over: Partial<Objective>): Objective => ({
        metric: 'p95',
        step: 'Look',
        atMost: 2000,
        window: { everyS: 5 },
        ...over,
      })
      const timed = run(asking([every({})]), frames).summary.answer
      expect(timed.verdict).toBe('broken')
      expect(timed.sentence).toMatch(/^No: p95 of Look at least \d+\.\d+ s \(some had waited \d+ s for an answer\)/)
      const floor = run(
        asking([every({ metric: 'throughput', atMost: undefined, atLeast: 1 } as Partial<Objective>)]),
        frames,
      ).summary.answer
      expect(floor.sentence).toMatch(/^No: throughput of Look 0\/s/)
    }
  })

  it('takes nobody for a waiting user whose generator is gone with what it had begun', () => {
    // Its last second is begun and never ended, as when it is killed; the rest of the plan has no users there.
    const document = asking([{ ...P95, metric: 'p99', window: { everyS: 10 } }], {
      groups: [
        holding({
          profile: {
            startDelayMs: 0,
            segments: [
              { to: 30, overMs: 0 },
              { to: 30, overMs: HOLD_S * 1000 },
            ],
          },
        }),
      ],
    })
    const { answer } = run(document, [rey({ until: 8, answers: s => s < 7 }), tav()], {
      goneAtSecond: [[0, 9]],
    }).summary
    expect(answer.sentence).toBe('Held at 10 of 30 users only: p99 of Look 50.0 ms.')
  })

  it('while one is not heard is of those who are: nobody of that one is taken for waiting, and how many are unknown is said', () => {
    const document = asking([P95, { metric: 'users', atLeast: 30 }])
    const merge = new RunMerge(join(folder, `${++files}.db`), document, [
      { machineId: 'a', name: 'a', location: 0 },
      { machineId: 'b', name: 'b', location: 1 },
    ])
    // What REY begins in its last second is in flight when it falls silent.
    const silent = framesOf(rey({ until: 30, answers: s => s < 29 }), 1)
    const heard = framesOf(tav({ until: 50 }), 1)
    for (let s = 0; s < 50; s++) {
      for (const [g, frames] of [silent, heard].entries())
        for (const frame of frames.slice(s, s + 1)) merge.take(g, frame)
      merge.flush()
    }
    const last = windowFigures(document, merge, 39, 49)
    expect(last.total).toMatchObject({ started: 100, right: 100 })
    expect(last.objectives.map(o => o.waitedMs)).toEqual([undefined, undefined])
    expect(answerSoFar([P95], last, 30, [])).toMatchObject({
      verdict: 'short',
      sentence: 'Held at 10 of 30 users (20 not heard of) only: p95 of Look 50.0 ms.',
    })
    // A target that answers nobody is seen although another is silent.
    const stalled = new RunMerge(join(folder, `${++files}.db`), document, [
      { machineId: 'a', name: 'a', location: 0 },
      { machineId: 'b', name: 'b', location: 1 },
    ])
    framesOf(rey({ until: 30 }), 1).forEach(f => stalled.take(0, f))
    framesOf(tav({ until: 50, users: () => 10, perUser: 1, answers: s => s < 40 }), 1).forEach(f => stalled.take(1, f))
    stalled.flush()
    expect(windowFigures(document, stalled, 39, 49).objectives[0]!.waitedMs).toBe(8000)
    merge.close()
    stalled.close()
  })

  it('breaks by time-outs where nothing else comes back', () => {
    const path = join(folder, `${++files}.db`)
    const document = asking([{ ...P95, window: { everyS: 10 } }])
    const merge = new RunMerge(path, document, [{ machineId: 'a', name: 'a', location: 0 }])
    const recorder = new Recorder({
      incarnation: 1,
      worker: 0,
      groups: 1,
      startedAt: 0,
      health: () => NO_HEALTH,
      onFrame: f => merge.take(0, f.bytes),
    })
    for (let s = 0; s < HOLD_S; s++) {
      recorder.present[0] = 30
      recorder.started(0, s * 1000)
      if (s < 35) recorder.right(0, s * 1000 + 50, 50, 50, 40, NOT_ON_THE_LINE)
      else if (s >= 45) recorder.failed(0, s * 1000 + 50, 'timeout', 'unclear', 10_000, NOT_ON_THE_LINE)
      recorder.roll((s + 1) * 1000)
    }
    merge.settle()
    expect(summarise(merge, document, runFacts()).answer.judgements[0]).toMatchObject({ held: false })
    merge.close()
  })

  it('of a held rate that was not reached says so, and so does its soundness', () => {
    const wished = (rate: number) =>
      asking([P95], {
        groups: [
          holding({
            drive: { kind: 'requests', fewestUsers: 1, mostUsers: 60 },
            profile: {
              startDelayMs: 0,
              segments: [
                { to: rate, overMs: 0 },
                { to: rate, overMs: HOLD_S * 1000 },
              ],
            },
          }),
        ],
      })
    const short = run(wished(60), [rey(), tav()]).summary
    expect(short.answer).toMatchObject({
      verdict: 'short',
      sentence: expect.stringMatching(/^Held at 30(\.0)? of 60(\.0)? requests\/s only/),
    })
    expect(short.findings).toContainEqual(
      expect.objectContaining({
        code: 'rate-not-reached',
        weight: 'qualifies',
        sentence: expect.stringMatching(/^Lookers: 60\.0 requests\/s were wished .* and 30\.0 were sent\.$/),
      }),
    )
    const reached = run(wished(30), [rey(), tav()]).summary
    expect([reached.answer.verdict, reached.findings.filter(f => f.code === 'rate-not-reached')]).toEqual(['held', []])
  })

  it('of a run that was stopped counts nobody as missing who was sent away, and says it was stopped', () => {
    const stopped = { ended: { how: 'stopped' as const, atS: 45 } }
    const { answer } = run(
      asking([P95]),
      [rey({ users: s => (s < 45 ? 20 : 0), until: 47 }), tav({ users: s => (s < 45 ? 10 : 0), until: 47 })],
      stopped,
    ).summary
    expect(answer).toMatchObject({
      verdict: 'short',
      sentence: 'Stopped after 45 s of 1 min. Held until then: p95 of Look 50.0 ms at 30 users.',
    })
  })

  it('of a run that went with fewer machines is about the load it had, of the load that was asked for', () => {
    const lowered = asking(
      [P95],
      {
        groups: [
          holding({
            profile: {
              startDelayMs: 0,
              segments: [
                { to: 15, overMs: 0 },
                { to: 15, overMs: HOLD_S * 1000 },
              ],
            },
          }),
        ],
      },
      { wentWith: { machines: 1, wanted: 2, factor: 0.5 } },
    )
    expect(run(lowered, [rey({ users: () => 10 }), tav({ users: () => 5 })]).summary.answer.sentence).toBe(
      'Held at 15 of 30 users only: p95 of Look 50.0 ms.',
    )
  })

  it('holds rates against what was due: passes and requests that were not there are in the sentence', () => {
    const drive = (d: Group['drive']) =>
      asking([P95], {
        groups: [
          holding({
            drive: d,
            profile: {
              startDelayMs: 0,
              segments: [
                { to: 30, overMs: 0 },
                { to: 30, overMs: HOLD_S * 1000 },
              ],
            },
          }),
        ],
      })
    const arrivals = drive({ kind: 'arrivals', spacing: 'even', mostInFlight: 500 })
    expect(run(arrivals, [rey({ passes: true }), tav({ passes: true })]).summary.answer.verdict).toBe('held')
    expect(
      run(arrivals, [rey({ passes: true }), tav({ passes: true, users: () => 4 })]).summary.answer.sentence,
    ).toMatch(/^Held at 24 of 30 arrivals\/s only: p95/)
    const requests = drive({ kind: 'requests', fewestUsers: 0, mostUsers: 100 })
    expect(run(requests, [rey(), tav({ users: () => 8 })]).summary.answer.verdict).toBe('held')
    expect(run(requests, [rey(), tav({ users: () => 2 })]).summary.answer.sentence).toMatch(
      /^Held at 22 of 30 requests\/s only: p95/,
    )
  })
})

describe('steps of one name in two journeys', () => {
  const other = journey({ id: 'other', name: 'Another way', round: [step({ think: { kind: 'fixed', ms: 1000 } })] })
  const groups = [holding(), holding({ letter: 'B', name: 'Others', journeyId: 'other' })]
  const both = (objectives: Objective[]) =>
    runDocument({
      journeys: [one, other],
      plan: plan({ groups, placement: { A: { REY: 10_000 }, B: { REY: 10_000 } }, objectives }),
    })

  it('are kept apart in figures, in seconds and in objectives; groups too', () => {
    const objectives: Objective[] = [
      { ...P95, journeyId: 'look' },
      { ...P95, journeyId: 'other' },
      { metric: 'throughput', group: 'B', atLeast: 1 },
      { metric: 'users', group: 'B', atLeast: 1 },
    ]
    const document = both(objectives)
    expect(seriesOf(document).map(s => [s.journeyId, s.stepName])).toEqual([
      ['look', 'Look'],
      ['other', 'Look'],
    ])
    const path = join(folder, `${++files}.db`)
    const merge = new RunMerge(path, document, [{ machineId: 'a', name: 'a', location: 0 }])
    const recorder = new Recorder({
      incarnation: 1,
      worker: 0,
      groups: 2,
      startedAt: 0,
      health: () => NO_HEALTH,
      onFrame: f => merge.take(0, f.bytes),
    })
    recorder.present[0] = 30
    recorder.present[1] = 30
    for (let s = 0; s < HOLD_S; s++) {
      for (const [series, ms, n] of [
        [0, 50, 3],
        [1, 400, 2],
      ] as const)
        for (let i = 0; i < n; i++) {
          recorder.started(series, s * 1000 + 1)
          recorder.right(series, s * 1000 + ms + 1, ms, ms, ms, NOT_ON_THE_LINE)
        }
      recorder.roll((s + 1) * 1000)
    }
    merge.settle()
    const { answer } = summarise(merge, document, runFacts())
    expect(answer.judgements.map(j => [j.held, j.measured === undefined ? undefined : Math.round(j.measured)])).toEqual(
      [
        [true, 50],
        [false, 400],
        [true, 2],
        [true, 30],
      ],
    )
    expect(answer.sentence).toBe('No: p95 of Look on Another way 400 ms at 60 users.')
    const second = merge.seconds()[10]!
    expect(Object.keys(second.steps)).toEqual(['look/Look', 'other/Look'])
    expect(second.judged!.map(j => (j[0] === null ? null : Math.round(j[0])))).toEqual([50, 400, 2, 30])
    merge.close()
    const figures = readRun(path, r => windowFigures(document, r, 10, 20))
    expect(figures.steps.map(s => [s.journeyId, s.step, s.figures.started, Math.round(s.figures.p95Ms!)])).toEqual([
      ['look', 'Look', 30, 50],
      ['other', 'Look', 20, 400],
    ])
    expect(figures.objectives.map(o => o.figures.started)).toEqual([30, 20, 20, 20])
  })
})

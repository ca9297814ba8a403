/** Draining: the last users get their answers, the last frames come in, every account is closed. */
import { runLengthMs } from '../../core/plan/length'
import { type ActiveRun, AHEAD_S, type PhaseTools, runSecond, startMerging, startOf, tellOnce, type Verdict } from './active-run'
import { noteDepartures } from './departures'
import { noteClocks, stillLoading } from './loading'
import { standDown } from './peak-shifts'
import { messageOf } from '../../core/values/thrown'

/** A generator whose last word has not come by then is taken for lost, ms after it should have ended. */
const LAST_WORD_MS = 45_000

/** A result that cannot be made is tried so often, later and later; then the run is kept as failed, with its frames. */
const MOST_UNMADE = 5

const CLOSED = { settled: 'closedAsPlanned', stopped: 'closedAfterStop', aborted: 'closedAfterAbort' } as const

/** @param settle makes and stores the result; called once, when every account can be closed */
export function draining(run: ActiveRun, tools: PhaseTools, settle: () => Promise<void>): Verdict | undefined {
  startMerging(run, tools)
  // A program that measures elsewhere has said what there was to say.
  if (run.document.claimed) return closing(run, tools, settle)
  standDown(run, tools)
  const { clock, fleet, hub } = tools
  const runId = String(run.id)
  const { ending } = run.stored
  // By a plan users leave by themselves. Those of a calibration were called, and are sent away; also on a connection
  // that has only now come back.
  const byPlan = ending === 'settled' && !run.document.calibration
  const reason = ending === 'settled' ? `the ${byPlan ? 'plan' : 'calibration'} is over` : `the run was ${ending}`
  for (const { machine, connection } of stillLoading(run, tools)) {
    fleet.change(machine.id, 'drainStarted', reason)
    if (!connection || byPlan) continue
    const kind = ending === 'aborted' ? 'abort' : 'drain'
    tellOnce(run, connection, kind, () => connection.say({ kind, runId, reason }))
  }
  for (const [g] of run.parts.all('finished'))
    fleet.change(run.generators[g]!.machineId, 'loadEnded', 'its last frame is safe')
  noteClocks(run, tools)
  noteDepartures(run, tools)
  const shouldEndAt = byPlan ? startOf(run) + runLengthMs(run.document) : run.since
  // A silent generator may come back, with all it has measured, until its grace is over; one that was heard lately has
  // only its last word to say.
  const overdue = (machineId: string, g: number) =>
    clock.now() >
    Math.max(
      shouldEndAt,
      run.since,
      run.parts.ofThere(g)?.silentSince !== undefined || hub.heardAt(machineId) < run.since
        ? hub.graceOverAt(machineId)
        : 0,
    ) +
      LAST_WORD_MS
  for (const [g, { machineId }] of run.generators.entries()) {
    if (run.parts.ofThere(g) && overdue(machineId, g))
      fleet.change(machineId, 'stoppedAnswering', `no last word ${LAST_WORD_MS / 1000} s after the end`)
  }
  if (run.generators.some((_, g) => run.parts.ofThere(g))) return undefined
  if (salvaging(run, tools)) return undefined
  if (awaitsTarget(run, tools, Math.min(shouldEndAt, run.since))) return undefined
  return closing(run, tools, settle)
}

/** Every account can be closed: the result is made, and tried again where it could not be. */
function closing(run: ActiveRun, { clock }: PhaseTools, settle: () => Promise<void>): Verdict | undefined {
  if (!run.closing) {
    const { times, sentence } = run.unmade
    if (times >= MOST_UNMADE)
      return {
        event: 'resultFailed',
        reason: `${sentence}. It was tried ${times} times; what was measured is kept as it came.`,
      }
    if (clock.now() < run.mergeNotBefore) return undefined
    run.closing = true
    void settle()
  }
  if (run.stored.summary === undefined) return undefined
  return { event: CLOSED[run.stored.ending], reason: run.stored.summary.answer.sentence }
}

/** Whether the answer waits for what it is held against of the target's own figures. @param endedAt of the load */
function awaitsTarget(run: ActiveRun, { targetIsJudgeable, runs, clock }: PhaseTools, endedAt: number): boolean {
  if (run.stored.startAt === undefined || targetIsJudgeable(run, endedAt)) return false
  const sentence = 'The answer waits for what the target says of itself up to the end of the load.'
  if (!run.targetAwaited) runs.remark(run.id, run.stored.state, 'targetAwaited', sentence, clock.now())
  run.targetAwaited = true
  return true
}

/** Pauses before a machine that could not be searched is searched again, each twice the one before, ms. */
const SALVAGE_FIRST_PAUSE_MS = 1000
const SALVAGE_LAST_PAUSE_MS = 8000

/** Looks on the machines of lost generators for frames they left there. @returns whether that is still under way */
function salvaging(run: ActiveRun, { fleet, ingest, runs, clock }: PhaseTools): boolean {
  for (const [g] of run.parts.all('gone', 'absent')) {
    const { machineId, name } = run.generators[g]!
    if (run.salvaged.has(machineId)) continue
    run.salvaged.set(machineId, 'under way')
    const remark = (sentence: string) =>
      runs.remark(run.id, run.stored.state, 'salvage', `${name}: ${sentence}`, clock.now(), name)
    const search = (pauseMs: number) =>
      void fleet.salvage(machineId).then(
        (frames) => {
          for (const frame of frames) ingest.frame(run.id, g, frame, runSecond(run, clock) + AHEAD_S)
          if (frames.length > 0)
            remark(`${frames.length} frames that it could not send were brought back from its machine`)
          run.salvaged.set(machineId, 'done')
        },
        (error: unknown) => {
          // Its machine goes when the run is closed: until then it is looked at again.
          if (pauseMs <= SALVAGE_LAST_PAUSE_MS) return clock.after(pauseMs, () => search(2 * pauseMs))
          remark(`its machine could not be searched for what it left: ${messageOf(error)}`)
          run.salvaged.set(machineId, 'done')
        },
      )
    search(SALVAGE_FIRST_PAUSE_MS)
  }
  return [...run.salvaged.values()].includes('under way')
}

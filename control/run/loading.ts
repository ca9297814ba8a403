/** Loading: the generators do what was planned; the coordinator watches the clock and who is still there. */
import { LONGEST_CLAIMED_S } from '../../core/elsewhere/claimed-document'
import { warmUpEndMs } from '../../core/load/profile'
import { runLengthMs } from '../../core/plan/length'
import { Calibrating } from './calibrating'
import { noteDepartures } from './departures'
import type { Part } from './parts'
import { peakShifts } from './peak-shifts'
import { tellTakers } from './reassignment'
import { type ActiveRun, crewOf, type PhaseTools, runSecond, startMerging, startOf, type Verdict } from './active-run'

/** What is told of a run from elsewhere ends so long before its longest, s. */
const LAST_CLAIMED_S = 60
/** A calibration begins with its run, s. */
const JUST_STARTED_S = 3
/** How often the uncertainty of clocks is noted, ms. */
const NOTE_CLOCKS_MS = 1000

/** Warming or loading. */
export function loading(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  startMerging(run, tools)
  if (run.document.claimed) {
    const isFull = tools.clock.now() - startOf(run) >= (LONGEST_CLAIMED_S - LAST_CLAIMED_S) * 1000
    const over = isFull ? `no run is longer than ${LONGEST_CLAIMED_S / 3600} h` : tools.toldOver(run.id)
    return over === undefined ? undefined : { event: 'planOver', reason: over }
  }
  const sinceStartMs = tools.clock.now() - startOf(run)
  noteClocks(run, tools)
  noteDepartures(run, tools)
  if (run.document.calibration) {
    const over = calibrate(run, tools)
    if (over) return over
  }
  else {
    steer(run, tools)
    peakShifts(run, tools)
    tellTakers(run, tools)
  }
  const areAll = (...are: Part['is'][]) => run.generators.every((_, g) => are.includes(run.parts.of(g).is))
  if (areAll('gone', 'absent')) return { event: 'fleetLost', reason: 'every generator is lost' }
  if (sinceStartMs >= runLengthMs(run.document))
    return { event: 'planOver', reason: 'the plan is over; the last users leave' }
  if (areAll('gone', 'absent', 'finished')) return { event: 'planOver', reason: 'every generator has ended its load' }
  const warmMs = Math.max(0, ...run.document.plan.groups.map(g => warmUpEndMs(g.profile)))
  if (run.stored.state === 'warming' && sinceStartMs >= warmMs)
    return { event: 'warmedUp', reason: 'the warm-up is over' }
  return undefined
}

/**
 * Goes from level to level. What was seen of a machine that is gone, or before this process, is not used. @returns when
 * all is known that can be
 */
function calibrate(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  const second = runSecond(run, tools.clock)
  const end = (reason: string): Verdict => ({ event: 'planOver', reason })
  if (run.parts.all('gone', 'absent').length > 0) {
    delete run.calibrating
    return end('a machine was lost in the middle: what was seen is not used')
  }
  if (!run.calibrating) {
    if (second > JUST_STARTED_S) return end('Vornak was started anew in the middle: what was seen is not used')
    const facts = tools.machines.machine(run.generators[0]!.machineId)?.facts
    run.calibrating = new Calibrating(run.document, {
      cores: facts?.cores ?? 1,
      memoryBytes: facts?.memoryBytes ?? 1,
      descriptors: facts?.descriptors ?? 1,
    })
  }
  for (const { group, users } of run.calibrating.step(second)) {
    for (const { connection } of stillLoading(run, tools))
      connection?.say({ kind: 'steer', runId: String(run.id), group, users })
  }
  return run.calibrating.over ? end('all is known that can be') : undefined
}

/** Tells what the held rates take, once a second. */
function steer(run: ActiveRun, tools: PhaseTools): void {
  for (const order of run.steering.step(runSecond(run, tools.clock))) {
    for (const { connection } of stillLoading(run, tools))
      connection?.say({ kind: 'rate', runId: String(run.id), ...order })
  }
  for (const { group, sentence } of run.steering.notReached()) {
    if (run.toldNotReached.has(group)) continue
    run.toldNotReached.add(group)
    tools.runs.remark(run.id, run.stored.state, 'rateNotReached', sentence, tools.clock.now())
  }
}

/** Keeps how well each machine's clock is known. */
export function noteClocks(run: ActiveRun, { machines, hub, clock }: PhaseTools): void {
  const now = clock.now()
  if (now - run.clocksNotedAt < NOTE_CLOCKS_MS) return
  run.clocksNotedAt = now
  for (const [g, { machineId }] of run.generators.entries()) {
    // One that is on its way may still have to learn the time.
    const connection = run.parts.of(g).is === 'coming' ? undefined : hub.connections.get(machineId)
    // A connection that has just begun knows nothing yet: what was known before stands.
    if (connection && connection.clock.samples > 0)
      machines.noteClock(machineId, connection.clock.uncertaintyAt(now))
  }
}

/** The crew that still loads. */
export function stillLoading(run: ActiveRun, tools: PhaseTools) {
  return crewOf(run, tools).filter(c => c.machine.state === 'loading' || c.machine.state === 'draining')
}

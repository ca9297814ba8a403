/** Loading: the generators do what was planned; the coordinator watches the clock and who is still there. */
import { warmUpEndMs } from '../../core/load/profile'
import { runLengthMs } from '../../core/plan/slice'
import { crewOf, runSecond, startMerging, type ActiveRun, type PhaseTools, type Verdict } from './active-run'

/** How often the uncertainty of clocks is noted, ms. */
const NOTE_CLOCKS_MS = 1000

/** Warming or loading. */
export function loading(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  startMerging(run, tools)
  const sinceStartMs = tools.clock.now() - run.stored.startAt!
  noteLosses(run, tools)
  steer(run, tools)
  if (run.generators.every((_, g) => run.goneAtSecond.has(g))) return { event: 'fleetLost', reason: 'every generator is lost' }
  if (sinceStartMs >= runLengthMs(run.document)) return { event: 'planOver', reason: 'the plan is over; the last users leave' }
  if (run.generators.every((_, g) => run.goneAtSecond.has(g) || run.finished.has(g))) return { event: 'planOver', reason: 'every generator has ended its load' }
  const warmMs = Math.max(0, ...run.document.plan.groups.map(g => warmUpEndMs(g.profile)))
  if (run.stored.state === 'warming' && sinceStartMs >= warmMs) return { event: 'warmedUp', reason: 'the warm-up is over' }
  return undefined
}

/** Asks for as many users as hold the rates, once a second. */
function steer(run: ActiveRun, tools: PhaseTools): void {
  for (const { group, users } of run.steering.step(runSecond(run, tools.clock))) {
    for (const { connection } of stillLoading(run, tools)) connection?.say({ kind: 'steer', runId: String(run.id), group, users })
  }
  for (const { group, sentence } of run.steering.notReached()) {
    if (run.toldNotReached.has(group)) continue
    run.toldNotReached.add(group)
    tools.runs.remark(run.id, run.stored.state, 'rateNotReached', sentence, tools.clock.now())
  }
}

/** Tells the merge, and remembers, which generators will say nothing more. */
export function noteLosses(run: ActiveRun, tools: PhaseTools): void {
  const { machines, hub, ingest, clock, runs } = tools
  const now = clock.now()
  const noteClocks = now - run.clocksNotedAt >= NOTE_CLOCKS_MS
  if (noteClocks) run.clocksNotedAt = now
  for (const [g, { machineId, name }] of run.generators.entries()) {
    const machine = machines.machine(machineId)!
    const connection = noteClocks ? hub.connections.get(machineId) : undefined
    if (connection) machines.noteClock(machineId, connection.clock.uncertaintyAt(now))
    if (run.goneAtSecond.has(g) || run.finished.has(g) || ['loading', 'draining', 'ready'].includes(machine.state)) continue
    run.goneAtSecond.set(g, Math.max(0, runSecond(run, clock)))
    ingest.leave(run.id, g)
    const why = machines.changes(machineId).findLast(c => c.to === machine.state)?.reason ?? machine.state
    runs.remark(run.id, run.stored.state, 'generatorLost', `${name} is ${machine.state}: ${why}. Its users are missing from now on; its account is closed openly.`, clock.now())
  }
}

/** The crew that still loads. */
export function stillLoading(run: ActiveRun, tools: PhaseTools) {
  return crewOf(run, tools).filter(c => c.machine.state === 'loading' || c.machine.state === 'draining')
}

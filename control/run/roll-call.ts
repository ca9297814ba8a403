/** Roll call: every generator says it reaches the target's hosts, and its clock is known well enough. */
import { crewOf, tellOnce, type ActiveRun, type PhaseTools, type Verdict } from './active-run'

/** A generator that has not answered by then is unfit, ms. */
const ROLL_CALL_TIMEOUT_MS = 30_000
/** Heartbeats needed before a clock is trusted. */
const CLOCK_SAMPLES = 8
/** A clock known no better than this makes a generator unfit, ms. */
const WORST_CLOCK_MS = 300

export function rollCall(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  const { clock, fleet, machines } = tools
  const late = clock.now() - run.since > ROLL_CALL_TIMEOUT_MS
  const hosts = run.document.target.approval?.hosts ?? []
  const runtimes = run.document.journeys.flatMap(j => j.kind === 'command' ? j.runtimes : [])
  const unfit: string[] = []
  let waiting = 0
  for (const { machine, connection } of crewOf(run, tools)) {
    if (machine.state === 'ready') continue
    if (machine.state !== 'enrolled') {
      unfit.push(`${machine.name} is ${machine.state}: ${machines.changes(machine.id).findLast(c => c.to === machine.state)?.reason ?? 'nobody knows why'}`)
      continue
    }
    if (connection) tellOnce(run, connection, 'rollCall', () => connection.say({ kind: 'rollCall', hosts, runtimes }))
    const answer = run.rollCalls.get(machine.id)
    const reached = answer?.reached
    const lacking = answer?.runtimes.find(r => !r.ok)
    const uncertainty = connection?.clock.uncertaintyAt(clock.now()) ?? Number.POSITIVE_INFINITY
    const missed = reached?.find(r => !r.ok)
    if (missed) {
      fleet.change(machine.id, 'rollCallFailed', `does not reach ${missed.host}: ${missed.problem}`)
      unfit.push(`${machine.name} does not reach ${missed.host}: ${missed.problem}`)
    }
    else if (lacking) {
      fleet.change(machine.id, 'rollCallFailed', `${lacking.program} ${lacking.said}`)
      unfit.push(`${machine.name}: ${lacking.program} ${lacking.said}`)
    }
    else if (reached && connection && connection.clock.samples >= CLOCK_SAMPLES && uncertainty <= WORST_CLOCK_MS) {
      fleet.change(machine.id, 'rollCallPassed', `reaches ${reached.map(r => `${r.host} in ${r.connectMs.toFixed(1)} ms`).join(', ')}; clock ± ${uncertainty.toFixed(1)} ms`)
    }
    else if (late) {
      const why = reached ? `its clock is known to ± ${Math.round(uncertainty)} ms only` : 'did not answer the roll call'
      fleet.change(machine.id, 'rollCallFailed', why)
      unfit.push(`${machine.name} ${why}`)
    }
    else waiting++
  }
  // Everybody is heard first: what is wrong with one may be wrong with all.
  if (waiting > 0) return undefined
  if (unfit.length > 0) return { event: 'rollCallFailed', reason: unfit.join('; ') }
  if (crewOf(run, tools).some(c => c.machine.state !== 'ready')) return undefined
  return run.document.plan.rehearse
    ? { event: 'rollCalled', reason: 'every generator reaches the target and its clock is known' }
    : { event: 'rollCalledOnly', reason: 'every generator answered; the plan skips the rehearsal' }
}

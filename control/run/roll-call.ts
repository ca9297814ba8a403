/** Roll call: every generator says what it is and that it reaches the target; its clock must be known well enough. */
import { WORST_CLOCK_MS } from '../../core/fleet/roll-call'
import { UNSURE } from '../../core/fleet/capacity-book'
import { expectedPass, planInUsers } from '../../core/plan/expected'
import { usersPerCell } from '../../core/run/slice'
import { whereToReach, type Questions } from '../link/roll-caller'
import { crewOf, type ActiveRun, type ConnectedMachine, type PhaseTools, type Verdict } from './active-run'

/** A generator that has not answered by then is unfit, ms. */
const ROLL_CALL_TIMEOUT_MS = 30_000
/** Heartbeats needed before a clock is trusted. */
const CLOCK_SAMPLES = 8

export function rollCall(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  const { machines } = tools
  const crew = crewOf(run, tools)
  const unfit: string[] = []
  let waiting = 0
  for (const member of crew) {
    const { machine } = member
    if (machine.state === 'ready') continue
    if (machine.state !== 'enrolled') {
      unfit.push(
        `${machine.name} is ${machine.state}: ${machines.changes(machine.id).findLast(c => c.to === machine.state)?.reason ?? 'nobody knows why'}`,
      )
      continue
    }
    const why = callOne(run, tools, crew, member, run.since)
    if (why) unfit.push(`${machine.name} ${why}`)
    else if (machines.machine(machine.id)?.state === 'enrolled') waiting++
  }
  // Everybody is heard first: what is wrong with one may be wrong with all.
  if (waiting > 0) return undefined
  if (unfit.length > 0) return { event: 'rollCallFailed', reason: unfit.join('; ') }
  if (crewOf(run, tools).some(c => c.machine.state !== 'ready')) return undefined
  return run.document.plan.rehearse
    ? { event: 'rollCalled', reason: 'every generator reaches the target and its clock is known' }
    : { event: 'rollCalledOnly', reason: 'every generator answered; the plan skips the rehearsal' }
}

/**
 * Calls one machine that has enrolled; it is ready then, or unfit, or has not answered yet. @param crew those that are
 * judged beside it @param since when it could be called first @returns why it is unfit
 */
export function callOne(
  run: ActiveRun,
  tools: PhaseTools,
  crew: readonly ConnectedMachine[],
  { machine, connection }: ConnectedMachine,
  since: number,
): string | undefined {
  const { clock, fleet, rollCaller } = tools
  const { target, journeys } = run.document
  const { called, findings } = rollCaller.judge(
    crew.map(c => c.machine),
    run.id,
  )
  // One that joins a run that loads has siblings that were tested: it is not held up, and does not disturb them.
  const tested =
    run.parts.all('coming').length > 0 &&
    called.some(c => c.location === machine.location && c.type === machine.type && c.report?.selfTest)
  if (connection)
    rollCaller.ask(
      machine,
      connection,
      {
        ...whereToReach(target),
        runtimes: journeys.flatMap(j => (j.kind === 'command' ? j.runtimes : [])),
        ...selfTestOf(run, machine.location, tested ? 0 : tools.selfTestS),
      },
      run.id,
    )
  const report = called.find(c => c.id === machine.id)?.report
  // Its clock has had more beats since it answered.
  const wrong = findings.find(f => f.machine === machine.id && f.weight === 'unfit' && f.code !== 'clock')
  const uncertainty = connection?.clock.uncertaintyAt(clock.now()) ?? Number.POSITIVE_INFINITY
  const known = report && connection && connection.clock.samples >= CLOCK_SAMPLES && uncertainty <= WORST_CLOCK_MS
  if (!wrong && known) {
    fleet.change(
      machine.id,
      'rollCallPassed',
      `reaches ${report.reached.map(r => `${r.host} in ${r.connectMs.toFixed(1)} ms`).join(', ') || 'nobody it need reach'}; clock ± ${uncertainty.toFixed(1)} ms`,
    )
    return undefined
  }
  const late = clock.now() - since > ROLL_CALL_TIMEOUT_MS + tools.selfTestS * 1000
  const why =
    wrong?.sentence ??
    (!late
      ? undefined
      : report
        ? `its clock is known to ± ${Math.round(uncertainty)} ms only`
        : 'did not answer the roll call')
  if (why !== undefined) fleet.change(machine.id, 'rollCallFailed', why)
  return why
}

/** Machines that nobody has calibrated test themselves, and are held to what is planned for each. */
function selfTestOf({ document }: ActiveRun, location: string, seconds: number): Pick<Questions, 'selfTest'> {
  const by = document.sizedBy?.find(s => s.location === location)
  if (seconds === 0 || !by || !UNSURE.includes(by.basis)) return {}
  const machines = document.fleet.filter(o => o.location === location).reduce((sum, o) => sum + o.machines, 0)
  const at = document.plan.locations.findIndex(l => l.code === location)
  const users = usersPerCell({ plan: planInUsers(document.plan, document.journeys) })
  const perS = document.plan.groups.reduce((sum, group, g) => {
    const pass = expectedPass(
      document.journeys.find(j => j.id === group.journeyId),
      group,
    )
    return sum + (users[g]![at]! * pass.requests * 1000) / pass.ms
  }, 0)
  return { selfTest: { seconds, plannedPerS: perS / Math.max(1, machines) } }
}

/**
 * Machines that are there for the peak only. Those that come late boot, are called and get their part while the run
 * loads; when their users have left for good, they are given back though the run goes on.
 */
import { orderOfPlace, type PeakShift } from '../../core/fleet/order'
import { ProviderSilent } from '../machines/providers/contract'
import { capacitiesOf } from '../library/supplies'
import { IN_HAND } from '../../core/run/machine-life'
import { prepare } from './arming'
import {
  crewOf,
  generatorsOf,
  runSecond,
  tellOnce,
  type ActiveRun,
  type ConnectedMachine,
  type PhaseTools,
} from './active-run'
import { callOne } from './roll-call'
import { reassign } from './reassignment'
import { startOf } from './active-run'

/** Whose first users should have come so long ago is said to be late, ms. */
const LATE_MS = 5000
/** A generator whose last frame is safe may still have exchanges to hand over, ms. */
const HAND_OVER_MS = 5000

/** At every look while the run loads. */
export function peakShifts(run: ActiveRun, tools: PhaseTools): void {
  if (run.parts.all('coming').length > 0) letJoin(run, tools)
  letLeave(run, tools)
}

/** The load ends: one that has not joined is not needed any more. */
export function standDown(run: ActiveRun, tools: PhaseTools): void {
  for (const { number, member } of comingOf(run, run.parts.all('coming').length > 0 ? crewOf(run, tools) : [])) {
    const { machine, connection } = member
    if (connection && (connection.work.state === 'loading' || run.told.get(connection) === 'go'))
      joined(run, tools, number, member)
    else if (machine.releaseAskedAt === undefined) giveBack(tools, machine.id, 'the load is over before it has joined')
  }
}

function letJoin(run: ActiveRun, tools: PhaseTools): void {
  const { fleet, clock, runs } = tools
  fleet.placeLate(run.id, run.document, startOf(run))
  const crew = crewOf(run, tools)
  // A place whose machine was lost on its way has another one.
  run.generators = generatorsOf(
    run.document,
    crew.map(c => c.machine),
  )
  const runMs = clock.now() - startOf(run)
  for (const { number, member, shift } of comingOf(run, crew)) {
    const { machine, connection } = member
    if (!IN_HAND.includes(machine.state) || runMs >= shift.toMs) {
      stayedAway(run, tools, number, member)
      continue
    }
    if (machine.state === 'enrolled') callOne(run, tools, crew, member, machine.since)
    if (machine.state === 'ready' && connection) start(run, tools, number, { machine, connection })
    const part = run.parts.of(number)
    if (part.is === 'coming' && runMs > shift.fromMs + LATE_MS && !part.toldLate) {
      run.parts.set(number, { is: 'coming', toldLate: true })
      runs.remark(
        run.id,
        run.stored.state,
        'generatorLate',
        `${machine.name} is ${machine.state} when its users should come${machine.waits ? `: ${machine.waits.sentence}` : ''}. They are missing until it joins.`,
        clock.now(),
        machine.name,
      )
    }
  }
}

/** Its part first, then the moment the run began: it catches up by itself. */
function start(
  run: ActiveRun,
  tools: PhaseTools,
  number: number,
  member: ConnectedMachine & { connection: NonNullable<ConnectedMachine['connection']> },
): void {
  const { machine, connection } = member
  const startAt = startOf(run)
  const runId = String(run.id)
  if (run.unprepared.has(machine.id)) {
    tools.fleet.change(machine.id, 'rollCallFailed', `it cannot do its part: ${run.unprepared.get(machine.id)}`)
    return
  }
  if (connection.work.runId !== runId || connection.work.state === 'idle')
    prepare(run, tools, machine, connection, capacitiesOf(run.document))
  else if (connection.work.state === 'prepared')
    tellOnce(run, connection, 'go', () =>
      connection.say({ kind: 'go', runId, startAt: startAt + connection.clock.offsetAt(tools.clock.now()) }),
    )
  else joined(run, tools, number, member)
}

function joined(
  run: ActiveRun,
  { fleet, runs, clock }: PhaseTools,
  number: number,
  { machine }: ConnectedMachine,
): void {
  run.parts.set(number, { is: 'playing' })
  fleet.change(machine.id, 'loadStarted', `it has joined run ${run.id}`)
  runs.remark(
    run.id,
    run.stored.state,
    'generatorJoined',
    `${machine.name} has joined for the peak.`,
    clock.now(),
    machine.name,
  )
}

/** Its users go to others, as far as those have room. */
function stayedAway(run: ActiveRun, tools: PhaseTools, number: number, { machine }: ConnectedMachine): void {
  const { ingest, machines, runs, clock } = tools
  const sinceSecond = Math.max(0, runSecond(run, clock))
  run.parts.set(number, { is: 'absent', sinceSecond })
  ingest.leave(run.id, number, sinceSecond)
  if (machine.releaseAskedAt === undefined) giveBack(tools, machine.id, 'it did not come in time')
  if (runs.changes(run.id).some(c => c.event === 'generatorAbsent' && c.about === machine.name)) return
  runs.together(() => {
    const moved = reassign(run, number, tools)
    const why = machines.changes(machine.id).findLast(c => c.to === machine.state)?.reason ?? machine.state
    runs.remark(
      run.id,
      run.stored.state,
      'generatorAbsent',
      `${machine.name} does not come for the peak: ${why}. ${moved ?? 'Its users are missing.'}`,
      clock.now(),
      machine.name,
    )
  })
}

function letLeave(run: ActiveRun, tools: PhaseTools): void {
  const { machines, fleet, clock } = tools
  for (const [number, { leftAt: since }] of run.parts.all('finished')) {
    const machine = machines.machine(run.generators[number]!.machineId)
    if (
      !machine ||
      machine.runId !== run.id ||
      machine.releaseAskedAt !== undefined ||
      !orderOfPlace(run.document.fleet, machine.location, machine.place)?.shift
    )
      continue
    fleet.change(machine.id, 'loadEnded', 'the peak is over, and its last frame is safe')
    if (since === undefined) run.parts.set(number, { is: 'finished', leftAt: clock.now() })
    else if (clock.now() - since >= HAND_OVER_MS) giveBack(tools, machine.id, 'the peak is over')
  }
}

function giveBack({ fleet }: PhaseTools, machineId: string, reason: string): void {
  void fleet.releaseMachine(machineId, reason).catch((error: unknown) => {
    // Asked for again at the next look of the fleet.
    if (!(error instanceof ProviderSilent)) throw error
  })
}

/** Those that have a machine, or an order for one, but have not joined. */
function comingOf(
  { parts, generators, document }: ActiveRun,
  crew: readonly ConnectedMachine[],
): { number: number, member: ConnectedMachine, shift: PeakShift }[] {
  return parts.all('coming').flatMap(([number]) => {
    const member = crew.find(c => c.machine.id === generators[number]!.machineId)
    const shift = member && orderOfPlace(document.fleet, member.machine.location, member.machine.place)?.shift
    return shift ? { number, member, shift } : []
  })
}

/**
 * Gathering: machines are taken or ordered, boot and enrol. When they are short the run waits, and says for what; it is
 * over when all are there, when somebody says to go with what there is, or when the plan's patience ends.
 */
import { goWith } from '../../core/run/go-with'
import { joinsLate, placesOf, type FleetOrder } from '../../core/fleet/order'
import { USUAL_WAIT_MIN } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import type { Machine } from '../store/machines'
import { crewOf, type ActiveRun, type PhaseTools, type Verdict } from './active-run'

const NEVER = ['refused', 'failed', 'unfit', 'lost', 'reclaimed', 'releasing', 'released', 'releaseUnconfirmed']
const THERE = ['enrolled', 'ready']

export function gathering(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  tools.fleet.place(run.id, run.document)
  const machines = crewOf(run, tools).map(c => c.machine)
  const wanted = wantedBy(run.document)
  if (machines.length >= wanted && machines.every(m => THERE.includes(m.state)))
    return { event: 'machinesReady', reason: `${machines.length} machines have enrolled` }
  const unlucky = machines.some(m => NEVER.includes(m.state))
  const short =
    unlucky ||
    machines.length < wanted ||
    machines.some(m => m.state === 'asked' && m.waits !== undefined && m.waits.code !== 'in-turn')
  if (short && tools.clock.now() > deadlineOf(run, tools))
    return { event: 'machinesLacking', reason: sayLacking(run, tools, machines) }
  return undefined
}

/** When the run gives up, should machines still be short. */
export function deadlineOf(
  { id, document, since }: Pick<ActiveRun, 'id' | 'document' | 'since'>,
  { runs }: Pick<PhaseTools, 'runs'>,
): number {
  const began = runs.changes(id).findLast(c => c.to === 'gathering' && c.from !== 'gathering')?.at ?? since
  return began + (document.plan.waitForMachinesMin ?? USUAL_WAIT_MIN) * 60_000
}

/** The document with which a run would go now; undefined: a location has nobody, so shares could not be kept. */
export function asGathered(document: RunDocument, machines: readonly Machine[]): RunDocument | undefined {
  return goWith(
    document,
    document.fleet.map(o =>
      joinsLate(o) ? o.machines : machinesOf(document, o, machines).filter(m => THERE.includes(m.state)).length,
    ),
  )
}

/** The machines that stand in an order's places. */
export function machinesOf({ fleet }: RunDocument, order: FleetOrder, machines: readonly Machine[]): Machine[] {
  const places = placesOf(fleet, order)
  return machines.filter(m => m.location === order.location && places.includes(m.place))
}

/** Machines that must be there before it begins. */
function wantedBy(document: RunDocument): number {
  return document.fleet.reduce((sum, o) => sum + (joinsLate(o) ? 0 : o.machines), 0)
}

/** “lacks 1 of 3 brisk-1 at TAV: The quota of tavira is 2 machines, all in use.” */
function sayLacking(run: ActiveRun, { machines: store }: PhaseTools, machines: Machine[]): string {
  return run.document.fleet
    .filter(o => !joinsLate(o))
    .flatMap((order) => {
      const here = machinesOf(run.document, order, machines)
      const there = here.filter(m => THERE.includes(m.state)).length
      if (there >= order.machines) return []
      const missing = here.find(m => NEVER.includes(m.state)) ?? here.find(m => m.waits)
      // Those that are on their way are not what is lacking.
      if (missing === undefined && here.length === order.machines) return []
      const why =
        missing === undefined
          ? 'no machine has enrolled there'
          : (missing.waits?.sentence ??
            store.changes(missing.id).findLast(c => c.to === missing.state)?.reason ??
            missing.state)
      return [`lacks ${order.machines - there} of ${order.machines} ${order.type.name} at ${order.location}: ${why}`]
    })
    .join('; ')
}

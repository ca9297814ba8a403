/** Gathering: machines boot and enrol. Ends when all have, or as soon as it is clear that some never will. */
import type { Machine } from '../store/machines'
import { crewOf, type ActiveRun, type PhaseTools, type Verdict } from './active-run'

const NEVER = ['refused', 'failed', 'unfit', 'lost', 'reclaimed', 'releasing', 'released', 'releaseUnconfirmed']

export function gathering(run: ActiveRun, tools: PhaseTools): Verdict | undefined {
  const machines = crewOf(run, tools).map(c => c.machine)
  const wanted = run.document.fleet.reduce((sum, o) => sum + o.machines, 0)
  if (machines.length < wanted || machines.some(m => m.state === 'asked')) return undefined
  const lacking = machines.filter(m => NEVER.includes(m.state))
  if (lacking.length > 0) return { event: 'machinesLacking', reason: sayLacking(run, tools, lacking) }
  if (machines.every(m => m.state === 'enrolled' || m.state === 'ready')) return { event: 'machinesReady', reason: `${machines.length} machines have enrolled` }
  return undefined
}

/** “lacks 1 of 3 brisk-1 at TAV: The quota of tavira is 2 machines, all in use.” */
function sayLacking(run: ActiveRun, { machines }: PhaseTools, lacking: Machine[]): string {
  return run.document.fleet.flatMap((order) => {
    const here = lacking.filter(m => m.location === order.location)
    if (here.length === 0) return []
    const changes = machines.changes(here[0]!.id)
    const why = changes.findLast(c => c.to === here[0]!.state)?.reason ?? here[0]!.state
    return [`lacks ${here.length} of ${order.machines} ${order.type.name} at ${order.location}: ${why}`]
  }).join('; ')
}

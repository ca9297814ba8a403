/** What was under way and cannot go on here: machines nobody here can reach, and runs that have not loaded yet. */
import { UNDER_LOAD } from '../../core/run/life'
import { MACHINE_LIFE, type MachineEvent } from '../../core/run/machine-life'
import { machineStore } from './machines'
import type { Store } from './open'
import { runStore } from './runs'

/** How a machine that is left behind ends here, the first that its state allows. */
const LEFT: readonly MachineEvent[] = ['goneConfirmed', 'stoppedAnswering', 'refused', 'broke']

/** Closes it. Call within a transaction. @param reason why, as it is told of each */
export function leaveWhatIsUnderWay(store: Store, now: number, reason: string): void {
  const machines = machineStore(store)
  const runs = runStore(store)
  for (const machine of machines.out()) {
    const event = LEFT.find(e => MACHINE_LIFE[machine.state][e])
    const to = event && MACHINE_LIFE[machine.state][event]
    if (event && to) machines.change(machine.id, { at: now, from: machine.state, to, event, reason })
    machines.setGone(machine.id, now)
  }
  for (const run of runs.unended()) {
    // What one under load has found is closed by the process that starts: its machines are gone.
    if (UNDER_LOAD.includes(run.state)) continue
    runs.setEnding(run.id, 'stopped')
    runs.change(run.id, { at: now, from: run.state, to: 'stopped', event: 'stopAsked', reason }, true)
  }
}

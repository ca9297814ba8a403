/**
 * Stop means stop: a generator that has work of a run that nobody leads any more is told to leave it, whenever it says
 * so.
 */
import type { GeneratorHub } from '../link/generator-hub'
import type { ActiveRuns } from './active-run'

/** Machines that were not reached when their run ended, that came back since, or whose start had been fixed already. */
export function leaveWorkOfEnded({ connections }: Pick<GeneratorHub, 'connections'>, active: ActiveRuns): void {
  for (const connection of connections.values()) {
    const { state, runId } = connection.work
    if ((state !== 'prepared' && state !== 'loading') || active.has(Number(runId))) continue
    connection.say({ kind: 'abort', runId, reason: `run ${runId} is over` })
    // Said once over each link; should it still have work, it says so itself.
    connection.work = { state: 'idle', runId: '' }
  }
}

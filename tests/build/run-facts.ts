/** What a conductor would have found out of a run that went without trouble. */
import type { RunFacts } from '../../core/result/summary'

export function runFacts(over: Partial<RunFacts> = {}): RunFacts {
  return {
    goneAtSecond: [],
    lost: [],
    absent: [],
    clockUncertaintyMs: [],
    rehearsed: true,
    pathMs: {},
    rollCallNotes: [],
    notReached: [],
    ...over,
  }
}

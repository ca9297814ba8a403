/** What a conductor would have found out of a run that went without trouble. */
import { WITHOUT_TROUBLE, type RunFacts } from '../../core/result/summary'

export function runFacts(over: Partial<RunFacts> = {}): RunFacts {
  return { ...WITHOUT_TROUBLE, ...over }
}

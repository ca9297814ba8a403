import type { Done } from '../../api/answers'

/** The answer of what has nothing else to tell. @param act what was done, or is being done */
export function done(act: unknown): Done | Promise<Done> {
  return act instanceof Promise ? act.then((): Done => ({ done: true })) : { done: true }
}

/** What is told of broken stretches while a run loads: each when it begins, and when it is over. */
import { sayValue } from '../objectives/judge'
import { nameOf, sayLimit } from '../objectives/sentence'
import type { RunDocument } from '../run/document'
import type { BrokenStretch } from './stretches'

export interface BrokenRemark {
  event: 'objectiveBroken' | 'objectiveMended'
  /** Name of the objective. */
  about: string
  reason: string
  /** It was not told before this run second. */
  fromS: number
}

/** @param untilS up to where was looked: a stretch that ends there may go on */
export function brokenRemarks(
  stretches: readonly BrokenStretch[],
  untilS: number,
  { plan, journeys }: Pick<RunDocument, 'plan' | 'journeys'>,
): BrokenRemark[] {
  return stretches.flatMap((s): BrokenRemark[] => {
    const objective = plan.objectives[s.objective]!
    const name = nameOf(objective, journeys)
    const worst = sayValue(objective, s.worst)
    const users = s.users === undefined ? '' : ` at ${s.users} users`
    const begun: BrokenRemark = {
      event: 'objectiveBroken',
      about: name,
      reason: `${name}: ${worst}${users} from second ${s.fromS} on; ${sayLimit(objective)}${s.judged ? '' : ', not judged there'}`,
      fromS: s.fromS,
    }
    if (s.toS >= untilS) return [begun]
    const reason = `${name}: as it should be again from second ${s.toS} on; at worst it was ${worst}`
    return [begun, { event: 'objectiveMended', about: name, reason, fromS: s.toS }]
  })
}

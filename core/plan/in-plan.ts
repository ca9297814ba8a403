/** What a plan has under a code or a letter that stands elsewhere in the same plan: the plan was checked for that. */
import { present } from '../values/present'
import type { Group, Location, Plan } from './document'

/** @throws Error when the plan has no such location */
export const locationOf = (plan: Pick<Plan, 'locations'>, code: string): Location =>
  present(plan.locations.find(l => l.code === code), `location ${code} of the plan`)

/** @throws Error when the plan has no such group */
export const groupOf = (plan: Pick<Plan, 'groups'>, letter: string): Group =>
  present(plan.groups.find(g => g.letter === letter), `group ${letter} of the plan`)

/** How long a plan's load lasts. */
import { lengthMs } from '../load/profile'
import type { Plan } from './document'

/** Whole length of a run's load, ms: the longest of its groups' profiles. */
export function runLengthMs({ plan }: { plan: Pick<Plan, 'groups'> }): number {
  return plan.groups.reduce((most, g) => Math.max(most, lengthMs(g.profile)), 0)
}

/** Reads plans as earlier releases wrote them. */
import type { Plan } from './document'

export const PLAN_SCHEMA_NAME = 'vornak-plan/3' as const

const EARLIER = ['vornak-plan/1', 'vornak-plan/2']

/** @param stored a plan of this or an earlier release */
export function upgradePlan(stored: unknown): Plan {
  // What is kept was held against the schema of the release that kept it.
  const { schema, ...rest } = stored as { schema: string }
  // The first release knew one drive, no networks and fewer objectives, the second no journey or group of an objective:
  // what they wrote means the same today.
  return { schema: EARLIER.includes(schema) ? PLAN_SCHEMA_NAME : schema, ...rest } as Plan
}

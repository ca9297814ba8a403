/** What a location's machines were sized by, in words. */
import type { RunDocument } from '../plan/document'
import { BASIS_WORDS } from './capacity-book'

/** “It was sized by a calibration: 412 users of Enrol (run 12).” */
export function saySizedBy({ sizedBy, plan }: Pick<RunDocument, 'sizedBy' | 'plan'>, code: string): string {
  const by = sizedBy?.find(s => s.location === code)
  if (!by || by.basis === 'assumed') return `It was sized by an assumption: ${plan.assumedUsersPerVcpu} users per vCPU.`
  const named = by.capacities.map(c => `${Math.round(c.users)} users of ${c.journeyName} on ${c.machineType}${c.runId === undefined ? '' : ` (run ${c.runId})`}`).join(', ')
  return `It was sized by what is ${BASIS_WORDS[by.basis]}: ${named}.`
}

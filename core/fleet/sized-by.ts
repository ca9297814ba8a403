/** What a location's machines were sized by, kept with the run, and in words. */
import type { CapacityOrigin } from '../capacity/capacity'
import type { Plan } from '../plan/document'
import { BASIS_WORDS, type Basis } from './capacity-book'

/** How a location's machines were sized: what is known of them, and each capacity it rests on as it was then. */
export interface SizedBy {
  location: string
  basis: Basis
  capacities: SizedByCapacity[]
}

export interface SizedByCapacity {
  id: string
  origin: CapacityOrigin
  journeyName: string
  machineType: string
  /** Users at its limits. */
  users: number
  /** Where its CPU meets the limit, and at no users. */
  cpu?: { users: number, base: number }
  /** Run that found it, and when, ms since 1970. */
  runId?: number
  at: number
}

/** “It was sized by a calibration: 412 users of Enrol (run 12).” */
export function saySizedBy(
  { sizedBy, plan }: { sizedBy?: readonly SizedBy[], plan: Pick<Plan, 'assumedUsersPerVcpu'> },
  code: string,
): string {
  const by = sizedBy?.find(s => s.location === code)
  if (!by || by.basis === 'assumed') return `It was sized by an assumption: ${plan.assumedUsersPerVcpu} users per vCPU.`
  const named = by.capacities
    .map(
      c =>
        `${Math.round(c.users)} users of ${c.journeyName} on ${c.machineType}${c.runId === undefined ? '' : ` (run ${c.runId})`}`,
    )
    .join(', ')
  return `It was sized by what is ${BASIS_WORDS[by.basis]}: ${named}.`
}

/** A plan's load made larger or smaller as a whole: every level by the same factor, shapes and shares as they are. */
import { levelAt } from '../load/profile'
import { largestRemainder } from '../values/largest-remainder'
import type { Group, Plan } from './document'
import { peakMoment, plannedAt } from './peak'

/** More users than this at the peak of a plan are taken for a slip of the finger. */
export const MOST_SCALED_USERS = 1_000_000

/**
 * @param inUsers the same plan with every level in users: what its peak is counted in
 * @param users at the peak of the scaled plan; met to the user where the plan is driven by users and its groups stand
 *   at a corner of their levels then
 */
export function scaledTo(plan: Plan, inUsers: Plan, users: number): Plan {
  const peak = peakMoment(inUsers)
  if (peak.users === 0) return plan
  // A peak may lie just before a fall.
  const at = plannedAt(inUsers, peak.atMs) < peak.users - 0.5 ? peak.atMs - 1e-6 : peak.atMs
  const levels = inUsers.groups.map(g => levelAt(g.profile, at))
  const exact = levels.map(level => (level * users) / peak.users)
  const whole = largestRemainder(exact, users)
  const factors = levels.map((level, i) => (level > 0 ? whole[i]! / level : users / peak.users))
  return { ...plan, groups: plan.groups.map((g, i) => scaledGroup(g, factors[i]!)) }
}

/**
 * A group with every level times a factor. Rates keep their decimals.
 *
 * @param whole how users become whole
 */
export function scaledGroup(group: Group, factor: number, whole: (n: number) => number = Math.round): Group {
  const { drive, profile } = group
  // What a product of decimals has beyond this is noise.
  const exact = (n: number) => Number((n * factor).toPrecision(12))
  const users = (n: number) => whole(exact(n))
  const level = (drive?.kind ?? 'users') === 'users' ? users : exact
  return {
    ...group,
    profile: { ...profile, segments: profile.segments.map(s => ({ ...s, to: level(s.to) })) },
    ...(drive?.kind === 'requests'
      ? { drive: { ...drive, fewestUsers: users(drive.fewestUsers), mostUsers: Math.max(1, users(drive.mostUsers)) } }
      : {}),
  }
}

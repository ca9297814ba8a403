/** The plan's load as a whole. The peak of the sum, not the sum of the peaks. */
import { cornersOf, levelAt } from '../load/profile'
import type { Plan } from './document'

/** Users of all groups at a moment, not rounded. */
export function plannedAt(plan: Plan, atMs: number): number {
  return plan.groups.reduce((sum, g) => sum + levelAt(g.profile, atMs), 0)
}

/** Largest number of users at once, and the first moment it is reached, ms. */
export function peakMoment(plan: Plan): { users: number, atMs: number } {
  let users = 0
  let atMs = 0
  // The sum is linear between corners, so its peak lies at one, or just before a fall at one.
  for (const moment of new Set(plan.groups.flatMap(g => cornersOf(g.profile).map(c => c.atMs)))) {
    for (const at of [moment - 1e-6, moment]) {
      const level = Math.round(plannedAt(plan, at))
      if (level > users) {
        users = level
        atMs = moment
      }
    }
  }
  return { users, atMs }
}

export function peakOfPlan(plan: Plan): number {
  return peakMoment(plan).users
}

/** What a location must carry: users of each group at every moment that could be the heaviest. The curve over time counts, not the sum of the peaks. */
import { cornersOf, levelAt } from '../load/profile'
import type { Plan } from '../plan/document'
import { resolveShares } from '../plan/shares'
import { countLocations } from '../placement/deal-users'

/** Users per group of the plan, at one moment. */
export interface Moment { atMs: number, users: number[] }

/** @param plan with every level in users @returns per location of the plan, its moments; empty where nobody is placed */
export function demandOf(plan: Plan): Moment[][] {
  const shares = plan.groups.map(g => resolveShares(plan, g.letter).bp)
  const moments = heaviest(plan)
  const counts = moments.map(({ levels }) => countLocations(plan.groups.map((_, g) => ({ users: shares[g]!.some(s => s > 0) ? levels[g]! : 0, shares: shares[g]! })), plan.locations.length))
  return plan.locations.map((_, l) => moments.map(({ atMs }, m) => ({ atMs, users: counts[m]!.map(row => row[l]!) })).filter(m => m.users.some(n => n > 0)))
}

/** Most users of all groups together. */
export function peakOfMoments(moments: readonly Moment[]): number {
  return moments.reduce((most, m) => Math.max(most, m.users.reduce((sum, n) => sum + n, 0)), 0)
}

/** Levels are straight between corners, so whatever adds up from them is greatest at a corner or just before a fall at one; what another moment surpasses in every group is left out. */
function heaviest(plan: Plan): { atMs: number, levels: number[] }[] {
  const corners = new Set(plan.groups.flatMap(g => cornersOf(g.profile).map(c => c.atMs)))
  const all = [...corners].flatMap(at => [at - 1e-6, at]).map(at => ({ atMs: Math.max(0, Math.round(at)), levels: plan.groups.map(g => Math.ceil(levelAt(g.profile, at) - 1e-6)) }))
  const kept: typeof all = []
  for (const moment of all) {
    if (kept.some(k => k.levels.every((n, g) => n >= moment.levels[g]!))) continue
    for (let i = kept.length - 1; i >= 0; i--) if (kept[i]!.levels.every((n, g) => n <= moment.levels[g]!)) kept.splice(i, 1)
    kept.push(moment)
  }
  return kept
}

/**
 * What a location must carry: users of each group at every moment that could be the heaviest. The curve over time
 * counts, not the sum of the peaks.
 */
import { cornersOf, levelAt, peakOf } from '../load/profile'
import type { Plan } from '../plan/document'
import { resolveShares } from '../plan/shares'
import { countLocations } from '../placement/deal-users'

/** Users per group of the plan, at one moment. */
export interface UsersAtMoment {
  atMs: number
  users: number[]
}

/** A location's moments cut in two: users who are there all through, and those of a peak. */
export interface CutDemand {
  through: UsersAtMoment[]
  peak: UsersAtMoment[]
}

export class Demand {
  private readonly shares: (readonly number[])[]
  /** As they are dealt: where a group begins depends on all users of those before it, not on who is there. */
  private readonly groups: { users: number, shares: readonly number[] }[]
  private readonly moments: readonly { atMs: number, levels: number[] }[]
  private readonly counted = new Map<string, number[][]>()

  /** @param plan with every level in users */
  constructor(private readonly plan: Plan) {
    this.shares = plan.groups.map(g => resolveShares(plan, g.letter).bp)
    this.groups = plan.groups.map((g, i) => ({
      users: this.shares[i]!.some(s => s > 0) ? Math.ceil(peakOf(g.profile)) : 0,
      shares: this.shares[i]!,
    }))
    this.moments = heaviest(plan)
  }

  /** @param location index in the plan @returns empty where nobody is placed */
  at(location: number): UsersAtMoment[] {
    return this.moments
      .map(({ atMs, levels }) => ({ atMs, users: this.count(levels).map(row => row[location]!) }))
      .filter(isSomebody)
  }

  /** @param above per group of the plan: users numbered above this are of the peak */
  cut(location: number, above: readonly number[]): CutDemand {
    const cut: CutDemand = { through: [], peak: [] }
    for (const { atMs, levels } of this.moments) {
      const all = this.count(levels)
      const through = this.count(levels.map((n, g) => Math.min(n, above[g]!)))
      cut.through.push({ atMs, users: through.map(row => row[location]!) })
      cut.peak.push({ atMs, users: all.map((row, g) => Math.max(0, row[location]! - through[g]![location]!)) })
    }
    return { through: cut.through.filter(isSomebody), peak: cut.peak.filter(isSomebody) }
  }

  /** The same without rounding to whole users: for a first look at many cuts. */
  roughly(location: number, above: readonly number[]): CutDemand {
    const part = (users: (n: number, g: number) => number) =>
      this.moments
        .map(({ atMs, levels }) => ({ atMs, users: levels.map((n, g) => this.shareAt(g, location) * users(n, g)) }))
        .filter(isSomebody)
    return { through: part((n, g) => Math.min(n, above[g]!)), peak: part((n, g) => Math.max(0, n - above[g]!)) }
  }

  /** Part of a group's users at a location, 0–1. */
  shareAt(group: number, location: number): number {
    const shares = this.shares[group]!
    const total = shares.reduce((sum, s) => sum + s, 0)
    return total === 0 ? 0 : shares[location]! / total
  }

  private count(levels: readonly number[]): number[][] {
    const key = levels.join()
    let counts = this.counted.get(key)
    if (!counts)
      this.counted.set(
        key,
        (counts = countLocations(
          this.groups,
          this.plan.locations.length,
          levels.map((n, g) => Math.min(n, this.groups[g]!.users)),
        )),
      )
    return counts
  }
}

/** Most users of all groups together. */
export function peakOfMoments(moments: readonly UsersAtMoment[]): number {
  return moments.reduce(
    (most, m) =>
      Math.max(
        most,
        m.users.reduce((sum, n) => sum + n, 0),
      ),
    0,
  )
}

function isSomebody({ users }: UsersAtMoment): boolean {
  return users.some(n => n > 0)
}

/**
 * Levels are straight between corners, so whatever adds up from them is greatest at a corner or just before a fall at
 * one; what another moment surpasses in every group is left out.
 */
function heaviest(plan: Plan): { atMs: number, levels: number[] }[] {
  const corners = new Set(plan.groups.flatMap(g => cornersOf(g.profile).map(c => c.atMs)))
  const all = [...corners]
    .flatMap(at => [at - 1e-6, at])
    .map(at => ({
      atMs: Math.max(0, Math.round(at)),
      levels: plan.groups.map(g => Math.max(0, Math.ceil(levelAt(g.profile, at) - 1e-6))),
    }))
  const kept: typeof all = []
  for (const moment of all) {
    if (kept.some(k => k.levels.every((n, g) => n >= moment.levels[g]!))) continue
    for (let i = kept.length - 1; i >= 0; i--)
      if (kept[i]!.levels.every((n, g) => n <= moment.levels[g]!)) kept.splice(i, 1)
    kept.push(moment)
  }
  return kept
}

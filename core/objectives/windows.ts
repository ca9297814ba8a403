/** The stretches of a run that are judged: holds, once they have settled. */
import { cornersOf, levelAt, warmUpEndMs } from '../load/profile'
import type { Plan } from '../plan/document'
import { plannedAt } from '../plan/peak'

/** A hold is judged only after this, or three passes if they take longer, ms. */
export const SETTLE_MS = 30_000
const SETTLE_PASSES = 3

/** Run seconds from `fromS` (inclusive) to `toS` (exclusive). */
export interface Window {
  fromS: number
  toS: number
}

/** A stretch at one level of the whole plan. */
export interface JudgedLevel extends Window {
  /** Users of all groups. */
  users: number
}

/** Stretches in which no group's level changes and nobody warms up. @param minMs shorter ones are left out */
export function levelsOf(plan: Plan, minMs = 1000): JudgedLevel[] {
  const moments = [...new Set(plan.groups.flatMap(g => cornersOf(g.profile).map(c => c.atMs)))].sort((a, b) => a - b)
  const warm = Math.max(0, ...plan.groups.map(g => warmUpEndMs(g.profile)))
  const levels: JudgedLevel[] = []
  for (let i = 0; i + 1 < moments.length; i++) {
    const from = moments[i]!
    const to = moments[i + 1]!
    if (from < warm || plan.groups.some(g => levelAt(g.profile, from) !== levelAt(g.profile, to - 1e-6))) continue
    const users = plannedAt(plan, from)
    const last = levels[levels.length - 1]
    if (users === 0) continue
    if (last && last.toS * 1000 === from && last.users === users) last.toS = to / 1000
    else levels.push({ fromS: from / 1000, toS: to / 1000, users })
  }
  return levels.filter(l => (l.toS - l.fromS) * 1000 >= minMs)
}

/**
 * What is left of each level once it has settled, in whole seconds. @param passMs how long one pass takes, with its
 * pauses
 */
export function settledLevels(plan: Plan, passMs: number): JudgedLevel[] {
  const settleS = Math.max(SETTLE_MS, SETTLE_PASSES * passMs) / 1000
  return levelsOf(plan)
    .map(l => ({ ...l, fromS: Math.ceil(l.fromS + settleS), toS: Math.floor(l.toS) }))
    .filter(l => l.toS - l.fromS >= 5)
}

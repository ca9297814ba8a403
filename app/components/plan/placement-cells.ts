/** What each cell of the placement grid says, worked out once for a plan: a grid of 800 is drawn by what differs. */
import type { Plan, Share } from '~~/core/plan/document'
import { resolveShares, type ResolvedShares } from '~~/core/plan/shares'
import { basisPoints, count } from '~~/core/values/said-figures'
import { printMix } from '~/format/mixes'

export interface PlacementCell {
  share: Share
  /** Of the group, basis points. */
  bp: number
  /** Networks of its users, as typed; empty: the real path alone. */
  networks: string
  /** Users here at the group's peak. */
  users: string
  label: string
  /** More than the machines there carry. */
  isOver: boolean
}

export interface RowOfCells extends ResolvedShares {
  cells: PlacementCell[]
  /** Users placed anywhere. */
  placed: number
}

/**
 * @param users of each group's peak, by location
 * @param over codes of locations whose machines are too few
 */
export function placementRows(plan: Plan, users: readonly number[][], over: ReadonlySet<string>): RowOfCells[] {
  return plan.groups.map((group, r) => {
    const resolved = resolveShares(plan, group.letter)
    return {
      ...resolved,
      placed: users[r]!.reduce((a, b) => a + b, 0),
      cells: plan.locations.map(({ code }, c) => {
        const bp = resolved.bp[c]!
        const networks = printMix(plan.networks?.[group.letter]?.[code] ?? {})
        return {
          share: plan.placement[group.letter]?.[code] ?? 0,
          bp,
          networks,
          users: count(users[r]![c]!),
          label: `${group.name} at ${code}: ${basisPoints(bp)}, ${users[r]![c]} users${networks ? `, ${networks}` : ''}`,
          isOver: over.has(code),
        }
      }),
    }
  })
}

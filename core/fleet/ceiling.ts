/** How many users the fleet carries at the plan's shares: where the first location binds. */
import type { LocationSizing } from './sizing'

/** A location's users at peak, and what its machines carry. */
export interface LocationLoad {
  code: string
  users: number
  carries: number
}

/** @param peak users of all groups at peak @returns undefined when nothing is placed */
export function ceilingOf(loads: readonly LocationLoad[], peak: number): { users: number, code: string } | undefined {
  let lowest: { users: number, code: string } | undefined
  for (const { code, users, carries } of loads) {
    if (users === 0) continue
    const total = Math.floor((peak * carries) / users)
    if (!lowest || total < lowest.users) lowest = { users: total, code }
  }
  return lowest
}

/** The ceiling from one moment on, run time, ms. */
export interface CeilingStep {
  fromMs: number
  users: number
}

/**
 * The ceiling over the run: lower while those are not there that come for the peak only. @returns at least one step, in
 * order; empty when nothing is placed
 */
export function ceilingOverRun(
  sizes: readonly Pick<LocationSizing, 'code' | 'users' | 'carries' | 'machines'>[],
  peak: number,
): CeilingStep[] {
  const edges = [
    ...new Set([0, ...sizes.flatMap(s => s.machines.flatMap(m => (m.shift ? [m.shift.fromMs, m.shift.toMs] : [])))]),
  ].sort((a, b) => a - b)
  return edges.flatMap((fromMs): CeilingStep[] => {
    const ceiling = ceilingOf(
      sizes.map((s) => {
        const isPeak = s.machines.every(m => !m.shift || (fromMs >= m.shift.fromMs && fromMs < m.shift.toMs))
        return isPeak
          ? s
          : { ...s, carries: s.machines.reduce((sum, m) => sum + (m.shift ? 0 : m.count * m.carries), 0) }
      }),
      peak,
    )
    return ceiling ? [{ fromMs, users: ceiling.users }] : []
  })
}

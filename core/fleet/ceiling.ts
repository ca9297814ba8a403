/** How many users the fleet carries at the plan's shares: where the first location binds. */

/** A location's users at peak, and what its machines carry. */
export interface Load { code: string, users: number, carries: number }

/** @param peak users of all groups at peak @returns undefined when nothing is placed */
export function ceilingOf(loads: readonly Load[], peak: number): { users: number, code: string } | undefined {
  let lowest: { users: number, code: string } | undefined
  for (const { code, users, carries } of loads) {
    if (users === 0) continue
    const total = Math.floor(peak * carries / users)
    if (!lowest || total < lowest.users) lowest = { users: total, code }
  }
  return lowest
}

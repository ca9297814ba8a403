/** Shares of a group as typed (numbers and "rest") turned into whole basis points per location. */
import type { Plan, Share } from './document'

/** 100 % in basis points. */
export const WHOLE_BP = 10_000

/** The resolved shares of one group. */
export interface ResolvedShares {
  /** Basis points per location, in the plan's order. */
  bp: number[]
  /** Their sum; a plan can only run at {@link WHOLE_BP}. */
  totalBp: number
}

/** Several "rest" cells divide what is left evenly; the odd basis points go to the first ones. */
export function resolveShares(plan: Plan, letter: string): ResolvedShares {
  const cells: Share[] = plan.locations.map(l => plan.placement[letter]?.[l.code] ?? 0)
  const typed = cells.reduce<number>((sum, c) => sum + (c === 'rest' ? 0 : c), 0)
  const rests = cells.filter(c => c === 'rest').length
  const left = Math.max(0, WHOLE_BP - typed)
  let given = 0
  const bp = cells.map((c) => {
    if (c !== 'rest') return c
    const share = Math.floor(left / rests) + (given < left % rests ? 1 : 0)
    given++
    return share
  })
  return { bp, totalBp: bp.reduce((sum, x) => sum + x, 0) }
}

/**
 * Cuts a feed that deals each row once into stretches, one per generator, in proportion to the users that will take
 * from it.
 */
import type { Journey } from '../journey/journey'
import type { RunDocument } from './document'
import { dealPlan } from './slice'

/** Rows `from` (inclusive) to `to` (exclusive). */
export interface RowRange {
  from: number
  to: number
}

/**
 * Disjoint ranges that cover all rows but the reserved ones at the end. A generator without users gets none.
 *
 * @param users users of each generator that take from the feed
 */
export function cutRows(rows: number, reserved: number, users: readonly number[]): RowRange[] {
  const shared = Math.max(0, rows - reserved)
  const total = users.reduce((sum, n) => sum + n, 0)
  let before = 0
  return users.map((n) => {
    const from = total === 0 ? 0 : Math.floor((shared * before) / total)
    before += n
    return { from, to: total === 0 ? 0 : Math.floor((shared * before) / total) }
  })
}

/**
 * Rows at the end of a feed that the load leaves alone: the last is for tries, those before it, one per location, for
 * rehearsals.
 */
export function reservedRows(document: Pick<RunDocument, 'plan'>, rows: number): number {
  return Math.min(rows, 1 + (document.plan.rehearse ? document.plan.locations.length : 0))
}

export function usesOnce(journey: Journey | undefined, feed: string): boolean {
  return (journey?.feeds ?? []).some(f => f.feed === feed && f.deal === 'once')
}

/**
 * Users of each generator that take once-only rows from a feed, generators in the order of locations, then place.
 *
 * @param generators capacities per location, any unit
 */
export function takersPerGenerator(
  document: RunDocument,
  generators: readonly (readonly number[])[],
  feed: string,
): number[] {
  const counts = generators.map(g => g.map(() => 0))
  dealPlan(document, generators).forEach((dealt, g) => {
    const group = document.plan.groups[g]!
    if (
      !usesOnce(
        document.journeys.find(j => j.id === group.journeyId),
        feed,
      )
    )
      return
    dealt.locationOf.forEach((l, u) => {
      counts[l]![dealt.generatorOf[u]!]!++
    })
  })
  return counts.flat()
}

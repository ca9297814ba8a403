/** Figures of seconds as a run's file keeps them: without how each generator was, which is kept by generator. */
import type { SecondFigures } from '../../core/merge/second-figures'
import { fromStore } from '../store/from-store'
import type { Store } from '../store/open'

/** Earlier releases kept generators in them. */
function figuresOf(kept: string): SecondFigures {
  const { generators = [], ...figures } = fromStore<Omit<SecondFigures, 'generators'> & Partial<SecondFigures>>(kept)
  return { ...figures, generators }
}

/** Figures of seconds `fromS` (inclusive) to `toS` (exclusive), in order. */
export function readSeconds(store: Store, fromS = 0, toS = Number.MAX_SAFE_INTEGER): SecondFigures[] {
  return store
    .prepare<[number, number], string>('SELECT figures FROM seconds WHERE second >= ? AND second < ? ORDER BY second')
    .pluck()
    .all(fromS, toS)
    .map(figuresOf)
}

/**
 * Of each stretch of this many seconds, counted from the first of the run, the one with the largest p95 of all
 * requests. Of files of earlier releases, which do not say it, any.
 */
export function slowestSeconds(store: Store, fromS: number, toS: number, stretchS: number): SecondFigures[] {
  return store
    .prepare<[number, number, number], string>(`
      SELECT figures
      FROM seconds
      JOIN (
        SELECT second, MAX(p95)
        FROM seconds
        WHERE second >= ? AND second < ?
        GROUP BY second / CAST(? AS INTEGER)
      ) USING (second)
      ORDER BY second
    `)
    .pluck()
    .all(fromS, toS, stretchS)
    .map(figuresOf)
}

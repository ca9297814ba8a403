/**
 * Rows of runs that were measured lately: a question for more rows, for another run beside them, or for the report of
 * what is on the screen, waits for what is new alone. Runs that are compared are over, so nothing of it grows old.
 */
import type { ComparedRow } from '../../core/compare/rows'
import type { Spread } from '../../core/compare/spread'
import type { MeasuresWanted } from '../ingest/measures'
import type { AskedRun } from '../ingest/worker-messages'
import { present } from '../../core/values/present'

/** Rows that are kept, of all runs. */
const MOST = 20_000

export type MeasureRun = (run: AskedRun, wanted: MeasuresWanted) => Promise<Spread[]>

/** @param measure of a run's file @returns the same, which asks for nothing twice */
export function knownMeasures(measure: MeasureRun): MeasureRun {
  const known = new Map<string, Spread>()
  return async (run, { rows, windows, spread }) => {
    const where = `${run.path} ${windows.map(w => `${w.fromS}-${w.toS}`).join(' ')}`
    const keyOf = (row: ComparedRow, withSpread: boolean) => `${where} ${row.key} ${withSpread}`
    // Knowing how far a value may be off takes knowing the value.
    const told = rows.map(row => known.get(keyOf(row, true)) ?? (spread ? undefined : known.get(keyOf(row, false))))
    const fresh = rows.filter((_, i) => !told[i])
    if (fresh.length > 0) {
      const found = await measure(run, { rows: fresh, windows, spread })
      fresh.forEach((row, i) => {
        known.set(keyOf(row, spread), found[i]!)
        told[rows.indexOf(row)] = found[i]
      })
    }
    for (const key of known.keys()) {
      if (known.size <= MOST) break
      known.delete(key)
    }
    return told.map(of => present(of, 'a row that was asked for'))
  }
}

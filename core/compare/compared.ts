/** Two to six runs beside each other; the first is what the others are held against. */
import type { Difference, Standing, Yardstick } from './difference'
import type { ComparedRow } from './rows'
import type { ComparedFact } from './set-up'

export interface ComparedRuns {
  runs: { id: number }[]
  /** Users that all of them held, rising. */
  levels: number[]
  /** At which of them figures are taken; left out: over the whole load of each, which may be unlike. */
  users?: number
  setUp: ComparedFact[]
  /** Runs of the first one's set-up, itself among them: by them the yardstick is made. */
  repeats: number[]
  /** Rows of which it is not told yet how far they may be off: the last ones. Until then none has a standing. */
  coming?: number
  rows: RowOfRuns[]
}

export interface RowOfRuns extends ComparedRow {
  /** What it is about, in words. */
  says: string
  /** Of each run in turn: ms, a share, or right answers a second. */
  values: (number | null)[]
  /** Of every run but the first. A yardstick is made without the run that is held against it. */
  others: { difference?: Difference, yardstick?: Yardstick, standing: Standing }[]
}

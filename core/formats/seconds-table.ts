/** Every second of a run by what it is told apart by, as CSV (RFC 4180) or as JSON Lines: for programs to read. */
import type { SliceFigures, SliceRow } from '../result/slices'
import { csvAsIs } from './csv'

/** Times in ms, sizes in bytes; empty, or null: nothing was measured. */
export const FIGURE_COLUMNS: readonly [name: string, value: (f: SliceFigures) => number | undefined][] = [
  ['started', f => f.started],
  ['right', f => f.right],
  ['failed', f => f.failed],
  ['cut', f => f.cut],
  ['min_ms', f => f.minMs],
  ['mean_ms', f => f.meanMs],
  ['p50_ms', f => f.p50Ms],
  ['p90_ms', f => f.p90Ms],
  ['p95_ms', f => f.p95Ms],
  ['p99_ms', f => f.p99Ms],
  ['max_ms', f => f.maxMs],
  ['received_bytes', f => f.bytes],
  ['sent_bytes', f => f.bytesSent],
]

export interface SecondRows {
  second: number
  rows: readonly SliceRow[]
}

export function secondsCsvHead(by: string): string {
  return csvAsIs([['second', by, ...FIGURE_COLUMNS.map(([name]) => name)]])
}

/** Rows in which nothing began and nothing ended are left out. */
export function secondsCsv(seconds: readonly SecondRows[]): string {
  const rows = told(seconds).map(({ second, value, figures: f }) => [
    second,
    value,
    ...FIGURE_COLUMNS.map(([, of]) => of(f)),
  ])
  return rows.length > 0 ? csvAsIs(rows) : ''
}

export function secondsJsonLines(seconds: readonly SecondRows[], by: string): string {
  const figuresOf = (f: SliceFigures) =>
    Object.fromEntries(FIGURE_COLUMNS.map(([name, of]) => [name, of(f) ?? null]))
  return told(seconds)
    .map(({ second, value, figures }) => `${JSON.stringify({ second, [by]: value, ...figuresOf(figures) })}\n`)
    .join('')
}

function told(seconds: readonly SecondRows[]) {
  return seconds.flatMap(({ second, rows }) =>
    rows
      .filter(({ figures: f }) => f.started + f.right + f.failed + f.cut > 0)
      .map(({ value, figures }) => ({ second, value, figures })))
}

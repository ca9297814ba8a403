/** Figures of a window in rows, as CSV (RFC 4180): for programs to read. */
import type { Dimension, SlicePart, Slices } from '../result/slices'
import { csvAsIs } from './csv'
import { FIGURE_COLUMNS } from './seconds-table'

/** @param rows what rows are told apart by: one dimension or two; a row of all comes first, with empty cells there */
export function figuresCsv({ whole, rows: told }: Slices, rows: readonly Dimension[]): string {
  const line = (values: readonly string[], { kind, figures }: Pick<SlicePart, 'kind' | 'figures'>) => [
    ...rows.map((_, at) => values[at] ?? ''),
    kind ?? '',
    ...FIGURE_COLUMNS.map(([, of]) => of(figures)),
  ]
  return csvAsIs([
    [...rows, 'kind', ...FIGURE_COLUMNS.map(([name]) => name)],
    line([], { figures: whole }),
    ...told.flatMap(row =>
      rows.length > 1
        ? (row.parts ?? []).map(part => line([row.value, part.value], { kind: row.kind, ...part }))
        : [line([row.value], row)]),
  ])
}

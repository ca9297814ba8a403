/** Rows as CSV (RFC 4180). */
import Papa from 'papaparse'

type Cell = string | number | undefined | null

/** What a spreadsheet would take for a formula is defused with a leading apostrophe. */
export function csvOf(rows: readonly (readonly Cell[])[]): string {
  return written(rows, true)
}

/** Cells as they are, for programs to read. */
export function csvAsIs(rows: readonly (readonly Cell[])[]): string {
  return written(rows, false)
}

function written(rows: readonly (readonly Cell[])[], escapeFormulae: boolean): string {
  // The package changes no row, though its types do not say so.
  return `${Papa.unparse(rows as Cell[][], { newline: '\r\n', escapeFormulae })}\r\n`
}

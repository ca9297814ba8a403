/** What a list shows of its rows, and how that is searched, sorted and copied. */
import Papa from 'papaparse'

export interface ListColumn<Row> {
  id: string
  /** Empty for a column of acts. */
  head: string
  /** What is sorted, searched and copied; undefined: there is none. Left out: a column of acts. */
  value?: (row: Row) => string | number | undefined
  /** Figures stand at the right. */
  num?: boolean
  /** Of the numbers that are copied: beside each shown one its own may stand. */
  unit?: string
  /** Takes the room that is left, and is cut where that is too little. */
  wide?: boolean
  /** Shown only when it is asked for. */
  asked?: boolean
}

/**
 * Rows in which every word that was typed occurs, or in one they unfold into. @param wanted words in any order; empty
 * finds all
 */
export function rowsWith<Row>(
  rows: readonly Row[],
  columns: readonly ListColumn<Row>[],
  wanted: string,
  parts: (row: Row) => readonly Row[] | undefined = () => undefined,
): Row[] {
  const words = wanted.toLowerCase().split(/\s+/).filter(Boolean)
  if (words.length === 0) return [...rows]
  const has = (row: Row): boolean => {
    const text = columns.map(c => c.value?.(row) ?? '').join(' ').toLowerCase()
    return words.every(w => text.includes(w)) || (parts(row)?.some(has) ?? false)
  }
  return rows.filter(has)
}

/** Numbers by size, words as people sort them (“step 2” before “step 10”). */
export function compareValues(a: string | number, b: string | number): number {
  return typeof a === 'number' && typeof b === 'number' ? a - b : WORDS.compare(String(a), String(b))
}
const WORDS = new Intl.Collator('en', { numeric: true })

/** As text with commas between, a head above: RFC 4180. */
export function toCsv<Row>(rows: readonly Row[], columns: readonly ListColumn<Row>[]): string {
  const told = columns.filter(c => c.value)
  return Papa.unparse(
    { fields: told.map(c => (c.unit ? `${c.head}, ${c.unit}` : c.head)), data: rows.map(row => told.map(c => c.value?.(row) ?? '')) },
    // What a spreadsheet would take for a formula is not one.
    { escapeFormulae: true },
  )
}

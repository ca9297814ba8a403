/** Shares as typed into a cell. */
import type { Share } from '../../core/plan/document'

/** `40`, `12,5`, `40 %`, `rest`, or nothing for 0. Undefined when it is none of these. */
export function readShare(text: string): Share | undefined {
  const t = text.trim().toLowerCase().replace(/\s*%$/, '')
  if (t === '' || t === '-' || t === '–') return 0
  if (t === 'rest' || t === 'r') return 'rest'
  const n = Number(t.replace(',', '.'))
  return Number.isFinite(n) && n >= 0 && n <= 100 ? Math.round(n * 100) : undefined
}

/** “REY 50 %, TAV the rest”; in the order of the plan's locations. */
export function sayRow(row: Readonly<Record<string, Share>>, codes: readonly string[]): string {
  return codes
    .filter(code => (row[code] ?? 0) !== 0)
    .map(code => `${code} ${row[code] === 'rest' ? 'the rest' : `${Number(row[code]) / 100} %`}`)
    .join(', ')
}

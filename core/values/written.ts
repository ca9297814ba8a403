/** Numbers and moments as pages, lines and JSON write them. */

/** A number as it is, or as it is written; undefined: it is none. */
export function numberOf(found: unknown): number | undefined {
  const isWritten = typeof found === 'boolean' || (typeof found === 'string' && found.trim() !== '')
  const n = isWritten ? Number(found) : found
  return typeof n === 'number' && Number.isFinite(n) ? n : undefined
}

/** Above this a number is of ms since 1970, below of s. */
const LEAST_MS = 1e11

/** s or ms since 1970, or ISO 8601. @returns ms since 1970 */
export function momentOf(found: unknown): number | undefined {
  const n = numberOf(found)
  if (n !== undefined) return n > LEAST_MS ? n : n * 1000
  const parsed = typeof found === 'string' ? Date.parse(found) : Number.NaN
  return Number.isNaN(parsed) ? undefined : parsed
}

/**
 * Recognises how a CSV file is written (RFC 4180 and its usual relatives) from its first bytes; what is recognised is
 * shown, and can be overruled.
 */

export const SEPARATORS = [',', ';', '\t', '|'] as const

/**
 * The encoding of a text: its byte-order mark, else UTF-8 where that is valid, else Windows-1252, which every byte
 * sequence is.
 */
export function recogniseEncoding(bytes: Uint8Array): 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252' {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le'
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be'
  // A sequence cut off at the end of the sample is no fault.
  const whole = bytes.length > 4 ? bytes.subarray(0, lastWhole(bytes)) : bytes
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(whole)
    return 'utf-8'
  }
  catch {
    return 'windows-1252'
  }
}

/** End of the last UTF-8 sequence that is not cut off. */
function lastWhole(bytes: Uint8Array): number {
  let end = bytes.length
  for (let back = 1; back <= 4; back++) {
    const byte = bytes[end - back]!
    if ((byte & 0xc0) === 0x80) continue
    const length = byte < 0x80 ? 1 : byte >= 0xf0 ? 4 : byte >= 0xe0 ? 3 : 2
    if (length > back) end -= back
    break
  }
  return end
}

/**
 * The separator that cuts most of the first lines into as many columns as the first of them, more than one; a comma
 * where none does.
 */
export function recogniseSeparator(text: string): string {
  const lines = linesOf(text).slice(0, 20)
  let best: { separator: string, columns: number } = { separator: ',', columns: 1 }
  for (const separator of SEPARATORS) {
    const counts = lines.map(l => countOutsideQuotes(l, separator) + 1)
    if (
      counts.length > 0 &&
      counts[0]! > best.columns &&
      counts.filter(c => c === counts[0]).length >= counts.length * 0.5
    )
      best = { separator, columns: counts[0]! }
  }
  return best.separator
}

/** Whether the first row looks like names: all there, all different, none a number, unlike the row below. */
export function recogniseHeader(rows: readonly (readonly string[])[]): boolean {
  const [first, second] = rows
  if (!first || first.some(c => c.trim() === '' || /^[-+]?[\d.,]+$/.test(c.trim()) || c.includes('@'))) return false
  if (new Set(first.map(c => c.trim().toLowerCase())).size < first.length) return false
  return !second || first.some((c, i) => c !== second[i])
}

/** Lines, but not those inside quotes. */
function linesOf(text: string): string[] {
  const lines: string[] = []
  let quoted = false
  let from = 0
  for (let i = 0; i < text.length; i++) {
    if (text[i] === '"') quoted = !quoted
    else if (text[i] === '\n' && !quoted) {
      lines.push(text.slice(from, i).replace(/\r$/, ''))
      from = i + 1
    }
  }
  // The last line of a sample may be cut off.
  if (lines.length === 0) lines.push(text)
  return lines.filter(l => l !== '')
}

function countOutsideQuotes(line: string, separator: string): number {
  let n = 0
  let quoted = false
  for (const c of line) {
    if (c === '"') quoted = !quoted
    else if (c === separator && !quoted) n++
  }
  return n
}

/** Rows as CSV (RFC 4180). What a spreadsheet would take for a formula is defused with a leading apostrophe. */
export function csvOf(rows: readonly (readonly (string | number | undefined | null)[])[]): string {
  return (
    rows
      .map(row =>
        row
          .map((cell) => {
            if (cell === undefined || cell === null) return ''
            if (typeof cell === 'number') return String(cell)
            const safe = /^[=+\-@\t\r]/.test(cell) ? `'${cell}` : cell
            return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
          })
          .join(','),
      )
      .join('\r\n') + '\r\n'
  )
}

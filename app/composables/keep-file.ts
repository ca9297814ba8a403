/** Hands a file to the browser, which keeps it where it keeps files. */
export function keepFile(name: string, content: Blob | string, type = 'text/plain'): void {
  const blob = typeof content === 'string' ? new Blob([content], { type }) : content
  const address = URL.createObjectURL(blob)
  Object.assign(document.createElement('a'), { href: address, download: name }).click()
  URL.revokeObjectURL(address)
}

/** The three letters a location goes by. */

/** @returns three letters made of a region's name that are not taken; empty where all that begin like it are */
export function freeCode(region: string, taken: ReadonlySet<string>): string {
  const letters = region
    .toUpperCase()
    .replace(/[^A-Z]/g, '')
    .padEnd(3, 'X')
  if (!taken.has(letters.slice(0, 3))) return letters.slice(0, 3)
  for (let n = 0; n < 26 * 26; n++) {
    const code = letters[0]! + String.fromCharCode(65 + Math.floor(n / 26), 65 + (n % 26))
    if (!taken.has(code)) return code
  }
  return ''
}

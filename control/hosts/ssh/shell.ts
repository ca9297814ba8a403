/** Words as a POSIX shell reads them, whatever characters are in them. */

/** One word, to the letter. */
export function shellWord(text: string): string {
  return `'${text.replaceAll('\'', `'\\''`)}'`
}

/** A path below the home directory or from the root, as one word. */
export function shellPath(path: string): string {
  return path.startsWith('~/') ? `"$HOME"/${shellWord(path.slice(2))}` : shellWord(path)
}

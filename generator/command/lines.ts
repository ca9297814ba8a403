/** Cuts what a program writes into lines. */

/** Longest line read, characters: an endless one must not fill the memory. */
const MOST_LINE_CHARACTERS = 64 * 1024

/** Cuts a stream of text into lines; what is too long for one is given up. */
export class Lines {
  private rest = ''
  private skipping = false

  constructor(private readonly take: (line: string) => void) {}

  add(text: string): void {
    const parts = (this.rest + text).split('\n')
    this.rest = parts.pop() ?? ''
    for (const line of parts) {
      if (this.skipping) this.skipping = false
      else if (line.trim() !== '') this.take(line)
    }
    if (this.rest.length > MOST_LINE_CHARACTERS) {
      this.rest = ''
      this.skipping = true
    }
  }

  end(): void {
    if (this.rest.trim() !== '' && !this.skipping) this.take(this.rest)
    this.rest = ''
  }
}

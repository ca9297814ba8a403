/**
 * What a generator's part in a run under load is: one of a few, each with what only it has. Nothing else knows who is
 * there.
 */

/** It has its users, or is about to send them away because its machine is taken back. */
export interface There {
  is: 'playing' | 'leaving'
  /** Nothing was heard of it since, and its users are unknown, ms since 1970. */
  silentSince?: number
}

export type Part =
  | There
  /** It joins while the run loads, and has not yet. */
  | { is: 'coming', toldLate: boolean }
  /** It never came; known since this run second. */
  | { is: 'absent', sinceSecond: number }
  /** It went without a last word, as is known since this run second. `isComplete`: that word was brought back later. */
  | { is: 'gone', sinceSecond: number, isComplete: boolean }
  /**
   * Its last frame, and all before, is safe. `leftAt`: since when that is known of one that was there for the peak
   * only, ms since 1970.
   */
  | { is: 'finished', leftAt?: number }

export class Parts {
  private readonly parts = new Map<number, Part>()

  /** @param number of the generator; one that was never told of otherwise is playing */
  of(number: number): Part {
    return this.parts.get(number) ?? { is: 'playing' }
  }

  /** The same, of one that is there. */
  ofThere(number: number): There | undefined {
    const part = this.of(number)
    return part.is === 'playing' || part.is === 'leaving' ? part : undefined
  }

  set(number: number, part: Part): void {
    this.parts.set(number, part)
  }

  /** Its last word is in. One that has been given up stays that. */
  finish(number: number): void {
    const part = this.of(number)
    if (part.is === 'gone') this.set(number, { ...part, isComplete: true })
    else if (part.is !== 'absent' && part.is !== 'finished') this.set(number, { is: 'finished' })
  }

  /** Those of such a part, with their numbers. One that was never told of is not among them. */
  all<Is extends Part['is']>(...are: Is[]): [number, Part & { is: Is }][] {
    return [...this.parts].filter((entry): entry is [number, Part & { is: Is }] =>
      are.some(is => is === entry[1].is),
    )
  }

  /** Of those who are there and not heard: since when. */
  silent(): Map<number, number> {
    return new Map(
      this.all('playing', 'leaving').flatMap(([number, { silentSince }]) =>
        silentSince === undefined ? [] : [[number, silentSince]],
      ),
    )
  }
}

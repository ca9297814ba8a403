/**
 * How far a source's clock is from ours, from the moment its answers say they were made (RFC 9110 §6.6.1: whole
 * seconds). Each answer was made between our request and its receipt; what all of them allow is what is known.
 */

export interface SourceClock {
  /** So far ahead of ours, ms. */
  offsetMs: number
  /** How far that may be off, ms. */
  uncertaintyMs: number
}

/** A date of whole seconds stands for any moment of its second, ms. */
const SECOND_MS = 1000

export class SourceClockBook {
  private least = Number.NEGATIVE_INFINITY
  private most = Number.POSITIVE_INFINITY

  /** @param date header as received @param askedAt, gotAt on our clock, ms since 1970 */
  note(date: string | undefined, askedAt: number, gotAt: number): void {
    const said = date === undefined ? Number.NaN : Date.parse(date)
    if (!Number.isNaN(said)) this.noteMoment(said, SECOND_MS, askedAt, gotAt)
  }

  /** @param saidMs what its clock showed, ms since 1970, or up to `withinMs` more */
  noteMoment(saidMs: number, withinMs: number, askedAt: number, gotAt: number): void {
    const [least, most] = [saidMs - gotAt, saidMs + withinMs - askedAt]
    // Contradicts what was known: its clock was set anew.
    if (least > this.most || most < this.least) [this.least, this.most] = [least, most]
    else [this.least, this.most] = [Math.max(this.least, least), Math.min(this.most, most)]
  }

  /** undefined: its answers carry no date. */
  get known(): SourceClock | undefined {
    if (!Number.isFinite(this.least)) return undefined
    return { offsetMs: (this.least + this.most) / 2, uncertaintyMs: (this.most - this.least) / 2 }
  }
}

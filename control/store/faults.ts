/** What went wrong while nobody was asking: each kind once, with how often, until it goes well again. */
import type { Clock } from '../clock'
import { forgetOldest } from '../../core/values/forget-oldest'

export interface InnerFault {
  /** What was being done, in words: `giving back what is due`. */
  what: string
  sentence: string
  times: number
  /** First and last time, ms since 1970. */
  since: number
  at: number
}

/** Kinds that are kept; the oldest goes. */
const MOST_FAULTS = 20

export class InnerFaults {
  private readonly kinds = new Map<string, InnerFault>()

  constructor(private readonly clock: Pick<Clock, 'now'>) {}

  tell(what: string, error: unknown): void {
    const at = this.clock.now()
    const before = this.kinds.get(what)
    const sentence = error instanceof Error ? error.message : String(error)
    // The console has what a person who fixes it needs.
    if (before?.sentence !== sentence) console.error(`${what}:`, error)
    this.kinds.delete(what)
    this.kinds.set(what, { what, sentence, times: (before?.times ?? 0) + 1, since: before?.since ?? at, at })
    forgetOldest(this.kinds, MOST_FAULTS)
  }

  /** It went well. */
  settle(what: string): void {
    this.kinds.delete(what)
  }

  /** The latest first. */
  list(): InnerFault[] {
    return [...this.kinds.values()].reverse()
  }
}

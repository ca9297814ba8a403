/** Calls each user's start and stop at its moment: one sorted list, one timer. */

/** One start or stop. */
export interface Cue {
  /** ms from the start of the run. */
  atMs: number
  act: (now: number) => void
}

export class Schedule {
  private next = 0
  private timer: NodeJS.Timeout | undefined

  /**
   * @param cues in any order
   * @param startedAt monotonic moment of run second 0, ms
   * @param lag notes how late each cue was, ms
   * @param done called when the last cue has been given
   */
  constructor(private readonly cues: Cue[], private readonly startedAt: number, private readonly lag: (ms: number) => void, private readonly done: () => void) {
    cues.sort((a, b) => a.atMs - b.atMs)
  }

  get finished(): boolean { return this.next >= this.cues.length }

  run = (): void => {
    const { cues } = this
    let now = performance.now() - this.startedAt
    while (this.next < cues.length && cues[this.next]!.atMs <= now) {
      const cue = cues[this.next++]!
      this.lag(now - cue.atMs)
      cue.act(now + this.startedAt)
      now = performance.now() - this.startedAt
    }
    if (this.next >= cues.length) return this.done()
    // Node rounds timers down to whole ms; one more keeps it from waking just before.
    this.timer = setTimeout(this.run, Math.max(0, Math.ceil(cues[this.next]!.atMs - now)))
  }

  /** Gives no further cue. */
  stop(): void {
    clearTimeout(this.timer)
    this.next = this.cues.length
  }
}

/** Calls what is due at its moment: one list in order of time, one timer. */

/** What is due when. Entries rise in time. */
export interface CueList {
  readonly length: number
  /** ms from the start of the run. */
  atMs(index: number): number
  /** @param now monotonic, ms */
  give(index: number, now: number): void
}

/** One start or stop. */
export interface Cue {
  /** ms from the start of the run. */
  atMs: number
  act: (now: number) => void
}

/** Cues given in any order. */
export function cueList(cues: Cue[]): CueList {
  cues.sort((a, b) => a.atMs - b.atMs)
  return { length: cues.length, atMs: i => cues[i]!.atMs, give: (i, now) => cues[i]!.act(now) }
}

export class Schedule {
  private next = 0
  private timer: NodeJS.Timeout | undefined

  /**
   * @param startedAt monotonic moment of run second 0, ms
   * @param lag notes how late each cue was, ms
   * @param done called when the last cue has been given
   */
  constructor(
    private readonly cues: CueList,
    private readonly startedAt: number,
    private readonly lag: (ms: number) => void,
    private readonly done: () => void,
  ) {}

  get finished(): boolean {
    return this.next >= this.cues.length
  }

  /** Cues not given yet, from this one on. */
  get position(): number {
    return this.next
  }

  run = (): void => {
    const { cues } = this
    let now = performance.now() - this.startedAt
    while (this.next < cues.length && cues.atMs(this.next) <= now) {
      const index = this.next++
      this.lag(now - cues.atMs(index))
      cues.give(index, now + this.startedAt)
      now = performance.now() - this.startedAt
    }
    if (this.next >= cues.length) return this.done()
    // Node rounds timers down to whole ms; one more keeps it from waking just before.
    this.timer = setTimeout(this.run, Math.max(0, Math.ceil(cues.atMs(this.next) - now)))
  }

  /** Gives no further cue. */
  stop(): void {
    clearTimeout(this.timer)
    this.next = this.cues.length
  }
}

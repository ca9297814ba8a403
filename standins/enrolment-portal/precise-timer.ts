/**
 * Calls back at moments given in fractions of a millisecond: timers alone round to whole ms and are late by half of one
 * on average.
 */

/** Within this of the next moment the loop is watched instead of slept through, ms. */
const WATCH_MS = 1.5

export class PreciseTimer {
  /** Heap by moment. */
  private readonly heap: { at: number, call: () => void }[] = []
  private waking = false

  at(moment: number, call: () => void): void {
    const { heap } = this
    heap.push({ at: moment, call })
    for (let i = heap.length - 1; i > 0;) {
      const up = (i - 1) >> 1
      if (heap[up]!.at <= heap[i]!.at) break
      ;[heap[up], heap[i]] = [heap[i]!, heap[up]!]
      i = up
    }
    if (!this.waking || heap[0]!.call === call) this.wake()
  }

  private timer: NodeJS.Timeout | undefined

  private readonly wake = (): void => {
    clearTimeout(this.timer)
    this.waking = false
    const now = performance.now()
    while (this.heap.length > 0 && this.heap[0]!.at <= now) this.pop().call()
    if (this.heap.length === 0) return
    this.waking = true
    const wait = this.heap[0]!.at - performance.now()
    if (wait > WATCH_MS) this.timer = setTimeout(this.wake, Math.floor(wait - 1))
    else setImmediate(this.wake)
  }

  private pop(): { at: number, call: () => void } {
    const { heap } = this
    const first = heap[0]!
    // Not empty, as the caller has seen.
    const last = heap.pop()!
    if (heap.length > 0) {
      heap[0] = last
      for (let i = 0; ;) {
        const left = 2 * i + 1
        if (left >= heap.length) break
        const least = left + 1 < heap.length && heap[left + 1]!.at < heap[left]!.at ? left + 1 : left
        if (heap[least]!.at >= heap[i]!.at) break
        ;[heap[least], heap[i]] = [heap[i]!, heap[least]!]
        i = least
      }
    }
    return first
  }
}

/**
 * The world simulated users live in: one queue of time, and a target with a finite number of workers. Everything
 * happens in virtual time, in order, so a run of minutes is over in seconds and comes out the same every time.
 */
import { seededRandom } from '../core/random/seeded'

export interface WorldOptions {
  /** Workers of the target. */
  workers: number
  /** Requests the target lets wait before it turns further ones away. */
  mostWaiting: number
  /** Median service time of a step, ms. */
  serviceMs: (step: string) => number
  /** Spread of service times (standard deviation of their logarithm). */
  sigma: number
  seed: number
}

/** How the target treats a request: when the answer is there, or that it is turned away. */
export interface SimAnswer {
  at: number
  right: boolean
}

export class World {
  private readonly events: { at: number, order: number, happen: () => void }[] = []
  private order = 0
  private readonly freeAt: number[]
  private readonly begins: number[] = []
  readonly random: () => number
  now = 0

  constructor(private readonly options: WorldOptions) {
    this.random = seededRandom(options.seed)
    this.freeAt = new Array<number>(options.workers).fill(0)
  }

  at(moment: number, happen: () => void): void {
    const { events } = this
    events.push({ at: moment, order: this.order++, happen })
    for (let i = events.length - 1; i > 0;) {
      const up = (i - 1) >> 1
      if (!before(events[i]!, events[up]!)) break
      ;[events[up], events[i]] = [events[i]!, events[up]!]
      i = up
    }
  }

  /** Lets everything happen up to a moment. */
  advance(to: number): void {
    while (this.events.length > 0 && this.events[0]!.at <= to) {
      const event = this.pop()
      this.now = event.at
      event.happen()
    }
    this.now = to
  }

  /** A request arrives now. */
  request(step: string): SimAnswer {
    const { workers, mostWaiting, sigma, serviceMs } = this.options
    while (this.begins.length > 0 && this.begins[0]! <= this.now) this.begins.shift()
    if (this.begins.length >= mostWaiting) return { at: this.now + 2, right: false }
    let earliest = 0
    for (let i = 1; i < workers; i++) if (this.freeAt[i]! < this.freeAt[earliest]!) earliest = i
    const begins = Math.max(this.now, this.freeAt[earliest]!)
    if (begins > this.now) this.begins.push(begins)
    const normal = Math.sqrt(-2 * Math.log(1 - this.random())) * Math.cos(2 * Math.PI * this.random())
    this.freeAt[earliest] = begins + serviceMs(step) * Math.exp(sigma * normal)
    return { at: this.freeAt[earliest]!, right: true }
  }

  private pop() {
    const { events } = this
    const first = events[0]!
    // Not empty, as the caller has seen.
    const last = events.pop()!
    if (events.length > 0) {
      events[0] = last
      for (let i = 0; ;) {
        const left = 2 * i + 1
        if (left >= events.length) break
        const least = left + 1 < events.length && before(events[left + 1]!, events[left]!) ? left + 1 : left
        if (!before(events[least]!, events[i]!)) break
        ;[events[least], events[i]] = [events[i]!, events[least]!]
        i = least
      }
    }
    return first
  }
}

function before(a: { at: number, order: number }, b: { at: number, order: number }): boolean {
  return a.at < b.at || (a.at === b.at && a.order < b.order)
}

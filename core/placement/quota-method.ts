/**
 * Deals the users of one group to locations, one after another, so that every location is within one user of its exact
 * share at *every* prefix: shares hold all through a ramp, not just at its top.
 *
 * Source: the quota method (Balinski & Young 1975): among locations whose count is below their exact quota n·share, the
 * one with the largest share ÷ (count + 1). The first user may be sent elsewhere by the caller; then a lower-quota
 * guard keeps the bound (Still 1979: any choice inside the upper- and lower-quota eligible sets stays within quota).
 */

/** Shares are integers in basis points (1 = 0.01 %). With floats the bound would break. */
export type BasisPoints = number

/**
 * The sequence of locations for users 1, 2, …, over one period; after it the sequence repeats.
 * Its length is the sum of the weights divided by their greatest common divisor.
 *
 * @param weights one non-negative whole number per location, not all 0
 * @param first location that gets the first user; its weight must not be 0. Default: the one with the largest weight
 * @param most no more than this many users of the period are needed
 * @returns location index per user of the period
 */
export function quotaSequence(
  weights: readonly BasisPoints[],
  first?: number,
  most = Number.POSITIVE_INFINITY,
): Uint16Array {
  const divisor = weights.reduce(gcd, 0)
  if (divisor === 0) return new Uint16Array(0)
  const w = weights.map(x => x / divisor)
  const period = w.reduce((sum, x) => sum + x, 0)
  const length = Math.min(period, most)
  const sequence = new Uint16Array(length)
  const counts = new Array<number>(w.length).fill(0)
  const waiting = new Eligible(w, period, length)
  let guarded = first !== undefined
  for (let n = 1; n <= length; n++) {
    waiting.release(n)
    let chosen: number
    if (n === 1 && first !== undefined) chosen = waiting.takeThis(first)
    else {
      const must = guarded ? mustBeAmong(w, period, counts, n) : undefined
      if (guarded && must === undefined && isOrdinary(w, period, counts, n - 1)) guarded = false
      chosen = must ? waiting.takeAmong(must) : waiting.take()
    }
    sequence[n - 1] = chosen
    waiting.putBack(chosen, ++counts[chosen]!, n + 1)
  }
  return sequence
}

/**
 * Locations below their quota, the one with the largest share ÷ (count + 1) first: a heap of deadlines (Tijdeman 1980).
 * The others wait in the bucket of the user from whom on they are below it again: the first n with count < n·w ÷
 * period. Fractions are compared as floats: equal ones give equal floats, unequal ones differ by far more than
 * rounding.
 */
class Eligible {
  private readonly heap: number[] = []
  /** (count + 1) ÷ weight. */
  private readonly deadline: Float64Array
  /** First location released with a user, and the next one behind each; −1 ends. */
  private readonly bucket: Int32Array
  private readonly behind: Int32Array

  constructor(
    private readonly weights: readonly number[],
    private readonly period: number,
    private readonly length: number,
  ) {
    this.deadline = Float64Array.from(weights, w => 1 / w)
    this.bucket = new Int32Array(length + 2).fill(-1)
    this.behind = new Int32Array(weights.length).fill(-1)
    // Backwards, so that ties keep their order.
    for (let i = weights.length - 1; i >= 0; i--) if (weights[i]! > 0) this.schedule(i, 1)
  }

  release(n: number): void {
    for (let i = this.bucket[n]!; i >= 0; i = this.behind[i]!) this.push(i)
  }

  take(): number {
    const { heap } = this
    const top = heap[0]!
    // Not empty, as the caller has seen.
    const last = heap.pop()!
    if (heap.length > 0) this.sink(0, last)
    return top
  }

  takeThis(location: number): number {
    const place = this.heap.indexOf(location)
    // Not empty: this location is in it.
    const last = this.heap.pop()!
    if (place < this.heap.length) this.rebuild(place, last)
    return location
  }

  takeAmong(allowed: readonly boolean[]): number {
    let best = -1
    for (const i of this.heap) if (allowed[i] && (best < 0 || this.before(i, best))) best = i
    return this.takeThis(best)
  }

  /** @param next the next user: one that has fallen behind its quota waits no longer than for that one */
  putBack(location: number, count: number, next: number): void {
    this.deadline[location] = (count + 1) / this.weights[location]!
    this.schedule(location, Math.max(next, Math.floor((count * this.period) / this.weights[location]!) + 1))
  }

  private schedule(location: number, n: number): void {
    if (n > this.length) return
    this.behind[location] = this.bucket[n]!
    this.bucket[n] = location
  }

  /** Ties go by order. */
  private before(a: number, b: number): boolean {
    const x = this.deadline[a]!
    const y = this.deadline[b]!
    return x < y || (x === y && a < b)
  }

  private push(location: number): void {
    this.rise(this.heap.length, location)
  }

  private rebuild(place: number, location: number): void {
    this.sink(place, location)
    if (this.heap[place] === location) this.rise(place, location)
  }

  private rise(from: number, location: number): void {
    const { heap } = this
    let place = from
    while (place > 0) {
      const parent = (place - 1) >> 1
      if (!this.before(location, heap[parent]!)) break
      heap[place] = heap[parent]!
      place = parent
    }
    heap[place] = location
  }

  private sink(from: number, location: number): void {
    const { heap } = this
    let place = from
    for (;;) {
      let child = place * 2 + 1
      if (child >= heap.length) break
      if (child + 1 < heap.length && this.before(heap[child + 1]!, heap[child]!)) child++
      if (!this.before(heap[child]!, location)) break
      heap[place] = heap[child]!
      place = child
    }
    heap[place] = location
  }
}

/**
 * Whether no location holds more than the quota method itself would let it: from here on the plain method keeps its
 * bound.
 */
function isOrdinary(w: number[], period: number, counts: number[], n: number): boolean {
  return (
    counts.every((c, i) => c <= Math.ceil((n * w[i]!) / period)) &&
    counts.every((c, i) => c >= Math.floor((n * w[i]!) / period)) &&
    n > w.length
  )
}

/**
 * Still's lower-quota test for the n-th user: if some later total b leaves no slack, only those still below their floor
 * at b may be chosen. Looks no further than where every location's floor has passed its count.
 */
function mustBeAmong(w: number[], period: number, counts: number[], n: number): boolean[] | undefined {
  for (let b = n; b <= period; b++) {
    let needed = 0
    let ahead = false
    for (let i = 0; i < w.length; i++) {
      const floor = Math.floor((b * w[i]!) / period)
      if (counts[i]! > floor) ahead = true
      needed += Math.max(counts[i]!, floor)
    }
    if (needed >= b) return w.map((x, i) => counts[i]! < Math.floor((b * x) / period))
    if (!ahead) return undefined
  }
  return undefined
}

/** Users after whom the sequence of these weights repeats. */
export function periodOf(weights: readonly BasisPoints[]): number {
  const divisor = weights.reduce(gcd, 0)
  return divisor === 0 ? 0 : weights.reduce((sum, w) => sum + w / divisor, 0)
}

/** How many of the first `users` of a sequence that repeats fall to each location. */
export function countsOf(sequence: Uint16Array, locations: number, users: number): number[] {
  const counts = new Array<number>(locations).fill(0)
  if (sequence.length === 0) return counts
  const whole = Math.floor(users / sequence.length)
  const rest = users % sequence.length
  if (whole > 0) for (const location of sequence) counts[location]! += whole
  for (let i = 0; i < rest; i++) counts[sequence[i]!]!++
  return counts
}

function gcd(a: number, b: number): number {
  return b === 0 ? a : gcd(b, a % b)
}

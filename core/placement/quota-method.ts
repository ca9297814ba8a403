/**
 * Deals the users of one group to locations, one after another, so that every location is within one user of its exact share at
 * *every* prefix: shares hold all through a ramp, not just at its top.
 *
 * Source: the quota method (Balinski & Young 1975): among locations whose count is below their exact quota n·share, the one with the largest
 * share ÷ (count + 1). The first user may be sent elsewhere by the caller; then a lower-quota guard keeps the bound (Still 1979:
 * any choice inside the upper- and lower-quota eligible sets stays within quota).
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
export function quotaSequence(weights: readonly BasisPoints[], first?: number, most = Number.POSITIVE_INFINITY): Uint16Array {
  const divisor = weights.reduce(gcd, 0)
  if (divisor === 0) return new Uint16Array(0)
  const w = weights.map(x => x / divisor)
  const period = w.reduce((sum, x) => sum + x, 0)
  const length = Math.min(period, most)
  const sequence = new Uint16Array(length)
  const counts = new Array<number>(w.length).fill(0)
  let guarded = first !== undefined
  for (let n = 1; n <= length; n++) {
    let chosen = -1
    if (n === 1 && first !== undefined) chosen = first
    else {
      const must = guarded ? mustBeAmong(w, period, counts, n) : undefined
      if (guarded && must === undefined && isOrdinary(w, period, counts, n - 1)) guarded = false
      for (let i = 0; i < w.length; i++) {
        if (must && !must[i]) continue
        // below its exact quota: count < n·w/period
        if (counts[i]! * period >= n * w[i]!) continue
        if (chosen < 0 || w[i]! * (counts[chosen]! + 1) > w[chosen]! * (counts[i]! + 1)) chosen = i
      }
    }
    sequence[n - 1] = chosen
    counts[chosen]!++
  }
  return sequence
}

/** Whether no location holds more than the quota method itself would let it: from here on the plain method keeps its bound. */
function isOrdinary(w: number[], period: number, counts: number[], n: number): boolean {
  return counts.every((c, i) => c <= Math.ceil(n * w[i]! / period)) && counts.every((c, i) => c >= Math.floor(n * w[i]! / period)) && n > w.length
}

/**
 * Still's lower-quota test for the n-th user: if some later total b leaves no slack, only those still below their floor at b may be
 * chosen. Looks no further than where every location's floor has passed its count.
 */
function mustBeAmong(w: number[], period: number, counts: number[], n: number): boolean[] | undefined {
  for (let b = n; b <= period; b++) {
    let needed = 0
    let ahead = false
    for (let i = 0; i < w.length; i++) {
      const floor = Math.floor(b * w[i]! / period)
      if (counts[i]! > floor) ahead = true
      needed += Math.max(counts[i]!, floor)
    }
    if (needed >= b) return w.map((x, i) => counts[i]! < Math.floor(b * x / period))
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

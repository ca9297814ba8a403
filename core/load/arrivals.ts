/**
 * Moments at which passes are due when the profile is a rate: computed once, from the profile and a seed, so that every
 * machine knows them all and starts its own. What is due follows the area Λ(t) under the profile exactly.
 */
import { seededRandom } from '../random/seeded'
import type { LoadProfile } from './profile'

/** Passes beyond this are refused: the moments would not fit a generator's memory. */
export const MOST_ARRIVALS = 5_000_000

/** Number of passes a profile of pass starts per second asks for: the area under it. */
export function arrivalsIn(profile: LoadProfile): number {
  let level = 0
  let area = 0
  for (const { to, overMs } of profile.segments) {
    area += (((level + to) / 2) * overMs) / 1000
    level = to
  }
  return area
}

/**
 * Moments in ms from the start of the run, rising.
 *
 * `even`: the n-th pass is due when the area reaches n − ½. `poisson`: unit-rate exponential gaps carried through the
 * inverse of the area, which makes a Poisson process whose rate is the profile (time change: Çinlar, Introduction to
 * Stochastic Processes, 1975, ch. 4).
 *
 * @throws RangeError when there are more than {@link MOST_ARRIVALS}
 */
export function arrivalMoments(profile: LoadProfile, spacing: 'even' | 'poisson', seed: number): Int32Array {
  const whole = arrivalsIn(profile)
  if (whole > MOST_ARRIVALS)
    throw new RangeError(`${Math.round(whole)} passes are more than one group takes (${MOST_ARRIVALS})`)
  const random = seededRandom(seed)
  const gap = spacing === 'even' ? () => 1 : () => -Math.log(1 - random())
  const moments: number[] = []
  let due = spacing === 'even' ? 0.5 : gap()
  let at = profile.startDelayMs
  let level = 0
  let before = 0
  for (const { to, overMs } of profile.segments) {
    const lengthS = overMs / 1000
    const area = ((level + to) / 2) * lengthS
    while (due < before + area) {
      moments.push(Math.round(at + timeToArea(due - before, level, to, lengthS) * 1000))
      due += gap()
    }
    before += area
    at += overMs
    level = to
  }
  return Int32Array.from(moments)
}

/**
 * Seconds into a straight stretch until its area reaches a value: the root of a·x + (b − a)·x² ÷ 2T, in the form that
 * does not cancel.
 */
function timeToArea(area: number, from: number, to: number, lengthS: number): number {
  return (2 * area) / (from + Math.sqrt(Math.max(0, from * from + (2 * (to - from) * area) / lengthS)))
}

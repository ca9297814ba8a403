/**
 * How one run differs from another, and whether that is more than runs of one set-up differ by themselves (design:
 * computation §12).
 */
import { holm } from '../values/fisher'
import { meanAndDeviation, studentQuantile, studentShare } from '../values/student-t'
import { isRatio, type ComparedMetric } from './rows'
import type { Spread } from './spread'

/** Differences of times and rates are logarithms of ratios, those of failures shares of one. */
export interface Difference {
  /** Against the baseline. */
  by: number
  /** 95 %, by the seconds of both runs alone; left out: too short to tell. */
  interval?: [least: number, most: number]
}

/** How far repeats of one set-up lie apart, as differences from the baseline. */
export interface Yardstick {
  /** Where one more run is expected, 95 %. */
  least: number
  most: number
  /** Each repeat. */
  repeats: number[]
}

/** `alone`: beyond by itself, and no more than chance brings among that many rows. */
export type Standing = 'beyond' | 'alone' | 'within' | 'untold'

const CONFIDENCE = 0.95
/** Repeats that tell of a spread, the baseline among them. */
export const LEAST_REPEATS = 3

const toScale = (metric: ComparedMetric, value: number | undefined): number | undefined =>
  value === undefined || (isRatio(metric) && value <= 0) ? undefined : isRatio(metric) ? Math.log(value) : value

/** A value that differs so from another; shares end at nothing. */
export function valueAt(metric: ComparedMetric, from: number, by: number): number {
  return isRatio(metric) ? from * Math.exp(by) : Math.max(0, from + by)
}

/** @returns undefined: one of them has nothing to compare */
export function differenceOf(metric: ComparedMetric, of: Spread, baseline: Spread): Difference | undefined {
  const [a, b] = [toScale(metric, baseline.value), toScale(metric, of.value)]
  if (a === undefined || b === undefined) return undefined
  const by = b - a
  if (of.error === undefined || baseline.error === undefined) return { by }
  const [u, v] = [of.error ** 2, baseline.error ** 2]
  const error = Math.sqrt(u + v)
  if (error === 0) return { by, interval: [by, by] }
  // Welch 1947: degrees of freedom of a difference whose parts spread unlike.
  const freedom = (u + v) ** 2 / (u ** 2 / (of.blocks - 1) + v ** 2 / (baseline.blocks - 1))
  const half = studentQuantile((1 + CONFIDENCE) / 2, freedom) * error
  return { by, interval: [by - half, by + half] }
}

/**
 * @param repeats values of runs of the baseline's set-up, its own among them
 * @returns undefined: there are too few
 */
export function yardstickOf(
  metric: ComparedMetric,
  repeats: readonly (number | undefined)[],
  baseline: number | undefined,
): (Yardstick & { chanceOf: (by: number) => number }) | undefined {
  const from = toScale(metric, baseline)
  const known = repeats.flatMap(value => toScale(metric, value) ?? [])
  if (from === undefined || known.length < LEAST_REPEATS) return undefined
  const k = known.length
  const { mean, deviation } = meanAndDeviation(known)
  // Prediction interval of one more (normal theory).
  const error = deviation * Math.sqrt(1 + 1 / k)
  const half = studentQuantile((1 + CONFIDENCE) / 2, k - 1) * error
  return {
    least: mean - half - from,
    most: mean + half - from,
    repeats: known.map(v => v - from),
    chanceOf: (by) => {
      const off = Math.abs(by + from - mean)
      if (error === 0) return off === 0 ? 1 : 0
      return 2 * (1 - studentShare(off / error, k - 1))
    },
  }
}

/** One row that is judged. */
export interface JudgedDifference {
  difference: Difference | undefined
  yardstick: ReturnType<typeof yardstickOf>
}

/**
 * How every row stands: beyond, where its whole interval lies outside what one more run of the set-up would show; over
 * many rows chance is reckoned with (Holm 1979).
 */
export function standingsOf(rows: readonly JudgedDifference[]): Standing[] {
  const chances = rows.map(({ difference, yardstick }) =>
    difference && yardstick ? yardstick.chanceOf(difference.by) : undefined)
  const isRejected = holm(chances, 1 - CONFIDENCE)
  return rows.map(({ difference, yardstick }, i) => {
    if (!difference?.interval || !yardstick) return 'untold'
    const [least, most] = difference.interval
    if (most >= yardstick.least && least <= yardstick.most) return 'within'
    return isRejected[i] ? 'beyond' : 'alone'
  })
}

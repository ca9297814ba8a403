/**
 * How a series was at rest before the load, and when it was so again (computation: the target's account). The baseline
 * is a median, so that one odd reading does not move it.
 */
import { median } from '../values/median'

export interface Value {
  /** Run time, s; before the load: negative. */
  atS: number
  value: number
}

export interface Baseline {
  /** Median before the load. */
  value: number
  /** So near to it is as before. */
  within: number
}

export interface Recovery extends Baseline {
  /** Furthest from the baseline under load. */
  furthest: Value
  /** Run time from which on it was as before, s; undefined: it never was, as far as was read. */
  atS?: number
}

/** Of the baseline, of the excursion: the tolerance is never narrower than these, nor than 1. */
const OF_BASELINE = 0.1
const OF_EXCURSION = 0.02
const LEAST = 1
const DEVIATIONS = 3
/** Makes the median absolute deviation one of a normal spread (Rousseeuw and Croux 1993). */
const NORMAL = 1.4826
/** Long enough to be called as before, s. */
const STEADY_S = 30
/** Readings that make a baseline. */
const LEAST_READINGS = 3

/**
 * @param values in order of time @param loadEndsS run time at which the load ended
 * @param isExact whole things that are counted out, as replicas are: only the same is as before
 * @returns undefined: too little was read before the load, or nothing under it
 */
export function recoveryOf(values: readonly Value[], loadEndsS: number, isExact = false): Recovery | undefined {
  const before = values.filter(v => v.atS < 0).map(v => v.value)
  const since = values.filter(v => v.atS >= 0)
  if (before.length < LEAST_READINGS || since.length === 0) return undefined
  const value = median(before)
  const spread = NORMAL * median(before.map(v => Math.abs(v - value)))
  const away = (v: Value) => Math.abs(v.value - value)
  const furthest = since.reduce((a, b) => (away(b) > away(a) ? b : a))
  const tolerance = Math.max(OF_BASELINE * Math.abs(value), LEAST, OF_EXCURSION * away(furthest), DEVIATIONS * spread)
  const within = isExact ? 0 : tolerance
  const atS = steadyFrom(since.filter(v => v.atS >= loadEndsS), v => away(v) <= within)
  return { value, within, furthest, ...(atS === undefined ? {} : { atS }) }
}

/** Since when all readings are right, where that lasts long enough. */
function steadyFrom(values: readonly Value[], isRight: (value: Value) => boolean): number | undefined {
  let from: number | undefined
  for (const v of values) {
    if (!isRight(v)) from = undefined
    else {
      from ??= v.atS
      if (v.atS - from >= STEADY_S) return from
    }
  }
  return undefined
}

export interface GaugeStep {
  atS: number
  from: number
  to: number
}

/** Where a gauge of whole things changes, and stays so for two readings. */
export function stepsOf(values: readonly Value[]): GaugeStep[] {
  const steps: GaugeStep[] = []
  let stays = values[0]?.value
  for (let i = 1; i + 1 < values.length; i++) {
    const { atS, value } = values[i]!
    if (stays === undefined || value === stays || values[i + 1]!.value !== value) continue
    steps.push({ atS, from: stays, to: value })
    stays = value
  }
  return steps
}

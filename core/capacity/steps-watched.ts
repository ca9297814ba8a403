/** Seconds of a calibration gathered by the level they were watched at, with what their noise says of the means. */
import { median } from '../values/median'

/** A level that was held: users of one generator, and a signal second by second, those of settling in left out. */
export interface WatchedLevel {
  users: number
  values: readonly number[]
}

export interface LevelMean {
  users: number
  mean: number
  se: number
  n: number
}

export interface WatchedMeans {
  /** Rising in users. */
  levels: LevelMean[]
  /**
   * How much neighbouring seconds resemble one another: coefficient of a first-order autoregression, 0 to {@link
   * MOST_RESEMBLING}.
   */
  resemblance: number
}

/** Weight of the pooled noise beside a level's own, in seconds: few seconds say little of their own spread. */
const POOLED_SECONDS = 8
/** Seconds that resemble one another more are taken for one that drifts. */
const MOST_RESEMBLING = 0.95
/** This many standard deviations of it are added. */
const UNSURE_OF_RESEMBLANCE = 0.8
/** Resemblance is looked for in steps this fine. */
const RESEMBLANCE_STEPS = 100
/**
 * A robust spread counts seconds no further out than this many scaled median deviations (Huber 1981; 1.4826 makes one a
 * standard deviation under normal noise).
 */
const SPIKE_MADS = 3

/**
 * Means per level, rising in users. Noise is pooled over the levels, in proportion to their means or as it is. Seconds
 * resemble their neighbours, and the more so the fewer independent ones they are worth: as of a first-order
 * autoregression (Box & Jenkins 1976), whose coefficient is found from how the seconds of each level scatter about its
 * own mean, by what such scatter is expected to be in stretches of their lengths.
 *
 * @param finest smallest standard error and smallest mean that noise is held against
 * @param spiking medians instead of means, and noise that does not grow with them: for logarithms of what spikes
 */
export function meansOf(levels: readonly WatchedLevel[], finest: number, spiking = false): WatchedMeans {
  const used = levels.filter(l => l.values.length > 0).sort((a, b) => a.users - b.users)
  const centres = used.map(l =>
    spiking ? median(l.values) : l.values.reduce((sum, v) => sum + v, 0) / l.values.length,
  )
  const unitOf = (k: number) => (spiking ? 1 : Math.max(Math.abs(centres[k]!), finest))
  let [products, relative] = [0, 0]
  const own = used.map(({ values }, k) => {
    const bound = spiking
      ? SPIKE_MADS * 1.4826 * Math.max(median(values.map(v => Math.abs(v - centres[k]!))), finest)
      : Number.POSITIVE_INFINITY
    const errors = values.map(v => Math.max(-bound, Math.min(bound, v - centres[k]!)) / unitOf(k))
    const spread = errors.reduce((sum, e) => sum + e * e, 0)
    for (let i = 1; i < errors.length; i++) products += errors[i]! * errors[i - 1]!
    relative += spread
    return spread
  })
  const lengths = used.map(l => l.values.length)
  const seen = relative > 0 ? products / relative : 0
  const seconds = lengths.reduce((sum, n) => sum + n, 0)
  // It is itself only known within 1 ÷ √n (Bartlett 1946); too much of it is the smaller mistake.
  const resemblance = resemblanceOf(lengths, seen + UNSURE_OF_RESEMBLANCE / Math.sqrt(Math.max(1, seconds)))
  const expected = lengths.reduce((sum, n) => sum + stretch(n, resemblance).spread, 0)
  const pooled = expected > 0 && relative > 0 ? relative / expected : 0.01
  const means = used.map(({ users, values }, k) => {
    const n = values.length
    const { spread, varianceOfMean } = stretch(n, resemblance)
    const variance = ((own[k]! + POOLED_SECONDS * pooled) / (spread + POOLED_SECONDS)) * unitOf(k) ** 2
    // A median is less sure than a mean: π/2 times the variance under normal noise.
    return {
      users,
      mean: centres[k]!,
      se: Math.max(finest, Math.sqrt(variance * varianceOfMean * (spiking ? Math.PI / 2 : 1))),
      n,
    }
  })
  return { levels: means, resemblance }
}

/**
 * Resemblance of neighbouring seconds, 0 to {@link MOST_RESEMBLING}: the one of which so much is expected to be seen.
 * @param seen lagged products over squares, about each level's own mean
 */
function resemblanceOf(lengths: readonly number[], seen: number): number {
  const expected = (rho: number) => {
    const all = lengths.map(n => stretch(n, rho))
    return (
      all.reduce((sum, s) => sum + s.lagged, 0) /
      Math.max(
        1e-12,
        all.reduce((sum, s) => sum + s.spread, 0),
      )
    )
  }
  let [low, high] = [0, Math.round(MOST_RESEMBLING * RESEMBLANCE_STEPS)]
  while (low < high) {
    const middle = (low + high) >> 1
    if (expected(middle / RESEMBLANCE_STEPS) < seen) low = middle + 1
    else high = middle
  }
  return low / RESEMBLANCE_STEPS
}

interface Stretch {
  spread: number
  lagged: number
  varianceOfMean: number
}

/** Those known: lengths and resemblances are few. */
const stretches = new Map<string, Stretch>()

/**
 * What a stretch of n values of a first-order autoregression of variance 1 is expected to show: squares and lagged
 * products about its own mean, and the variance of that mean.
 */
function stretch(n: number, rho: number): Stretch {
  const key = `${n} ${rho}`
  const known = stretches.get(key)
  if (known) return known
  // Covariances of each value with the sum of all: 1 + ρ + … on both sides.
  const upTo = (k: number) => (rho === 0 ? 1 : (1 - rho ** (k + 1)) / (1 - rho))
  const withSum = Array.from({ length: n }, (_, i) => upTo(i) + upTo(n - 1 - i) - 1)
  const varianceOfMean = withSum.reduce((sum, c) => sum + c, 0) / n ** 2
  let lagged = 0
  for (let i = 1; i < n; i++) lagged += rho - (withSum[i]! + withSum[i - 1]!) / n + varianceOfMean
  const found = { spread: n * (1 - varianceOfMean), lagged, varianceOfMean }
  stretches.set(key, found)
  return found
}

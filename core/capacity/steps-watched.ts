/** Seconds of a calibration gathered by the level they were watched at, with what their noise says of the means. */

/** A level that was held: users of one generator, and a signal second by second, those of settling in left out. */
export interface WatchedLevel { users: number, values: readonly number[] }

export interface LevelMean { users: number, mean: number, se: number, n: number }

/** Weight of the pooled noise beside a level's own, in seconds: few seconds say little of their own spread. */
const POOLED_SECONDS = 8
/** A robust spread counts seconds no further out than this many scaled median deviations (Huber 1981; 1.4826 makes one a standard deviation under normal noise). */
const SPIKE_MADS = 3

/**
 * Means per level, rising in users. Noise is pooled over the levels, in proportion to their means or as it is, and counts for fewer seconds than were watched, because
 * seconds resemble their neighbours: n·(1 − ρ)/(1 + ρ) with the pooled lag-1 autocorrelation ρ (Bartlett 1935), corrected for its bias in short stretches
 * (Marriott & Pope 1954: about −(1 + 3ρ)/n).
 *
 * @param finest smallest standard error and smallest mean that noise is held against
 * @param spiking medians instead of means, and noise that does not grow with them: for logarithms of what spikes
 */
export function meansOf(levels: readonly WatchedLevel[], finest: number, spiking = false): LevelMean[] {
  const used = levels.filter(l => l.values.length > 0).sort((a, b) => a.users - b.users)
  const centres = used.map(l => spiking ? median(l.values) : l.values.reduce((sum, v) => sum + v, 0) / l.values.length)
  const unitOf = (k: number) => spiking ? 1 : Math.max(Math.abs(centres[k]!), finest)
  let [squares, products, relative, seconds] = [0, 0, 0, 0]
  const own = used.map(({ values }, k) => {
    const bound = spiking ? SPIKE_MADS * 1.4826 * Math.max(median(values.map(v => Math.abs(v - centres[k]!))), finest) : Number.POSITIVE_INFINITY
    const errors = values.map(v => Math.max(-bound, Math.min(bound, v - centres[k]!)))
    const spread = errors.reduce((sum, e) => sum + e * e, 0)
    squares += spread
    for (let i = 1; i < errors.length; i++) products += errors[i]! * errors[i - 1]!
    relative += spread / unitOf(k) ** 2
    seconds += values.length - 1
    return spread
  })
  const meanLength = used.length > 0 ? used.reduce((sum, l) => sum + l.values.length, 0) / used.length : 1
  const seen = squares > 0 ? products / squares : 0
  const rho = Math.min(0.9, Math.max(0, seen + (1 + 3 * seen) / meanLength))
  const pooled = seconds > 0 ? relative / seconds : 0.01
  return used.map(({ users, values }, k) => {
    const n = values.length
    const expected = pooled * unitOf(k) ** 2
    const variance = (own[k]! + POOLED_SECONDS * expected) / (Math.max(0, n - 1) + POOLED_SECONDS)
    const effective = Math.max(1, n * (1 - rho) / (1 + rho))
    // A median is less sure than a mean: π/2 times the variance under normal noise.
    return { users, mean: centres[k]!, se: Math.max(finest, Math.sqrt(variance / effective * (spiking ? Math.PI / 2 : 1))), n }
  })
}

export function median(values: readonly number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  const half = sorted.length >> 1
  return sorted.length === 0 ? Number.NaN : sorted.length % 2 ? sorted[half]! : (sorted[half - 1]! + sorted[half]!) / 2
}

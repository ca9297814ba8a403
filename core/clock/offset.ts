/**
 * How far a generator's clock is from the controller's, from heartbeats that carry four timestamps (RFC 5905, §8): T1
 * sent by the controller, T2 received and T3 answered by the generator, T4 received by the controller.
 */

/** One heartbeat's reading. All in ms. */
export interface OffsetSample {
  /** When it was taken, on the controller's clock. */
  atMs: number
  /** Generator clock minus controller clock. */
  offsetMs: number
  /** Round trip without the generator's own time. */
  delayMs: number
}

/**
 * θ = ½[(T2−T1)+(T3−T4)], δ = (T4−T1)−(T3−T2); all arguments in ms, each on the clock of the side that took it. A
 * negative delay is no reading: one of the stamps is wrong.
 */
export function offsetOf(t1: number, t2: number, t3: number, t4: number): OffsetSample {
  const delayMs = t4 - t1 - (t3 - t2)
  return { atMs: t4, offsetMs: (t2 - t1 + (t3 - t4)) / 2, delayMs: delayMs < 0 && delayMs > -ROUNDING_MS ? 0 : delayMs }
}

/** Moments since 1970 are known to this as doubles, ms; four of them make a delay. */
const ROUNDING_MS = 0.01
/** Samples the filter chooses from (RFC 5905, §10: the clock filter keeps eight). */
const FILTER_SIZE = 8
/** Drift assumed before a line can be fitted, ms per ms: RFC 5905's frequency tolerance PHI, 15 ppm. */
const DRIFT_TOLERANCE = 15e-6
/** No crystal is further off (RFC 5905, appendix A: MAXFREQ, 500 ppm): a line that says so has been fitted to noise. */
const MOST_DRIFT = 500e-6
/**
 * What a clock may drift while no line could be fitted: the tolerance, and what ordinary crystals are off (from
 * memory).
 */
const UNFITTED_BOUND = DRIFT_TOLERANCE + 100e-6
/** A line through less than this says nothing of a drift, ms. */
const LEAST_SPAN_MS = 20_000
/** Best samples kept for it: the older ones lie on another line once the temperature has changed. */
const MOST_BEST = 120
/** A clock may be so much further off than its last samples allow, ms, before a sample is doubted. */
const STEP_MS = 5

/** Estimate of one generator's clock, kept all through a run. */
export class ClockEstimate {
  private recent: OffsetSample[] = []
  /** Best sample of each filter window, from which the drift is fitted. */
  private best: OffsetSample[] = []
  /** The line through them, once it says something: drift, and how far that may be off; ms per ms. */
  private fit: { drift: number, bound: number } | undefined
  /** One that contradicts all others: a clock that was stepped, or a stamp that was damaged. The next one tells. */
  private doubted: OffsetSample | undefined
  private taken = 0

  /**
   * Takes a reading. One that cannot be is refused; one that contradicts the others counts when the next says the same.
   * @returns whether it counts now
   */
  add(sample: OffsetSample): boolean {
    if (![sample.atMs, sample.offsetMs, sample.delayMs].every(Number.isFinite) || sample.delayMs < 0) return false
    if (this.recent.length > 0 && !isNear(sample, this.offsetAt(sample.atMs), this.uncertaintyAt(sample.atMs))) {
      const { doubted } = this
      this.doubted = sample
      if (!doubted || !isNear(sample, doubted.offsetMs, doubted.delayMs / 2)) return false
      // Twice the same: the clock was stepped, and what was known of it is over.
      this.recent = [doubted]
      this.best = []
      this.fit = undefined
      this.taken = 1
    }
    this.doubted = undefined
    this.recent.push(sample)
    if (this.recent.length > FILTER_SIZE) this.recent.shift()
    if (++this.taken % FILTER_SIZE === 0) this.keepBest(this.chosen(sample.atMs))
    return true
  }

  get samples(): number {
    return this.taken
  }

  /** Generator clock minus controller clock at a moment of the controller's clock, in ms. */
  offsetAt(nowMs: number): number {
    if (this.recent.length === 0) return 0
    const chosen = this.chosen(nowMs)
    return chosen.offsetMs + this.drift() * (nowMs - chosen.atMs)
  }

  /**
   * Half the delay of the chosen sample, plus what drift can have added since it was taken; ms. Infinite before the
   * first sample.
   */
  uncertaintyAt(nowMs: number): number {
    if (this.recent.length === 0) return Number.POSITIVE_INFINITY
    return this.dispersion(this.chosen(nowMs), nowMs)
  }

  /**
   * Drift of the generator's clock in ms per ms, by least squares over the best samples; 0 until they reach over a fair
   * time.
   */
  drift(): number {
    return this.fit?.drift ?? 0
  }

  private keepBest(sample: OffsetSample): void {
    this.best = [...this.best, sample].slice(-MOST_BEST)
    const span = sample.atMs - this.best[0]!.atMs
    if (this.best.length < 3 || span < LEAST_SPAN_MS) return
    const { slope, residual } = line(this.best)
    this.fit = {
      drift: Math.max(-MOST_DRIFT, Math.min(MOST_DRIFT, slope)),
      bound: DRIFT_TOLERANCE + Math.min(MOST_DRIFT, (2 * residual) / span),
    }
  }

  /** A good sample grows old: the one that says most now (RFC 5905, §10: delay and dispersion together). */
  private chosen(nowMs: number): OffsetSample {
    return this.recent.reduce((best, s) => (this.dispersion(s, nowMs) <= this.dispersion(best, nowMs) ? s : best))
  }

  private dispersion({ atMs, delayMs }: OffsetSample, nowMs: number): number {
    return delayMs / 2 + (this.fit?.bound ?? UNFITTED_BOUND) * Math.abs(nowMs - atMs)
  }
}

/** Whether a reading and an offset can both be right. */
function isNear({ offsetMs, delayMs }: OffsetSample, otherMs: number, uncertaintyMs: number): boolean {
  return Math.abs(offsetMs - otherMs) <= delayMs / 2 + uncertaintyMs + STEP_MS
}

function line(samples: OffsetSample[]): { slope: number, residual: number } {
  const n = samples.length
  const meanX = samples.reduce((sum, s) => sum + s.atMs, 0) / n
  const meanY = samples.reduce((sum, s) => sum + s.offsetMs, 0) / n
  let xx = 0
  let xy = 0
  for (const s of samples) {
    xx += (s.atMs - meanX) ** 2
    xy += (s.atMs - meanX) * (s.offsetMs - meanY)
  }
  const slope = xx > 0 ? xy / xx : 0
  let squares = 0
  for (const s of samples) squares += (s.offsetMs - meanY - slope * (s.atMs - meanX)) ** 2
  return { slope, residual: Math.sqrt(squares / n) }
}

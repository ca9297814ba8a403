/**
 * How far a generator's clock is from the controller's, from heartbeats that carry four timestamps (RFC 5905, §8): T1 sent by
 * the controller, T2 received and T3 answered by the generator, T4 received by the controller.
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

/** θ = ½[(T2−T1)+(T3−T4)], δ = (T4−T1)−(T3−T2); all arguments in ms on the clock of whoever took them. */
export function offsetOf(t1: number, t2: number, t3: number, t4: number): OffsetSample {
  return { atMs: t4, offsetMs: ((t2 - t1) + (t3 - t4)) / 2, delayMs: Math.max(0, (t4 - t1) - (t3 - t2)) }
}

/** Samples the filter chooses from (RFC 5905, §10: the clock filter keeps eight). */
const FILTER_SIZE = 8
/** Drift assumed before a line can be fitted, ms per ms: RFC 5905's frequency tolerance PHI, 15 ppm. */
const DRIFT_TOLERANCE = 15e-6

/** Estimate of one generator's clock, kept all through a run. */
export class ClockEstimate {
  private recent: OffsetSample[] = []
  /** Best sample of each filter window, from which the drift is fitted. */
  private best: OffsetSample[] = []
  private taken = 0

  add(sample: OffsetSample): void {
    this.recent.push(sample)
    if (this.recent.length > FILTER_SIZE) this.recent.shift()
    if (++this.taken % FILTER_SIZE === 0) this.best.push(least(this.recent))
  }

  get samples(): number { return this.taken }

  /** Generator clock minus controller clock at a moment of the controller's clock, in ms. */
  offsetAt(nowMs: number): number {
    if (this.recent.length === 0) return 0
    const chosen = least(this.recent)
    return chosen.offsetMs + this.drift() * (nowMs - chosen.atMs)
  }

  /** Half the delay of the chosen sample, plus what drift can have added since it was taken; ms. Infinite before the first sample. */
  uncertaintyAt(nowMs: number): number {
    if (this.recent.length === 0) return Number.POSITIVE_INFINITY
    const chosen = least(this.recent)
    const bound = this.best.length >= 3 ? DRIFT_TOLERANCE + this.driftError() : DRIFT_TOLERANCE + 100e-6
    return chosen.delayMs / 2 + bound * Math.abs(nowMs - chosen.atMs)
  }

  /** Drift of the generator's clock in ms per ms, by least squares over the best samples; 0 until there are three. */
  drift(): number {
    if (this.best.length < 3) return 0
    const { slope } = line(this.best)
    return slope
  }

  private driftError(): number {
    const { slope, residual } = line(this.best)
    const span = this.best[this.best.length - 1]!.atMs - this.best[0]!.atMs
    return span > 0 ? Math.min(Math.abs(slope), 2 * residual / span) : 0
  }
}

function least(samples: OffsetSample[]): OffsetSample {
  let chosen = samples[0]!
  for (const s of samples) if (s.delayMs <= chosen.delayMs) chosen = s
  return chosen
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

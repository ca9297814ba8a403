/**
 * The three-way account: what we started, what came back to us, and what the target itself counted, step by step. A
 * target counts also what failed on our side; so what it counted must lie between what it must have seen and what it
 * can have seen.
 */
import type { SeriesSum } from '../merge/series-sum'
import type { RunDocument } from '../run/document'
import { isCounted, seriesOf } from '../run/series'
import { count } from '../values/said-figures'

/** Ours, of all requests of one name. */
export interface OurCount {
  started: number
  /** Failed without having been sent. */
  neverSent: number
  /** Failed, and nobody knows whether it was sent. */
  unclear: number
  /** Cut off at the end. */
  cut: number
  /** Further requests, because an answer redirected. */
  redirects: number
  /** Answers that came, right or wrong. */
  answered: number
}

const NOTHING: OurCount = { started: 0, neverSent: 0, unclear: 0, cut: 0, redirects: 0, answered: 0 }

/** By the name that requests carry: steps of two journeys may have one. @param sums of a run, by number of series */
export function ourCounts(document: RunDocument, sums: ReadonlyMap<number, SeriesSum>): Record<string, OurCount> {
  const counts = new Map<string, OurCount>()
  seriesOf(document).forEach((series, number) => {
    const sum = sums.get(number)
    if (!sum || !isCounted(series)) return
    const own = counts.get(series.stepName) ?? { ...NOTHING }
    own.started += sum.started
    own.neverSent += sum.neverSent
    own.unclear += sum.unclear
    own.cut += sum.cut
    own.redirects += sum.redirects
    own.answered += sum.right + sum.failed - sum.neverSent - sum.unclear
    counts.set(series.stepName, own)
  })
  return Object.fromEntries(counts)
}

/** Others who called meanwhile. */
export interface OtherCallers {
  /** `mark`: the target counts by the run's mark: none. `rate`: from what they called before the load. */
  how: 'mark' | 'rate'
  least: number
  /** Left out: nobody knows. */
  most?: number
}

export type AccountState = 'balanced' | 'explained' | 'coming' | 'open'

export interface StepAccount extends OurCount {
  step: string
  counted: number
  others: OtherCallers
  /** What was counted, less other callers, must lie in this. */
  between: [least: number, most: number]
  /**
   * `balanced`: exactly what was answered. `explained`: within what can have been. `coming`: fewer than that, but the
   * target is still read.
   */
  state: AccountState
  /** Counted more (positive) or less (negative) than can be explained; 0: nothing is open. */
  openBy: number
}

/** 95 % of a normal distribution lie within this many standard deviations. */
const Z95 = 1.959963985

/**
 * Calls of others, from those before the load: the number foretold for a time like the load's, with its interval.
 * Counts before and during are both Poisson's: their difference spreads by the sum of their variances (Nelson 1970,
 * prediction of a future count).
 *
 * @param before calls counted in `beforeS` before the load @param loadS length of the load
 */
export function othersFrom(before: number, beforeS: number, loadS: number): OtherCallers {
  if (beforeS <= 0) return { how: 'rate', least: 0 }
  const r = loadS / beforeS
  const foretold = before * r
  // No call before the load does not mean that there is never one: half a call keeps the interval open.
  const spread = Z95 * Math.sqrt(r * (1 + r) * Math.max(before, 0.5))
  return { how: 'rate', least: Math.max(0, Math.floor(foretold - spread)), most: Math.ceil(foretold + spread) }
}

/** @param isRead whether the target is read to its end: what it counted last may come yet */
export function accountOf(
  step: string,
  ours: OurCount,
  counted: number,
  others: OtherCallers,
  isRead = true,
): StepAccount {
  const { started, neverSent, unclear, cut, redirects, answered } = ours
  const between: [number, number] = [started - neverSent - unclear - cut + redirects, started - neverSent + redirects]
  const [least, most] = [counted - (others.most ?? Number.POSITIVE_INFINITY), counted - others.least]
  const openBy = least > between[1] ? least - between[1] : most < between[0] ? most - between[0] : 0
  const isExact = others.how === 'mark' && counted === answered + redirects && answered === started
  const isComing = openBy < 0 && !isRead
  const state = isComing ? 'coming' : openBy !== 0 ? 'open' : isExact ? 'balanced' : 'explained'
  return { step, ...ours, counted, others, between, state, openBy }
}

/** All steps in one sentence, and the worst of their states. */
export function accountOfAll(steps: readonly StepAccount[]): { state: AccountState, sentence: string } {
  const open = steps.filter(s => s.state === 'open').length
  if (open > 0)
    return {
      state: 'open',
      sentence: `${open === 1 ? 'One step is' : `${open} steps are`} open: the target counted otherwise than can be explained.`,
    }
  if (steps.some(s => s.state === 'coming'))
    return { state: 'coming', sentence: 'Not told yet: the target is still read, and what it counted last is coming.' }
  if (steps.some(s => s.state !== 'balanced'))
    return { state: 'explained', sentence: 'Explained: what the target counted lies within what it can have seen.' }
  const answered = steps.reduce((sum, s) => sum + s.answered, 0)
  return { state: 'balanced', sentence: `Balanced: the target counted exactly what was answered, ${count(answered)} requests.` }
}

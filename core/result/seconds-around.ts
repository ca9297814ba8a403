/** The seconds that evidence about a window needs: its own, and those before in which somebody may begin to wait. */
import { bySecond, type SecondFigures } from '../merge/second-figures'
import type { SeriesSum } from '../merge/series-sum'
import { JudgedSeries } from '../objectives/judged-second'
import type { RunDocument } from '../run/document'
import type { Series } from '../run/series'

/** Longer waits are told as this one, s. */
const LONGEST_WAIT_S = 900

export interface CountedRun {
  /** Sums without histograms over seconds `fromS` (inclusive) to `toS` (exclusive), by series number. */
  counts: (fromS: number, toS: number) => ReadonlyMap<number, SeriesSum>
  /** In order. */
  seconds: (fromS: number, toS: number) => SecondFigures[]
}

/**
 * All requests begun before the seconds that are looked at, and not ended, are put into one second.
 *
 * @returns by run second, up to `toS`; holes before, and where nothing was merged
 */
export function secondsAround(
  document: RunDocument,
  series: readonly Series[],
  run: CountedRun,
  fromS: number,
  toS: number,
): (SecondFigures | undefined)[] {
  const since = Math.max(0, fromS - LONGEST_WAIT_S)
  const seconds = bySecond(run.seconds(since, toS), toS)
  if (since === 0) return seconds
  const judged = new JudgedSeries(document, series)
  const inFlight = new Float64Array(judged.objectives)
  for (const [number, sum] of run.counts(0, since)) judged.addInFlight(inFlight, number, sum.started, sum.ended)
  const first = seconds[since]
  if (first)
    seconds[since - 1] = {
      ...first,
      second: since - 1,
      judged: Array.from(inFlight, (n, i) => [null, n, 0, first.judged?.[i]?.[3] ?? 0]),
    }
  return seconds
}

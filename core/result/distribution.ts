/** How the response times of a slice are spread: shares on a logarithmic axis, percentiles, and bands by limits. */
import { highestValueOf, middleValueOf } from '../histogram/layout'
import type { Histogram } from '../histogram/histogram'
import { SeriesSum, type SumOf } from '../merge/series-sum'
import type { RunDocument } from '../run/document'
import { seriesOf } from '../run/series'
import { addsUpIn, chosenSeries, type SeriesList, type SliceWish } from './slices'

/** Bins per decade: each is 6 % wide. */
const BINS_PER_DECADE = 40
/** Marked on the axis, as shares. */
const MARKED = [0.5, 0.9, 0.95, 0.99, 0.999] as const

/** Right answers within two limits. */
export interface Band {
  /** Over this, ms; 0: from nothing on. */
  fromMs: number
  /** Up to and including this, ms; undefined: without end. */
  toMs?: number
  count: number
}

export interface Distribution {
  /** Right answers, and failures that are not the generators' own fault. */
  right: number
  failed: number
  /** Bins in use, in order, of right answers and of failures. */
  bins: { fromMs: number, toMs: number, right: number, failed: number }[]
  /** Nearest-rank percentiles of right answers. */
  percentiles: { share: number, ms: number }[]
  /** Between the limits, in order; the last is open. */
  bands: Band[]
}

/**
 * @param addWindow adds every series of the window to the sum it is given; undefined: to none
 * @param limitsMs limits of bands, in any order
 */
export function distributionOf(
  document: RunDocument,
  addWindow: (into: SumOf) => void,
  only: NonNullable<SliceWish['only']>,
  limitsMs: readonly number[],
  series: SeriesList = seriesOf(document),
): Distribution {
  const chosen = chosenSeries(document, series, only)
  const addsUp = addsUpIn(series, chosen)
  const counted = new Set(chosen.filter(number => addsUp(series[number]!)))
  const sum = new SeriesSum()
  addWindow(number => (counted.has(number) ? sum : undefined))
  const { right, failed } = sum.timings
  return {
    right: sum.right,
    failed: sum.failed - sum.ownFaults,
    bins: binsOf(right, failed),
    percentiles: MARKED.flatMap((share) => {
      const us = right.percentileUs(share)
      return us === undefined ? [] : [{ share, ms: us / 1000 }]
    }),
    bands: bandsOf(right, limitsMs),
  }
}

function binsOf(right: Histogram, failed: Histogram): Distribution['bins'] {
  const bins = new Map<number, { right: number, failed: number }>()
  const count = (of: Histogram, what: 'right' | 'failed') =>
    of.forEach((index, times) => {
      const bin = Math.floor(Math.log10(Math.max(1, middleValueOf(index)) / 1000) * BINS_PER_DECADE + 1e-9)
      const counts = bins.get(bin) ?? { right: 0, failed: 0 }
      bins.set(bin, counts)
      counts[what] += times
    })
  count(right, 'right')
  count(failed, 'failed')
  const edgeMs = (bin: number) => 10 ** (bin / BINS_PER_DECADE)
  return [...bins]
    .sort((a, b) => a[0] - b[0])
    .map(([bin, counts]) => ({ fromMs: edgeMs(bin), toMs: edgeMs(bin + 1), ...counts }))
}

/** A time is within a limit when the whole of its bucket is: as a percentile is held against a limit. */
function bandsOf(right: Histogram, limitsMs: readonly number[]): Band[] {
  const limits = [...new Set(limitsMs)].sort((a, b) => a - b)
  const bands = [0, ...limits].map((fromMs, i): Band => ({
    fromMs,
    ...(i < limits.length ? { toMs: limits[i]! } : {}),
    count: 0,
  }))
  right.forEach((index, times) => {
    const ms = highestValueOf(index) / 1000
    const band = bands.find(b => b.toMs === undefined || ms <= b.toMs)
    if (band) band.count += times
  })
  return bands
}

/**
 * How far a figure of one run may be off, from the run alone: a block bootstrap over its seconds (design: computation
 * §12). Seconds beside each other are alike, so blocks are several times as long as that lasts.
 */
import { Counts } from '../histogram/counts'
import { Histogram, sumOf } from '../histogram/histogram'
import { highestValueOf, INDEX_COUNT, indexOfValue } from '../histogram/layout'
import type { SeriesSum } from '../merge/series-sum'
import { seededRandom } from '../random/seeded'
import { meanAndDeviation } from '../values/student-t'
import { isRatio, type ComparedMetric } from './rows'

/** What is summed together at least, s. */
export const CELL_S = 10
/** Blocks are this many correlation times long. */
const BLOCK_TIMES = 8
/** Fewer blocks tell nothing. */
export const LEAST_BLOCKS = 8
const REPLICATES = 300

/** What one row was over some seconds. */
export interface Measured {
  /** Response times: of right answers, or of failures, too. */
  times: Histogram
  /** Right answers, and failures that are not the generators' own fault. */
  answered: number
  failed: number
}

/** The same of {@link CELL_S} seconds, as it is kept. */
export type MeasuredCell = Omit<Measured, 'times'> & { times: Counts }

export interface Spread {
  /** ms, a share, or right answers a second; undefined: there was nothing. */
  value: number | undefined
  /** Standard error, of the logarithm where differences are ratios; undefined: too short to tell. */
  error?: number
  blocks: number
}

/**
 * How long values that follow each other stay alike: the sum of their autocorrelations as far as these are above
 * chance (integrated autocorrelation time).
 *
 * @param values per second, null where there was nothing @returns s, at least 0.5
 */
export function correlationTimeS(values: readonly (number | null)[]): number {
  const known = values.filter(v => v !== null)
  const n = known.length
  if (n < 4) return 0.5
  const mean = known.reduce((a, b) => a + b, 0) / n
  const off = values.map(v => (v === null ? 0 : v - mean))
  const variance = off.reduce((sum, o) => sum + o * o, 0) / n
  if (variance === 0) return 0.5
  let sum = 0.5
  for (let lag = 1; lag < n / 3; lag++) {
    let product = 0
    for (let i = lag; i < off.length; i++) product += off[i]! * off[i - lag]!
    const rho = product / (n * variance)
    if (rho < 1.5 / Math.sqrt(n)) break
    sum += rho
  }
  return sum
}

/** @param tauS correlation time @returns cells of a block */
export const cellsPerBlock = (tauS: number): number => Math.max(1, Math.ceil((BLOCK_TIMES * tauS) / CELL_S))

/** @param cells in the order of time @param value over all of it, also what fills no cell @param seed of the draws */
export function spreadOf(
  cells: readonly MeasuredCell[],
  metric: ComparedMetric,
  tauS: number,
  value = statisticOf(cells, metric),
  seed = 1,
): Spread {
  const blocks = blocksOf(cells, cellsPerBlock(tauS))
  const n = blocks.length
  if (value === undefined || n < LEAST_BLOCKS) return { value, blocks: n }
  const statistic = weighted(blocks, metric)
  const random = seededRandom(seed)
  const replicates: number[] = []
  const weights = new Float64Array(n)
  for (let r = 0; r < REPLICATES; r++) {
    weights.fill(0)
    for (let i = 0; i < n; i++) weights[Math.floor(random() * n)]!++
    const one = statistic(weights)
    if (one !== undefined && Number.isFinite(one)) replicates.push(isRatio(metric) ? Math.log(one) : one)
  }
  const told = replicates.filter(Number.isFinite)
  if (told.length < REPLICATES / 2) return { value, blocks: n }
  return { value, error: meanAndDeviation(told).deviation * Math.sqrt(n / (n - 1)), blocks: n }
}

const PERCENTILE: Partial<Record<ComparedMetric, number>> = { p50: 0.5, p90: 0.9, p95: 0.95, p99: 0.99 }

/** A row's value over cells. */
export function statisticOf(cells: readonly MeasuredCell[], metric: ComparedMetric): number | undefined {
  const times = new Histogram()
  let [answered, failed] = [0, 0]
  for (const cell of cells) {
    cell.times.addTo(times)
    answered += cell.answered
    failed += cell.failed
  }
  return valueOf({ times, answered, failed }, metric, cells.length * CELL_S)
}

/** @param seconds that it was summed over */
export function valueOf(
  { times, answered, failed }: Measured,
  metric: ComparedMetric,
  seconds: number,
): number | undefined {
  if (metric === 'failures') return answered + failed > 0 ? failed / (answered + failed) : undefined
  if (metric === 'throughput') return seconds > 0 ? answered / seconds : undefined
  const us = metric === 'mean' ? times.meanUs() : times.percentileUs(PERCENTILE[metric]!)
  return us === undefined ? undefined : us / 1000
}

/** @param withFailures their times count with those of right answers */
export function measuredIn(sum: SeriesSum, withFailures = false): Measured {
  const { right, failed } = sum.timings
  return {
    times: withFailures ? sumOf([right, failed]) : right,
    answered: sum.right,
    failed: sum.failed - sum.ownFaults,
  }
}

export function cellOf(of: Measured): MeasuredCell {
  return { ...of, times: Counts.of(of.times) }
}

/** Whole blocks of cells; what is left over at the end belongs to the last. */
function blocksOf(cells: readonly MeasuredCell[], size: number): MeasuredCell[][] {
  const count = Math.floor(cells.length / size)
  return Array.from({ length: count }, (_, b) =>
    cells.slice(b * size, b === count - 1 ? cells.length : (b + 1) * size))
}

/** The statistic of blocks, each taken as often as drawn, on as few numbers as it needs. */
function weighted(
  blocks: readonly MeasuredCell[][],
  metric: ComparedMetric,
): (weights: Float64Array) => number | undefined {
  const of = (take: (cell: MeasuredCell) => number) => blocks.map(b => b.reduce((sum, cell) => sum + take(cell), 0))
  const sumIn = (values: readonly number[], weights: Float64Array) => {
    let sum = 0
    for (let b = 0; b < values.length; b++) sum += values[b]! * weights[b]!
    return sum
  }
  if (metric === 'failures') {
    const [answered, failed] = [of(c => c.answered), of(c => c.failed)]
    return (weights) => {
      const [right, wrong] = [sumIn(answered, weights), sumIn(failed, weights)]
      return right + wrong > 0 ? wrong / (right + wrong) : undefined
    }
  }
  if (metric === 'throughput') {
    const [answered, seconds] = [of(c => c.answered), of(() => CELL_S)]
    return weights => sumIn(answered, weights) / sumIn(seconds, weights)
  }
  const counts = of(c => c.times.count)
  if (metric === 'mean') {
    const sums = of(c => c.times.sumUs())
    return weights => sumIn(sums, weights) / sumIn(counts, weights)
  }
  const share = PERCENTILE[metric]!
  const { indexes, upTo } = buckets(blocks, share)
  const n = blocks.length
  /** How many of blocks taken so are in a bucket or below it. */
  const seenIn = (bucket: number, weights: Float64Array) => {
    let seen = 0
    for (let b = 0, i = bucket * n; b < n; b++, i++) seen += weights[b]! * upTo[i]!
    return seen
  }
  return (weights) => {
    const rank = Math.max(1, Math.ceil(share * sumIn(counts, weights)))
    // The first bucket that reaches it: counts only rise.
    let [low, high] = [0, indexes.length]
    while (low < high) {
      const middle = (low + high) >>> 1
      if (seenIn(middle, weights) >= rank) high = middle
      else low = middle + 1
    }
    return low < indexes.length ? highestValueOf(indexes[low]!) : undefined
  }
}

/**
 * The buckets where a percentile of blocks together can lie: between the least and the most of their own. `upTo` has
 * for each bucket how many of every block’s values are in it or below.
 */
function buckets(blocks: readonly MeasuredCell[][], share: number): { indexes: number[], upTo: Float64Array } {
  const n = blocks.length
  let [least, most] = [INDEX_COUNT, -1]
  const block = new Histogram()
  for (const cells of blocks) {
    block.clear()
    for (const { times } of cells) times.addTo(block)
    const own = block.percentileUs(share)
    if (own === undefined) continue
    least = Math.min(least, indexOfValue(own))
    most = Math.max(most, indexOfValue(own))
  }
  const within = (visit: (index: number, times: number, b: number) => void) =>
    blocks.forEach((cells, b) => {
      for (const { times: { indexes, times } } of cells)
        for (let i = 0; i < indexes.length && indexes[i]! <= most; i++) visit(indexes[i]!, times[i]!, b)
    })
  const place = new Int32Array(INDEX_COUNT).fill(-1)
  // What is below the first counts as in it: no percentile lies there.
  if (most >= 0) place[least] = 0
  within(index => void (index > least && (place[index] = 0)))
  const indexes: number[] = []
  place.forEach((used, index) => {
    if (used === 0) place[index] = indexes.push(index) - 1
  })
  const upTo = new Float64Array(indexes.length * n)
  within((index, times, b) => {
    upTo[(index <= least ? 0 : place[index]!) * n + b]! += times
  })
  for (let i = n; i < upTo.length; i++) upTo[i]! += upTo[i - n]!
  return { indexes, upTo }
}

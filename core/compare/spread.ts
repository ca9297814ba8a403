/**
 * How far a figure of one run may be off, from the run alone: a block bootstrap over its seconds (design: computation
 * §12). Seconds beside each other are alike, so blocks are several times as long as that lasts.
 */
import { Histogram } from '../histogram/histogram'
import { highestValueOf, indexOfValue } from '../histogram/layout'
import type { SeriesSum } from '../merge/series-sum'
import { seededRandom } from '../random/seeded'
import { meanAndDeviation } from '../values/student-t'
import { isRatio, type ComparedMetric } from './rows'

/** What is summed together at least, s. */
export const CELL_S = 10
/** Blocks are so many correlation times long. */
const BLOCK_TIMES = 8
/** Fewer blocks tell nothing. */
export const LEAST_BLOCKS = 8
const REPLICATES = 300

/** What one row was in {@link CELL_S} seconds. */
export interface Cell {
  right: Histogram
  /** Right answers, and failures that are not the generators' own fault. */
  answered: number
  failed: number
}

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
  cells: readonly Cell[],
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
  const weights = new Uint16Array(n)
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
export function statisticOf(cells: readonly Cell[], metric: ComparedMetric): number | undefined {
  const right = new Histogram()
  let [answered, failed] = [0, 0]
  for (const cell of cells) {
    right.add(cell.right)
    answered += cell.answered
    failed += cell.failed
  }
  return valueOf({ right, answered, failed }, metric, cells.length * CELL_S)
}

/** @param seconds that it was summed over */
export function valueOf(
  { right, answered, failed }: Cell,
  metric: ComparedMetric,
  seconds: number,
): number | undefined {
  if (metric === 'failures') return answered + failed > 0 ? failed / (answered + failed) : undefined
  if (metric === 'throughput') return seconds > 0 ? answered / seconds : undefined
  const us = metric === 'mean' ? right.meanUs() : right.percentileUs(PERCENTILE[metric]!)
  return us === undefined ? undefined : us / 1000
}

export function cellOf(sum: SeriesSum): Cell {
  return { right: sum.timings.right, answered: sum.right, failed: sum.failed - sum.ownFaults }
}

/** Whole blocks of cells; what is left over at the end belongs to the last. */
function blocksOf(cells: readonly Cell[], size: number): Cell[][] {
  const count = Math.floor(cells.length / size)
  return Array.from({ length: count }, (_, b) =>
    cells.slice(b * size, b === count - 1 ? cells.length : (b + 1) * size))
}

/** The statistic of blocks taken so many times each, on as few numbers as it needs. */
function weighted(blocks: readonly Cell[][], metric: ComparedMetric): (weights: Uint16Array) => number | undefined {
  const of = (take: (cell: Cell) => number) => blocks.map(b => b.reduce((sum, cell) => sum + take(cell), 0))
  const sumOf = (values: readonly number[], weights: Uint16Array) =>
    values.reduce((sum, v, b) => sum + v * weights[b]!, 0)
  if (metric === 'failures') {
    const [answered, failed] = [of(c => c.answered), of(c => c.failed)]
    return (weights) => {
      const [right, wrong] = [sumOf(answered, weights), sumOf(failed, weights)]
      return right + wrong > 0 ? wrong / (right + wrong) : undefined
    }
  }
  if (metric === 'throughput') {
    const [answered, seconds] = [of(c => c.answered), of(() => CELL_S)]
    return weights => sumOf(answered, weights) / sumOf(seconds, weights)
  }
  const counts = of(c => c.right.count)
  if (metric === 'mean') {
    const times = of(c => (c.right.meanUs() ?? 0) * c.right.count)
    return weights => sumOf(times, weights) / sumOf(counts, weights)
  }
  const share = PERCENTILE[metric]!
  const { indexes, byBlock, below } = buckets(blocks, share)
  const merged = new Float64Array(indexes.length)
  return (weights) => {
    merged.fill(0)
    byBlock.forEach((own, b) => {
      const times = weights[b]!
      if (times > 0) for (let i = 0; i < own.length; i++) merged[i]! += times * own[i]!
    })
    const rank = Math.max(1, Math.ceil(share * sumOf(counts, weights)))
    let seen = sumOf(below, weights)
    for (let i = 0; i < merged.length; i++) {
      seen += merged[i]!
      if (seen >= rank) return highestValueOf(indexes[i]!)
    }
    return undefined
  }
}

/**
 * Counts of every block in the buckets where a percentile of blocks together can lie: between the least and the most of
 * their own. Of those below it is enough to know how many there are.
 */
function buckets(blocks: readonly Cell[][], share: number) {
  const whole = blocks.map((block) => {
    const sum = new Histogram()
    for (const { right } of block) sum.add(right)
    return sum
  })
  const own = whole.flatMap(h => h.percentileUs(share) ?? []).map(indexOfValue)
  const [least, most] = [Math.min(...own), Math.max(...own)]
  const used = new Set<number>()
  for (const histogram of whole) histogram.forEach(index => void (index >= least && index <= most && used.add(index)))
  const indexes = [...used].sort((a, b) => a - b)
  const at = new Map(indexes.map((index, i) => [index, i]))
  const below = whole.map(() => 0)
  const byBlock = whole.map((histogram, b) => {
    const counts = new Float64Array(indexes.length)
    histogram.forEach((index, times) => {
      if (index < least) below[b]! += times
      else if (index <= most) counts[at.get(index)!]! += times
    })
    return counts
  })
  return { indexes, byBlock, below }
}

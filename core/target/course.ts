/** What the readings of one line look like over time: per second for counters, with gaps where nothing was read. */
import type { Value } from './recovery'
import type { SeriesKind } from './source'

/** Readings further apart than this many times their usual distance leave a gap. */
const GAP = 2.5

/**
 * A counter's growth becomes a rate, at the later of two readings; the rest stays. Where readings lie further apart
 * than they should, null stands between them: a gap is a gap.
 *
 * @param readings in order of time @param everyS how often it is read
 */
export function courseOf(
  readings: readonly Value[],
  kind: SeriesKind,
  everyS: number,
): { atS: number[], values: (number | null)[] } {
  const atS: number[] = []
  const values: (number | null)[] = []
  const put = (at: number, value: number | null) => {
    atS.push(at)
    values.push(value)
  }
  let before: Value | undefined
  for (const reading of readings) {
    const isGap = before !== undefined && reading.atS - before.atS > GAP * everyS
    if (before && isGap) put((before.atS + reading.atS) / 2, null)
    if (kind !== 'count') put(reading.atS, reading.value)
    else if (before && !isGap && reading.atS > before.atS)
      put(reading.atS, (reading.value - before.value) / (reading.atS - before.atS))
    before = reading
  }
  return { atS, values }
}

/**
 * Fewer points of the same shape: of each bin the smallest and the largest, at their own times, and every gap.
 *
 * @param most points that are left, about
 */
export function thinned(
  { atS, values }: { atS: readonly number[], values: readonly (number | null)[] },
  most: number,
): { atS: number[], values: (number | null)[] } {
  if (atS.length <= most) return { atS: [...atS], values: [...values] }
  const size = Math.ceil((2 * atS.length) / most)
  const kept: number[] = []
  for (let from = 0; from < atS.length; from += size) {
    let [least, largest, gap] = [-1, -1, -1]
    for (let i = from; i < Math.min(from + size, atS.length); i++) {
      const v = values[i]!
      if (v === null) gap = i
      else {
        if (least < 0 || v < values[least]!) least = i
        if (largest < 0 || v > values[largest]!) largest = i
      }
    }
    kept.push(...[...new Set([least, largest, gap])].filter(i => i >= 0).sort((a, b) => a - b))
  }
  return { atS: kept.map(i => atS[i]!), values: kept.map(i => values[i]!) }
}

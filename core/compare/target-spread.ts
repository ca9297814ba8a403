/**
 * How far the mean of one of the target's own figures may be off, from its readings alone: blocks of them, as of
 * everything else that is compared (design: computation §12).
 */
import type { TargetLineValues } from '../objectives/target-values'
import type { Window } from '../objectives/windows'
import { meanAndDeviation } from '../values/student-t'
import { CELL_S, cellsPerBlock, correlationTimeS, LEAST_BLOCKS, type Spread } from './spread'

/** @param windows that are compared @returns with an error of the logarithm, where there is enough to tell it */
export function spreadOfReadings(line: TargetLineValues | undefined, windows: readonly Window[]): Spread {
  if (!line) return { value: undefined, blocks: 0 }
  const cells = windows.flatMap(window => cellsIn(line, window))
  const readings = cells.flat()
  if (readings.length === 0) return { value: undefined, blocks: 0 }
  const value = meanOf(readings)
  const size = cellsPerBlock(correlationTimeS(readings) * line.everyS)
  const n = Math.floor(cells.length / size)
  const blocks = Array.from({ length: n }, (_, b) => cells.slice(b * size, (b + 1) * size).flat())
    .filter(block => block.length > 0)
    .map(meanOf)
  if (blocks.length < LEAST_BLOCKS || value <= 0) return { value, blocks: blocks.length }
  // Of a mean of n, and of its logarithm to the first order.
  return { value, error: meanAndDeviation(blocks).deviation / Math.sqrt(blocks.length) / value, blocks: blocks.length }
}

const meanOf = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0) / values.length

/** Readings by {@link CELL_S} seconds; what is left over at the end is left out. */
function cellsIn({ atS, values }: TargetLineValues, { fromS, toS }: Window): number[][] {
  const cells = Array.from({ length: Math.floor((toS - fromS) / CELL_S) }, (): number[] => [])
  atS.forEach((at, i) => {
    const value = values[i]
    if (value !== null && value !== undefined && at >= fromS) cells[Math.floor((at - fromS) / CELL_S)]?.push(value)
  })
  return cells
}

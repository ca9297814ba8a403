/** Rows of a comparison, measured in one run: each with its value, and how far that may be off. */
import { cellOf, CELL_S, correlationTimeS, spreadOf, valueOf, type Cell, type Spread } from '../../core/compare/spread'
import type { ComparedRow } from '../../core/compare/rows'
import { isAbout } from '../../core/objectives/subject'
import type { Window } from '../../core/objectives/windows'
import { SeriesSum, sumIn } from '../../core/merge/series-sum'
import { seriesOf } from '../../core/run/series'
import type { RunDocument } from '../../core/run/document'
import type { OpenRun } from './run-reader'

export interface MeasuresWanted {
  rows: readonly ComparedRow[]
  windows: readonly Window[]
  /** Whether it matters how far values may be off: that takes longer. */
  spread: boolean
}

export function measuresOf(document: RunDocument, run: OpenRun, { rows, windows, spread }: MeasuresWanted): Spread[] {
  const series = seriesOf(document)
  const own = rows.map(({ subject }) => series.flatMap((of, n) => (isAbout(subject, of, document.plan) ? [n] : [])))
  const sumsOf = (fromS: number, toS: number): SeriesSum[] => {
    const sums = new Map<number, SeriesSum>()
    run.addWindow(fromS, toS, n => sumIn(sums, n), ['right'])
    return own.map((numbers) => {
      const sum = new SeriesSum()
      for (const n of numbers) {
        const one = sums.get(n)
        if (one) sum.add(one, ['right'])
      }
      return sum
    })
  }
  const whole = rows.map(() => new SeriesSum())
  const cells: Cell[][] = rows.map(() => [])
  const medians: (number | null)[] = []
  let lengthS = 0
  for (const { fromS, toS } of windows) {
    lengthS += toS - fromS
    for (let from = fromS; from < toS; from += CELL_S) {
      const isWhole = from + CELL_S <= toS
      sumsOf(from, Math.min(toS, from + CELL_S)).forEach((sum, row) => {
        whole[row]!.add(sum, ['right'])
        if (isWhole) cells[row]!.push(cellOf(sum))
      })
    }
    if (spread) medians.push(...run.seconds(fromS, toS).map(s => s.all[2]))
  }
  const tauS = correlationTimeS(medians)
  return rows.map(({ metric }, row) => {
    const value = valueOf(cellOf(whole[row]!), metric, lengthS)
    if (value === undefined) return { value, blocks: 0 }
    return spread ? spreadOf(cells[row]!, metric, tauS, value) : { value, blocks: 0 }
  })
}

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
  // Rows of one subject and several metrics are summed once.
  const subjects = new Map<string, number[]>()
  const subjectOf = rows.map(({ subject }) => {
    const numbers = series.flatMap((of, n) => (isAbout(subject, of, document.plan) ? [n] : []))
    const key = numbers.join(' ')
    subjects.set(key, numbers)
    return key
  })
  const sumsOf = (fromS: number, toS: number): Map<string, SeriesSum> => {
    const sums = new Map<number, SeriesSum>()
    run.addWindow(fromS, toS, n => sumIn(sums, n), ['right'])
    return new Map([...subjects].map(([key, numbers]) => [key, together(numbers.flatMap(n => sums.get(n) ?? []))]))
  }
  const whole = new Map([...subjects.keys()].map(key => [key, new SeriesSum()]))
  const cells = new Map<string, Cell[]>([...subjects.keys()].map(key => [key, []]))
  const medians: (number | null)[] = []
  let lengthS = 0
  for (const { fromS, toS } of windows) {
    lengthS += toS - fromS
    // Values alone need no cells: the coarsest sums will do.
    const stepS = spread ? CELL_S : Math.max(1, toS - fromS)
    for (let from = fromS; from < toS; from += stepS) {
      const isCell = spread && from + CELL_S <= toS
      for (const [key, sum] of sumsOf(from, Math.min(toS, from + stepS))) {
        whole.get(key)!.add(sum, ['right'])
        if (isCell) cells.get(key)!.push(cellOf(sum))
      }
    }
    if (spread) medians.push(...run.seconds(fromS, toS).map(s => s.all[2]))
  }
  const tauS = correlationTimeS(medians)
  return rows.map(({ metric }, row) => {
    const key = subjectOf[row]!
    const value = valueOf(cellOf(whole.get(key)!), metric, lengthS)
    if (value === undefined) return { value, blocks: 0 }
    return spread ? spreadOf(cells.get(key)!, metric, tauS, value) : { value, blocks: 0 }
  })
}

/** One is itself: nothing of it is changed afterwards. */
function together(sums: readonly SeriesSum[]): SeriesSum {
  const [first] = sums
  if (first && sums.length === 1) return first
  const whole = new SeriesSum()
  for (const sum of sums) whole.add(sum, ['right'])
  return whole
}

/** Rows of a comparison, measured in one run: each with its value, and how far that may be off. */
import {
  cellOf,
  CELL_S,
  correlationTimeS,
  measuredIn,
  spreadOf,
  valueOf,
  type Cell,
  type Spread,
} from '../../core/compare/spread'
import type { ComparedRow } from '../../core/compare/rows'
import { isAbout } from '../../core/objectives/subject'
import type { Window } from '../../core/objectives/windows'
import { Histogram } from '../../core/histogram/histogram'
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
  const whole = new Map([...subjects.keys()].map(key => [key, new SeriesSum()]))
  const cells = new Map<string, Cell[]>([...subjects.keys()].map(key => [key, []]))
  const cellsAt = cellReader(run, [...subjects.values()])
  const medians: (number | null)[] = []
  let lengthS = 0
  for (const { fromS, toS } of windows) {
    lengthS += toS - fromS
    const sums = new Map<number, SeriesSum>()
    run.addWindow(fromS, toS, n => sumIn(sums, n), ['right'])
    for (const [key, numbers] of subjects) {
      const sum = whole.get(key)!
      for (const one of numbers.flatMap(n => sums.get(n) ?? [])) sum.add(one, ['right'])
    }
    // Values alone need no cells: the coarsest sums will do.
    if (!spread) continue
    for (let from = fromS; from + CELL_S <= toS; from += CELL_S) {
      const all = cellsAt(from)
      for (const [s, own] of [...cells.values()].entries()) own.push(all[s]!)
    }
    medians.push(...run.seconds(fromS, toS).map(s => s.all[2]))
  }
  const tauS = correlationTimeS(medians)
  return rows.map(({ metric }, row) => {
    const key = subjectOf[row]!
    const value = valueOf(measuredIn(whole.get(key)!), metric, lengthS)
    if (value === undefined) return { value, blocks: 0 }
    return spread ? spreadOf(cells.get(key)!, metric, tauS, value) : { value, blocks: 0 }
  })
}

/**
 * Reads rows' series by the ten seconds, into the same arrays again and again: there are many, and each is soon done
 * with. Series that all rows take together are read as one.
 *
 * @param subjects numbers of the series of each @returns what every subject was in the ten seconds from one on
 */
function cellReader(run: OpenRun, subjects: readonly (readonly number[])[]): (fromS: number) => Cell[] {
  const takenBy = new Map<number, number[]>()
  subjects.forEach((numbers, subject) => {
    for (const n of numbers) {
      const own = takenBy.get(n) ?? []
      takenBy.set(n, own)
      own.push(subject)
    }
  })
  const shares = [...new Map([...takenBy.values()].map(of => [of.join(' '), of])).entries()]
  const shareOf = new Map([...takenBy].map(([n, of]) => [n, shares.findIndex(([key]) => key === of.join(' '))]))
  const parts = shares.map(() => new Histogram())
  const together = new Histogram()
  return (fromS) => {
    const sums = parts.map((part) => {
      part.clear()
      const sum = new SeriesSum()
      sum.timings.right = part
      return sum
    })
    run.addWindow(fromS, fromS + CELL_S, n => sums[shareOf.get(n) ?? -1], ['right'])
    const own: Cell[][] = subjects.map(() => [])
    shares.forEach(([, of], share) => {
      const cell = cellOf(measuredIn(sums[share]!))
      for (const subject of of) own[subject]!.push(cell)
    })
    return own.map((cells) => {
      if (cells.length === 1) return cells[0]!
      together.clear()
      let [answered, failed] = [0, 0]
      for (const cell of cells) {
        cell.right.addTo(together)
        answered += cell.answered
        failed += cell.failed
      }
      return cellOf({ right: together, answered, failed })
    })
  }
}

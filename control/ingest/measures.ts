/** Rows of a comparison, measured in one run: each with its value, and how far that may be off. */
import {
  cellOf,
  CELL_S,
  correlationTimeS,
  measuredIn,
  spreadOf,
  valueOf,
  type MeasuredCell,
  type Spread,
} from '../../core/compare/spread'
import type { ComparedRow } from '../../core/compare/rows'
import { isAbout } from '../../core/objectives/subject'
import type { Window } from '../../core/objectives/windows'
import { Histogram } from '../../core/histogram/histogram'
import { SeriesSum, sumIn, type Timing } from '../../core/merge/series-sum'
import { seriesOf } from '../../core/run/series'
import type { RunDocument } from '../../core/run/document'
import type { OpenRun } from './run-reader'

export interface MeasuresWanted {
  rows: readonly ComparedRow[]
  windows: readonly Window[]
  /** Whether it matters how far values may be off: that takes longer. */
  spread: boolean
}

/** Series that are one figure together. */
interface Subject {
  series: readonly number[]
  withFailures: boolean
}

export function measuresOf(document: RunDocument, run: OpenRun, { rows, windows, spread }: MeasuresWanted): Spread[] {
  const series = seriesOf(document)
  const subjects: Subject[] = []
  // Rows of one subject and several metrics are summed once.
  const places = new Map<string, number>()
  const placeOf = rows.map(({ subject, withFailures = false }) => {
    const numbers = series.flatMap((of, n) => (isAbout(subject, of, document.plan) ? [n] : []))
    const key = `${numbers.join(' ')} ${withFailures}`
    const place = places.get(key) ?? subjects.push({ series: numbers, withFailures }) - 1
    places.set(key, place)
    return place
  })
  const timings: Timing[] = rows.some(r => r.withFailures) ? ['right', 'failed'] : ['right']
  const whole = subjects.map(() => new SeriesSum())
  const cells = subjects.map((): MeasuredCell[] => [])
  const cellsAt = cellReader(run, subjects, timings)
  const medians: (number | null)[] = []
  let lengthS = 0
  for (const { fromS, toS } of windows) {
    lengthS += toS - fromS
    const sums = new Map<number, SeriesSum>()
    run.addWindow(fromS, toS, n => sumIn(sums, n), timings)
    subjects.forEach(({ series: numbers }, s) => {
      for (const one of numbers.flatMap(n => sums.get(n) ?? [])) whole[s]!.add(one, timings)
    })
    // Values alone need no cells: the coarsest sums will do.
    if (!spread) continue
    for (let from = fromS; from + CELL_S <= toS; from += CELL_S)
      cellsAt(from).forEach((cell, s) => cells[s]!.push(cell))
    medians.push(...run.seconds(fromS, toS).map(s => s.all[2]))
  }
  const tauS = correlationTimeS(medians)
  return rows.map(({ metric }, row) => {
    const s = placeOf[row]!
    const value = valueOf(measuredIn(whole[s]!, subjects[s]!.withFailures), metric, lengthS)
    if (value === undefined) return { value, blocks: 0 }
    return spread ? spreadOf(cells[s]!, metric, tauS, value) : { value, blocks: 0 }
  })
}

/**
 * Reads subjects by the ten seconds, into the same arrays again and again: there are many, and each is soon done with.
 * Series that the same subjects take are read as one.
 *
 * @returns what every subject was in the ten seconds from one on
 */
function cellReader(
  run: OpenRun,
  subjects: readonly Subject[],
  timings: readonly Timing[],
): (fromS: number) => MeasuredCell[] {
  const takenBy = new Map<number, number[]>()
  subjects.forEach(({ series }, subject) => {
    for (const n of series) takenBy.set(n, [...(takenBy.get(n) ?? []), subject])
  })
  const takers = [...new Map([...takenBy.values()].map(of => [of.join(' '), of])).values()]
  const keys = takers.map(of => of.join(' '))
  const partOf = new Map([...takenBy].map(([n, of]) => [n, keys.indexOf(of.join(' '))]))
  const scratch = takers.map(() => timings.map(() => new Histogram()))
  const emptySums = () =>
    scratch.map((own) => {
      const sum = new SeriesSum()
      timings.forEach((timing, t) => {
        own[t]!.clear()
        sum.timings[timing] = own[t]!
      })
      return sum
    })
  const together = new Histogram()
  return (fromS) => {
    const sums = emptySums()
    run.addWindow(fromS, fromS + CELL_S, n => sums[partOf.get(n) ?? -1], timings)
    const parts: MeasuredCell[][] = subjects.map(() => [])
    sums.forEach((sum, part) => {
      const told = new Map<boolean, MeasuredCell>()
      for (const subject of takers[part]!) {
        const { withFailures } = subjects[subject]!
        const cell = told.get(withFailures) ?? cellOf(measuredIn(sum, withFailures))
        told.set(withFailures, cell)
        parts[subject]!.push(cell)
      }
    })
    return parts.map((cells) => {
      if (cells.length === 1) return cells[0]!
      together.clear()
      let [answered, failed] = [0, 0]
      for (const cell of cells) {
        cell.times.addTo(together)
        answered += cell.answered
        failed += cell.failed
      }
      return cellOf({ times: together, answered, failed })
    })
  }
}

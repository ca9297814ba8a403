/**
 * What staffs draw over time: their statistics in bins of whole seconds, exact. All staffs of one question are answered
 * by one walk over the bins: series that go into the same lines are summed as one.
 */
import type { Histogram } from '../histogram/histogram'
import { FAILURE_KINDS } from '../journey/failure-kinds'
import type { SecondFigures } from '../merge/second-figures'
import { SeriesSum, sumIn, type SumOf, type Timing } from '../merge/series-sum'
import type { RunDocument } from '../run/document'
import { seriesOf } from '../run/series'
import { addsUpIn, chosenSeries, valueIn, type Dimension, type SeriesList } from './slices'
import { isTimedMeasure, PERCENTILES, TIMED, type StaffStatistic, type StaffWish, type TimedMeasure } from './staff'

export interface CourseLine {
  /** What of the split it is, or which statistic of several; empty: everything that was chosen. */
  value: string
  /** Per bin: ms, a share from 0 to 1, a number per second, or users (the most in the bin); null: nothing there. */
  values: (number | null)[]
}

export interface Course {
  /** In the order of the plan. */
  lines: CourseLine[]
}

/** From second `fromS` (inclusive) to `toS` (exclusive), in bins of `binS`; the last may be shorter. */
export interface Bins {
  fromS: number
  toS: number
  binS: number
}

/** Adds every series of a window to the sum it is given. */
export type AddWindow = (fromS: number, toS: number, into: SumOf, timings: readonly Timing[]) => void

const BIN_SIZES_S = [1, 10, 100, 1000] as const

/** Bins of the smallest size the sums are kept in, of which there are not more than `most`; whole ones from 0 on. */
export function binsFor(fromS: number, toS: number, most: number): Bins {
  const isFew = (s: number) => Math.ceil(toS / s) - Math.floor(fromS / s) <= most
  const binS = BIN_SIZES_S.find(isFew) ?? BIN_SIZES_S[BIN_SIZES_S.length - 1]!
  return { fromS: Math.floor(fromS / binS) * binS, toS, binS }
}

/**
 * @param series told apart by machine where machines are asked for
 * @param secondsIn figures of seconds, for users
 */
export function coursesOf(
  document: RunDocument,
  { addWindow, secondsIn }: { addWindow: AddWindow, secondsIn: (fromS: number, toS: number) => SecondFigures[] },
  wishes: readonly StaffWish[],
  bins: Bins,
  series: SeriesList = seriesOf(document),
): Course[] {
  // Who is counted alone needs no histograms: they are read for those whose times are told, into as few sums as those
  // have lines.
  const isTimed = (wish: StaffWish) => isTimedMeasure(wish.measure)
  const timed = new CourseSums(document, wishes.map(wish => (isTimed(wish) ? wish : undefined)), series)
  const counted = new CourseSums(document, wishes.map(wish => (isTimed(wish) ? undefined : wish)), series)
  const partOf = (wish: StaffWish) => (isTimed(wish) ? timed : counted)
  const users = wishes.map(wish => (wish.measure === 'users' ? usersOf(document, wish) : undefined))
  const seconds = users.some(Boolean) ? secondsIn(bins.fromS, bins.toS) : []
  const courses: Course[] = wishes.map((wish, w) => ({
    lines: (users[w]?.lines ?? linesOf(wish, partOf(wish).values[w]!)).map(value => ({ value, values: [] })),
  }))
  let next = 0
  for (let at = bins.fromS; at < bins.toS; at += bins.binS) {
    const end = Math.min(at + bins.binS, bins.toS)
    const ofBin: SecondFigures[] = []
    for (; next < seconds.length && seconds[next]!.second < end; next++) ofBin.push(seconds[next]!)
    for (const part of [timed, counted]) if (part.isAsked) part.read(addWindow, at, end)
    wishes.forEach((wish, w) => {
      const told = users[w]?.most(ofBin) ?? partOf(wish).tell(w, wish, end - at)
      courses[w]!.lines.forEach((line, l) => line.values.push(told[l] ?? null))
    })
  }
  return courses
}

/** What the lines of a staff are. @param values of its split, in order */
function linesOf({ statistics, split }: StaffWish, values: readonly string[]): string[] {
  if (split === 'kind') return [...FAILURE_KINDS]
  return statistics.length > 1 ? statistics : [...values]
}

/** What goes into the same lines of every staff: one sum, of one bin after the other. */
interface Atom {
  /** Places of lines, staff by staff; −1: in none. */
  places: number[]
  sum: SeriesSum
}

/** Sums of one bin: emptied for the next, for making them anew costs more than all else. */
class CourseSums {
  /** Of each staff: what lines are told apart by. */
  readonly values: string[][]
  private readonly atoms: Atom[]
  private readonly sumOf = new Map<number, SeriesSum>()
  private readonly timings: Timing[]
  /** Lines that are more than one atom, by staff and place. */
  private readonly lines = new Map<string, SeriesSum>()

  /** @param wishes undefined: somebody else's */
  constructor(document: RunDocument, wishes: readonly (StaffWish | undefined)[], series: SeriesList) {
    this.values = wishes.map(() => [])
    const placesOf = new Map<number, number[]>()
    wishes.forEach((wish, w) => {
      if (!wish || wish.measure === 'users') return
      const { only = {}, split } = wish
      const chosen = chosenSeries(document, series, only)
      const by = split === undefined || split === 'kind' ? undefined : split
      // Spans time what their requests count already: they are told where steps are told apart, and add up nowhere.
      const addsUp = by === 'step' ? () => true : addsUpIn(series, chosen)
      const places = new Map<string, number>()
      for (const number of chosen) {
        const of = series[number]!
        if (!addsUp(of)) continue
        const value = by ? valueIn(by, of, document) : ''
        const place = places.get(value) ?? places.size
        places.set(value, place)
        let all = placesOf.get(number)
        if (!all) placesOf.set(number, (all = wishes.map(() => -1)))
        all[w] = place
      }
      this.values[w] = places.size > 0 ? [...places.keys()] : by ? [] : ['']
    })
    const atoms = new Map<string, Atom>()
    for (const [number, places] of placesOf) {
      const key = places.join()
      let atom = atoms.get(key)
      if (!atom) atoms.set(key, (atom = { places, sum: new SeriesSum() }))
      this.sumOf.set(number, atom.sum)
    }
    this.atoms = [...atoms.values()]
    const timed = wishes.flatMap(wish => (wish && isTimedMeasure(wish.measure) ? [TIMED[wish.measure]] : []))
    this.timings = [...new Set<Timing>(timed)]
  }

  get isAsked(): boolean {
    return this.atoms.length > 0
  }

  read(addWindow: AddWindow, fromS: number, toS: number): void {
    for (const { sum } of this.atoms) sum.clear()
    addWindow(fromS, toS, number => this.sumOf.get(number), this.timings)
  }

  /** The values of a staff's lines in this bin. */
  tell(w: number, wish: StaffWish, lengthS: number): (number | null)[] {
    const timings = isTimedMeasure(wish.measure) ? [TIMED[wish.measure]] : []
    const lines = this.values[w]!.map((_, place) => {
      const parts = this.atoms.filter(({ places }) => places[w] === place)
      if (parts.length === 1) return parts[0]!.sum
      const line = sumIn(this.lines, `${w}/${place}`)
      line.clear()
      for (const { sum } of parts) line.add(sum, timings)
      return line
    })
    if (wish.split === 'kind') return [...(lines[0] ?? new SeriesSum()).failures].map(n => n / lengthS)
    // A line per line of the split, or per statistic of all that was chosen.
    const told = (sum: SeriesSum) => wish.statistics.map(s => statisticOf(sum, s, wish, lengthS))
    return wish.statistics.length > 1 ? told(lines[0] ?? new SeriesSum()) : lines.flatMap(told)
  }
}

function statisticOf(
  sum: SeriesSum,
  statistic: StaffStatistic,
  { measure }: Pick<StaffWish, 'measure'>,
  lengthS: number,
): number | null {
  if (isTimedMeasure(measure)) return timeOf(sum, statistic, measure)
  if (statistic === 'share') {
    const failed = sum.failed - sum.ownFaults
    return sum.right + failed > 0 ? failed / (sum.right + failed) : null
  }
  const counts: Partial<Record<StaffWish['measure'], number>> = {
    sent: sum.started,
    right: sum.right,
    failed: sum.failed,
    passes: sum.passes,
    received: sum.bytes,
    bodiesSent: sum.bytesSent,
  }
  return (counts[measure] ?? 0) / lengthS
}

/** ms; the shortest and the longest right answers to the µs, as far as that is known. */
function timeOf(sum: SeriesSum, statistic: StaffStatistic, measure: TimedMeasure): number | null {
  const histogram: Histogram = sum.timings[TIMED[measure]]
  const us = (): number | undefined => {
    if (isPercentile(statistic)) return histogram.percentileUs(PERCENTILES[statistic])
    if (statistic === 'mean') return histogram.meanUs()
    if (statistic === 'smallest')
      return measure === 'answered' && Number.isFinite(sum.leastUs) ? sum.leastUs : histogram.minUs()
    return measure === 'answered' && sum.mostUs > 0 ? sum.mostUs : histogram.maxUs()
  }
  const found = histogram.count === 0 ? undefined : us()
  return found === undefined ? null : found / 1000
}

const isPercentile = (statistic: StaffStatistic): statistic is keyof typeof PERCENTILES => statistic in PERCENTILES

/** Users present: which cells of the plan go into which line. */
function usersOf({ plan }: RunDocument, { only = {}, split }: StaffWish) {
  const isChosen = (d: Dimension, value: string) => !only[d]?.length || only[d].includes(value)
  const lines: string[] = split ? [] : ['']
  /** By group, then by location, as a second has them. */
  const lineOf = plan.locations.map(({ code }) =>
    plan.groups.map(({ letter, journeyId }) => {
      if (!isChosen('location', code) || !isChosen('group', letter) || !isChosen('journey', journeyId)) return -1
      const value = split === 'location' ? code : split === 'group' ? letter : split === 'journey' ? journeyId : ''
      if (!lines.includes(value)) lines.push(value)
      return lines.indexOf(value)
    }),
  )
  return {
    lines,
    /** The most of each line in any of these seconds; null where none of them is told. */
    most(seconds: readonly SecondFigures[]): (number | null)[] {
      const most: (number | null)[] = lines.map(() => null)
      for (const { usersByCell } of seconds) {
        if (!usersByCell) continue
        const now = lines.map(() => 0)
        lineOf.forEach((ofLocation, l) =>
          ofLocation.forEach((line, g) => {
            if (line >= 0) now[line]! += usersByCell[l * plan.groups.length + g]!
          }),
        )
        now.forEach((n, i) => {
          most[i] = Math.max(most[i] ?? 0, n)
        })
      }
      return most
    },
  }
}

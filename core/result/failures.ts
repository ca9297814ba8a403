/**
 * Where and when a run failed: per kind of failure its steps, its first and last second, its course, and the places at
 * which it differs from the rest by more than chance.
 */
import { FAILURE_KINDS, OWN_FAULTS, type FailureKind } from '../journey/failure-kinds'
import { answerNumber, answerOf, type SeriesSum } from '../merge/series-sum'
import type { RunDocument } from '../run/document'
import { isCounted, seriesOf } from '../run/series'
import { fisherExact, holm } from '../values/fisher'
import { chosenSeries, valueIn, type Dimension, type SeriesList, type SliceWish } from './slices'
import { present } from '../values/present'

/** What a place can be. */
export const PLACES = ['location', 'network', 'client', 'group', 'machine'] as const satisfies readonly Dimension[]
export type Place = (typeof PLACES)[number]

/** A place at which a kind of failure is more, or less, than elsewhere. */
export interface FailingPlace {
  dimension: Place
  value: string
  /** Failures of this kind ÷ what ended: there, and everywhere else. */
  share: number
  restShare: number
  /** Of {@link fisherExact}, before the correction for how many were asked. */
  p: number
}

export interface FailureLine {
  kind: FailureKind
  /** Of a wrong status: which. Runs of earlier releases do not say. */
  status?: number
  count: number
  /** Keys of steps and how often each failed so; those that did only. */
  steps: [key: string, count: number][]
  /** First and last run second in which one ended. */
  firstS: number
  lastS: number
  /** Failures per stretch of {@link FailureReport.stretchS}; stretches begin at whole multiples of their length. */
  course: number[]
  places: FailingPlace[]
}

export interface FailureReport {
  /** Right answers and failures; those of the generators' own fault are in neither. */
  ended: number
  failed: number
  /** The most frequent first; the generators' own faults among them. */
  kinds: FailureLine[]
  /** Length of a stretch of a course, s; the last may be shorter. */
  stretchS: number
}

/** Windows longer than the first are looked at in blocks of 10 s, longer than the second in blocks of 100 s, s. */
const LONG_S = 100
const VERY_LONG_S = 7200
/** Most stretches of a course. */
const MOST_STRETCHES = 60
/** A place differs when chance explains it less often than this … */
const LEVEL = 0.01
/** … and its share is larger (or smaller) by this factor, or by this many points. */
const TIMES = 2
const POINTS = 0.01

/**
 * @param sumsIn counts of seconds `fromS` (inclusive) to `toS` (exclusive), by the series' numbers; histograms are not
 * looked at
 * @param series told apart by machine where machines are asked about
 */
export function failuresOf(
  document: RunDocument,
  sumsIn: (fromS: number, toS: number) => ReadonlyMap<number, SeriesSum>,
  { fromS, toS }: { fromS: number, toS: number },
  only: NonNullable<SliceWish['only']> = {},
  series: SeriesList = seriesOf(document),
): FailureReport {
  const counted = chosenSeries(document, series, only).filter(number => isCounted(series[number]!))
  const places = placesOf(document, counted, series)
  const blockS = toS - fromS > VERY_LONG_S ? 100 : toS - fromS > LONG_S ? 10 : 1
  const stretchBlocks = Math.max(1, Math.ceil((toS - fromS) / blockS / MOST_STRETCHES))
  const stretchS = stretchBlocks * blockS
  const stretchOf = (second: number) => Math.floor(second / stretchS) - Math.floor(fromS / stretchS)
  const found = new Map<number, Found>()
  const here = places.map(() => new Tally())
  const talliesOf = new Map(counted.map(number => [number, here.filter((_, at) => places[at]!.numbers.has(number))]))
  let ended = 0
  for (const block of blocksOf(fromS, toS, blockS)) {
    const sums = sumsIn(block.fromS, block.toS)
    for (const number of counted) {
      const sum = sums.get(number)
      if (!sum) continue
      const failures = failuresIn(sum)
      const endedHere = sum.right + (failures.length > 0 ? sum.failed - sum.ownFaults : 0)
      ended += endedHere
      for (const [failure, n] of failures)
        Found.of(found, failure, block).take(stretchOf(block.fromS), number, n, block)
      for (const tally of present(talliesOf.get(number), 'the tallies of a series that is counted')) tally.add(endedHere, failures)
    }
    for (const tally of here) tally.endBlock()
  }
  const kinds = [...found].map(([failure, of]): FailureLine => {
    const steps = new Map<string, number>()
    for (const [number, n] of of.bySeries) {
      const key = valueIn('step', series[number]!, document)
      steps.set(key, (steps.get(key) ?? 0) + n)
    }
    const fails = (second: number) => {
      const sums = sumsIn(second, second + 1)
      return counted.some((number) => {
        const sum = sums.get(number)
        return sum !== undefined && countIn(sum, failure) > 0
      })
    }
    return {
      ...namedBy(failure),
      count: of.count,
      steps: [...steps].sort((a, b) => b[1] - a[1]),
      // It failed in a second of that stretch: so it was found.
      firstS: secondsOf(of.first).find(fails)!,
      // As above.
      lastS: secondsOf(of.last).findLast(fails)!,
      course: Array.from({ length: stretchOf(toS - 1) + 1 }, (_, i) => of.course[i] ?? 0),
      places: differing(places, here, failure),
    }
  })
  kinds.sort((a, b) => b.count - a.count)
  const failed = kinds.reduce((sum, k) => sum + (OWN_FAULTS.includes(k.kind) ? 0 : k.count), 0)
  return { ended, failed, kinds, stretchS }
}

/** Places that differ in any of the series, with the numbers of those that are there. */
function placesOf(document: RunDocument, counted: readonly number[], series: SeriesList) {
  return PLACES.flatMap((dimension) => {
    const of = new Map<string, Set<number>>()
    for (const number of counted) {
      const value = valueIn(dimension, series[number]!, document)
      of.set(value, (of.get(value) ?? new Set()).add(number))
    }
    // Of one place there is no rest.
    return of.size < 2 ? [] : Array.from(of, ([value, numbers]) => ({ dimension, value, numbers }))
  })
}

interface Block {
  fromS: number
  toS: number
}

/** Blocks begin at whole multiples of their length, so that each is a slot of what is stored. */
function* blocksOf(fromS: number, toS: number, blockS: number): Generator<Block> {
  for (let at = fromS; at < toS;) {
    const end = Math.min(toS, (Math.floor(at / blockS) + 1) * blockS)
    yield { fromS: at, toS: end }
    at = end
  }
}

const secondsOf = ({ fromS, toS }: Block) => Array.from({ length: toS - fromS }, (_, i) => fromS + i)

const STATUS = FAILURE_KINDS.indexOf('status')

type Failures = readonly (readonly [failure: number, count: number])[]
const NO_FAILURES: Failures = []

/** Failures of a sum by {@link answerNumber}: wrong statuses each apart, all others without their status. */
function failuresIn(sum: SeriesSum): Failures {
  // Of most there are none, and this is asked of every series and stretch.
  if (sum.failed === 0) return NO_FAILURES
  const found: [number, number][] = []
  for (const [kind, n] of sum.failures.entries()) {
    let left = n
    if (kind === STATUS && n > 0) {
      for (const [number, of] of sum.answers) {
        if (answerOf(number).failure !== 'status') continue
        found.push([number, of])
        left -= of
      }
    }
    if (left > 0) found.push([answerNumber(0, kind), left])
  }
  return found
}

function namedBy(failure: number): Pick<FailureLine, 'kind' | 'status'> {
  const { failure: kind, status } = answerOf(failure)
  return { kind: present(kind, 'the kind of an answer that failed'), ...(status > 0 ? { status } : {}) }
}

function countIn(sum: SeriesSum, failure: number): number {
  return failuresIn(sum).find(([other]) => other === failure)?.[1] ?? 0
}

/** What was found of one kind of failure. */
class Found {
  count = 0
  readonly bySeries = new Map<number, number>()
  readonly course: number[] = []
  last: Block

  constructor(readonly first: Block) {
    this.last = first
  }

  take(stretch: number, number: number, n: number, block: Block): void {
    this.count += n
    this.course[stretch] = (this.course[stretch] ?? 0) + n
    this.bySeries.set(number, (this.bySeries.get(number) ?? 0) + n)
    this.last = block
  }

  static of(found: Map<number, Found>, failure: number, block: Block): Found {
    let of = found.get(failure)
    if (!of) found.set(failure, (of = new Found(block)))
    return of
  }
}

/** What happened at one place: failures of each kind, and in how many blocks of time there was one. */
class Tally {
  ended = 0
  blocks = 0
  readonly failed = new Map<number, number>()
  readonly failedBlocks = new Map<number, number>()

  /** In the block that is being looked at. */
  private endedNow = 0
  private readonly failedNow = new Map<number, number>()

  add(ended: number, failures: Failures): void {
    this.endedNow += ended
    for (const [failure, n] of failures) this.failedNow.set(failure, (this.failedNow.get(failure) ?? 0) + n)
  }

  endBlock(): void {
    if (this.endedNow === 0 && this.failedNow.size === 0) return
    this.ended += this.endedNow
    this.blocks++
    for (const [failure, n] of this.failedNow) {
      this.failed.set(failure, (this.failed.get(failure) ?? 0) + n)
      this.failedBlocks.set(failure, (this.failedBlocks.get(failure) ?? 0) + 1)
    }
    this.endedNow = 0
    this.failedNow.clear()
  }
}

/**
 * Places at which a kind of failure differs from the rest. Failures come in bunches, so blocks of time are counted and
 * not failures: those with at least one there, against those of all other places of the dimension.
 */
function differing(
  places: readonly { dimension: Place, value: string }[],
  tallies: readonly Tally[],
  failure: number,
): FailingPlace[] {
  const failedIn = (t: Tally) => t.failed.get(failure) ?? 0
  const blocksIn = (t: Tally) => t.failedBlocks.get(failure) ?? 0
  const asked = places.map(({ dimension, value }, at): FailingPlace => {
    const mine = tallies[at]!
    const others = tallies.filter((_, i) => i !== at && places[i]!.dimension === dimension)
    const total = (of: (t: Tally) => number) => others.reduce((sum, t) => sum + of(t), 0)
    const [failedBlocks, blocks] = [total(blocksIn), total(t => t.blocks)]
    return {
      dimension,
      value,
      share: mine.ended > 0 ? failedIn(mine) / mine.ended : 0,
      restShare: total(t => t.ended) > 0 ? total(failedIn) / total(t => t.ended) : 0,
      p: fisherExact([
        [blocksIn(mine), mine.blocks - blocksIn(mine)],
        [failedBlocks, blocks - failedBlocks],
      ]),
    }
  })
  const isReal = holm(asked.map(a => a.p), LEVEL)
  return asked
    .filter(({ share, restShare }, i) => {
      const [more, less] = share > restShare ? [share, restShare] : [restShare, share]
      return isReal[i] && (more >= TIMES * less || more - less >= POINTS)
    })
    .sort((a, b) => b.share - a.share)
}

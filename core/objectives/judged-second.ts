/**
 * What each objective of a plan is about, found once; and its part of a single second, which screens draw and waits are
 * reckoned from.
 */
import type { Histogram } from '../histogram/histogram'
import { figuresOf } from '../merge/figures'
import type { JudgedSecond } from '../merge/second-figures'
import { SeriesSum } from '../merge/series-sum'
import type { RunDocument } from '../run/document'
import { isCounted, type Series } from '../run/series'
import { figureOf } from './judge'
import { groupsOf, isAbout, isWaitedFor, locationsOf } from './subject'

export class JudgedSeries {
  /** Per objective, the series it is about. */
  private readonly about: number[][]
  /** Per series, the objectives that wait for its requests. */
  private readonly waitedBy: number[][]
  readonly objectives: number

  constructor(
    private readonly document: RunDocument,
    series: readonly Series[],
  ) {
    const { plan } = document
    const { objectives } = plan
    this.objectives = objectives.length
    this.about = objectives.map(o => series.flatMap((s, n) => (isAbout(o, s, plan) ? [n] : [])))
    this.waitedBy = series.map(() => [])
    for (const [i, o] of objectives.entries()) {
      const isRequest = this.about[i]!.some(n => isCounted(series[n]!))
      for (const [n, s] of series.entries()) if (isWaitedFor(o, s, plan, isRequest)) this.waitedBy[n]!.push(i)
    }
  }

  /** Adds what was begun, less what ended, to the requests each objective waits for. */
  addInFlight(inFlight: Float64Array, series: number, begun: number, ended: number): void {
    for (const i of this.waitedBy[series]!) inFlight[i]! += begun - ended
  }

  /**
   * @param usersByCell users present, the groups of one location after those of the one before @param lost per
   * objective, requests of generators that are not heard
   */
  of(sums: ReadonlyMap<number, SeriesSum>, usersByCell: readonly number[], lost: ArrayLike<number>): JudgedSecond[] {
    const { plan } = this.document
    const flow = plan.objectives.map((): [number, number] => [0, 0])
    for (const [n, sum] of sums) {
      for (const i of this.waitedBy[n]!) {
        flow[i]![0] += sum.started
        flow[i]![1] += sum.ended
      }
    }
    return plan.objectives.map((o, i): JudgedSecond => {
      const [started, ended] = flow[i]!
      const value =
        o.metric === 'users'
          ? locationsOf(o, plan).reduce(
              (n, l) => n + groupsOf(o, plan).reduce((m, g) => m + (usersByCell[l * plan.groups.length + g] ?? 0), 0),
              0,
            )
          : this.valueOf(i, sums)
      return [value ?? null, started, ended, lost[i] ?? 0]
    })
  }

  private valueOf(index: number, sums: ReadonlyMap<number, SeriesSum>): number | undefined {
    const objective = this.document.plan.objectives[index]!
    const mine = this.about[index]!.flatMap(n => sums.get(n) ?? [])
    if (objective.metric === 'throughput') return mine.reduce((n, s) => n + s.right, 0)
    if (mine.length === 0) return undefined
    const whole = new SeriesSum()
    // A time needs no more than its histogram.
    if (objective.metric === 'failures') for (const s of mine) whole.add(s)
    else for (const s of mine) addTimes(whole.timings.right, s, objective.withFailures === true)
    return figureOf(objective, figuresOf(whole))
  }
}

function addTimes(times: Histogram, { timings }: SeriesSum, withFailures: boolean): void {
  times.add(timings.right)
  if (withFailures) times.add(timings.failed)
}

/**
 * Stretches in which an objective was broken, while a run still loads: looked at window by window, each once everything
 * of it has come and nothing of it changes any more.
 */
import type { RunDocument } from '../run/document'
import type { Series } from '../run/series'
import { runLengthMs } from '../plan/length'
import { secondsAround, type CountedRun } from './seconds-around'
import { brokenStretches, type BrokenStretch } from './stretches'
import { evidenceOf, judgedLevels, usersPresent, type MergedRun } from './summary'

/** What merging has to offer while it goes on. */
export type MergingRun = Pick<MergedRun, 'window' | 'addWindow' | 'counts'> & CountedRun

export class BrokenSoFar {
  /** In the order of time; the last of an objective may still grow. */
  readonly stretches: BrokenStretch[] = []
  /** Windows that end before have been looked at, run second. */
  private lookedS = 0

  constructor(
    private readonly document: RunDocument,
    private readonly series: readonly Series[],
  ) {}

  /**
   * Looks at what became final since the last time. @param finalS run second up to which nothing changes any more
   *
   * @returns whether there was anything to look at
   */
  look(run: MergingRun, finalS: number): boolean {
    const { document, series } = this
    const lengthS = Math.ceil(runLengthMs(document) / 1000)
    const untilS = Math.min(finalS, lengthS)
    if (untilS < this.lookedS + LOOK_EVERY_S && !(untilS === lengthS && this.lookedS < lengthS)) return false
    // A window begins no more than an objective's own length before; what is far behind costs a long run too much.
    const seconds = secondsAround(document, series, run, Math.max(0, this.lookedS - longestWindowS(document)), untilS)
    const lately = run.window(Math.max(0, untilS - LATELY_S), untilS)
    const found = brokenStretches({
      objectives: document.plan.objectives,
      levels: judgedLevels(document, lately, series, lengthS).levels,
      lengthS,
      ending: { afterS: this.lookedS, byS: untilS },
      evidenceFor: evidenceOf(run, document, series, seconds),
      usersIn: usersPresent(seconds),
    })
    for (const stretch of found) this.add(stretch)
    this.lookedS = untilS
    return true
  }

  private add(stretch: BrokenStretch): void {
    const { objective, judged, fromS } = stretch
    const last = this.stretches.findLast(s => s.objective === objective && s.judged === judged && s.toS === fromS)
    if (!last) return void this.stretches.push(stretch)
    const isFurther = isWorseThan(stretch, last, this.document)
    Object.assign(last, {
      toS: stretch.toS,
      ...(isFurther ? { worst: stretch.worst, worstFromS: stretch.worstFromS, worstToS: stretch.worstToS } : {}),
      ...(stretch.users === undefined ? {} : { users: Math.max(last.users ?? 0, stretch.users) }),
    })
  }

  /** Up to where was looked, run second: a stretch that ends there may go on. */
  get untilS(): number {
    return this.lookedS
  }
}

/** Not sooner again, s. */
const LOOK_EVERY_S = 5
/** How long a pass takes, and so when a level has settled, is reckoned from this many seconds, s. */
const LATELY_S = 100
/** Of objectives that have no stretches of their own: two windows at most. */
const USUAL_WINDOW_S = 20

/** The longest stretch in which an objective is looked at as one; the last of a level may be nearly twice as long. */
function longestWindowS({ plan }: RunDocument): number {
  return Math.max(
    USUAL_WINDOW_S,
    ...plan.objectives.map(o => (typeof o.window === 'object' ? 2 * o.window.everyS : USUAL_WINDOW_S)),
  )
}

function isWorseThan(a: BrokenStretch, b: BrokenStretch, { plan }: RunDocument): boolean {
  return plan.objectives[a.objective]!.atLeast === undefined ? a.worst > b.worst : a.worst < b.worst
}

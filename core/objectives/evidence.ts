/**
 * What an objective is judged by, in any window of a run: its figures, who waited meanwhile, and the load that was
 * there.
 */
import { figuresOf, type Figures } from '../merge/figures'
import type { SecondFigures } from '../merge/second-figures'
import type { SeriesSum } from '../merge/series-sum'
import type { Objective } from '../plan/document'
import type { RunDocument } from '../run/document'
import type { Series } from '../run/series'
import { LoadBook, type LoadThere } from './load-there'
import { isTimed } from './sentence'
import { sumOf } from './subject'
import { TargetValues } from './target-values'
import { addWaiting, flowOf, type Flow } from './waiting'
import type { Window } from './windows'

export interface Evidence {
  figures: Figures
  load: LoadThere
  /** The longest that anybody had waited past the limit at the end of the window, ms. */
  waitedMs?: number
  /** Of the target's own figures; left out: not read. */
  target?: number
}

export class EvidenceBook {
  private readonly loads: LoadBook
  private readonly flows = new Map<number, Flow>()

  /** @param seconds by run second; holes where nothing was merged */
  constructor(
    private readonly document: RunDocument,
    private readonly series: readonly Series[],
    private readonly seconds: readonly (SecondFigures | undefined)[],
    private readonly targetValues = new TargetValues(),
  ) {
    this.loads = new LoadBook(document, series)
  }

  /** @param sums of the window, by series number */
  of(objective: Objective, window: Window, sums: ReadonlyMap<number, SeriesSum>): Evidence {
    return this.ofSum(objective, window, sumOf(objective, sums, this.series, this.document.plan), sums)
  }

  /**
   * The same of what is summed already. @param sum of what the objective is about; it is added to @param counts of the
   * window, by series number; their histograms are not looked at
   */
  ofSum(objective: Objective, window: Window, sum: SeriesSum, counts: ReadonlyMap<number, SeriesSum>): Evidence {
    const { right, failed } = sum.timings
    // A time-out lasted its limit at least: where nothing came back, that is the time.
    if (objective.withFailures || (sum.right === 0 && (sum.failuresByKind().timeout ?? 0) > 0)) right.add(failed)
    const waitedMs =
      isTimed(objective.metric) && objective.atMost !== undefined
        ? addWaiting(right, this.flowFor(objective), window.toS, objective.atMost)
        : 0
    const load = this.load(objective, window, counts)
    const target = this.targetValues.of(objective, window)
    return {
      figures: figuresOf(sum),
      load,
      ...(waitedMs > 0 ? { waitedMs } : {}),
      ...(target === undefined ? {} : { target }),
    }
  }

  /** The load alone; of the whole plan where no subject is given. */
  load(subject: Partial<Objective>, window: Window, sums: ReadonlyMap<number, SeriesSum>): LoadThere {
    return this.loads.of(subject, window, sums, this.seconds)
  }

  /** Passes due in a run second. @param groups their numbers, all of them driven by arrivals */
  dueIn(groups: readonly number[], second: number): number {
    return this.loads.dueIn(groups, {}, second)
  }

  private flowFor(objective: Objective): Flow {
    const index = this.document.plan.objectives.indexOf(objective)
    let flow = this.flows.get(index)
    if (!flow) {
      // Runs of earlier releases do not say who waited.
      flow = flowOf(
        Array.from(this.seconds, (s) => {
          const of = s?.judged?.[index]
          return of && ([of[1], of[2], of[3]] as const)
        }),
      )
      this.flows.set(index, flow)
    }
    return flow
  }
}

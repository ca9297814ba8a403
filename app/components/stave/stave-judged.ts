/** Which figure of a second the stave holds against its limit: that of the first objective that limits a time. */
import type { Objective } from '~~/core/plan/document'
import type { StepSecond, SecondFigures } from '~~/core/merge/second-figures'
import { timedObjective } from '~~/core/objectives/judge'
import { stepKey } from '~~/core/objectives/subject'

export type Percentile = 'p50' | 'p95' | 'p99'

/** Where each percentile stands in the figures of a step. */
export const PLACE = { p50: 2, p95: 3, p99: 4 } as const

export interface JudgedFigure {
  objective: (Objective & { atMost: number }) | undefined
  /** Place of the objective in the plan. */
  index: number | undefined
  /**
   * Three percentiles stand for an objective that is about one of them, over all groups and locations; any other is
   * drawn by its own metric alone.
   */
  isPlain: boolean
  /** The percentile that is drawn in ink. */
  inked: Percentile | undefined
  figuresIn: (second: SecondFigures) => StepSecond | undefined
  /** Its own metric, ms. */
  ownMs: (second: SecondFigures) => number | null | undefined
}

export function judgedFigure(objectives: readonly Objective[]): JudgedFigure {
  const { objective, index } = timedObjective(objectives) ?? {}
  const isPlain =
    objective === undefined ||
    (objective.metric in PLACE &&
      objective.group === undefined &&
      objective.location === undefined &&
      !objective.withFailures)
  const { step, journeyId } = objective ?? {}
  return {
    objective,
    index,
    isPlain,
    // A plain objective is about one.
    inked: isPlain ? ((objective?.metric ?? 'p95') as Percentile) : undefined,
    figuresIn(second) {
      if (step === undefined) return second.all
      const key =
        journeyId === undefined ? Object.keys(second.steps).find(k => k.endsWith(`/${step}`)) : stepKey(journeyId, step)
      // Runs of earlier releases knew steps by their names alone.
      return second.steps[key ?? step] ?? second.steps[step]
    },
    ownMs: second => (index === undefined ? undefined : second.judged?.[index]?.[0]),
  }
}

/** Everything of a run that a report can tell of: gathered before, so that a report is made of it alone. */
import type { ComparedRuns } from '../compare/compared'
import type { Course } from '../result/course'
import type { FailureReport } from '../result/failures'
import type { Dimension, Slices } from '../result/slices'
import type { RunSummary } from '../result/summary'
import type { StepAccount } from '../result/three-way'
import type { RunDocument } from '../run/document'
import type { RunChange } from '../run/life'
import type { Recovery } from '../target/recovery'

/** What figures are of, run seconds. */
export interface ReportWindow {
  fromS: number
  toS: number
  /** Users of a level that was judged; left out: any window. */
  users?: number
}

export interface ReportedRun {
  id: number
  name: string
  /** Which build of the target was under load; empty: nobody said. */
  build: string
  /** ms since 1970. */
  startAt: number
  /** What it measured is gone: its answer is what is left. */
  isGivenBack: boolean
  document: RunDocument
  summary: RunSummary
  window: ReportWindow
  /** In the window, by what is asked for. */
  slices: Partial<Record<Dimension, Slices>>
  failures?: FailureReport
  curve?: CurveCourses
  /** Users planned at the end of each run second. */
  planned: readonly number[]
  target?: TargetLine[]
  threeWay?: StepAccount[]
  /** Beside the baseline of its plan, which stands first; left out: it is that itself, or there is none. */
  compared?: ComparedRuns
  isBaseline: boolean
  changes: readonly RunChange[]
  machines: { name: string, location: string, type: string, ms: number, cost: number }[]
  cost: number
}

/** Of the whole run, in bins: users; what is drawn of the objective; failures a second. */
export interface CurveCourses {
  fromS: number
  toS: number
  binS: number
  users: Course
  objective: Course
  failed: Course
}

/** One series of the target's own, as far as a table tells of it. */
export interface TargetLine {
  name: string
  /** What its lines are told apart by; empty: one line. */
  split: string
  unit: string
  /** In the window. */
  mean?: number
  largest?: number
  recovery?: Recovery
}

/** What runs are compared by: objectives, all requests, steps, groups, locations; each with one statistic. */
import { isTimed } from '../objectives/sentence'
import { isAbout, stepKey, type Subject } from '../objectives/subject'
import type { Metric } from '../plan/document'
import type { RunDocument } from '../run/document'
import { seriesOf } from '../run/series'
import { defined } from '../values/defined'

/** Runs that are compared at once. */
export const MOST_COMPARED = 6

export type ComparedMetric = Exclude<Metric, 'users' | 'target'>

export interface ComparedRow {
  /** Tells rows apart; the same in every run that has it. */
  key: string
  about: 'objective' | 'all' | 'step' | 'group' | 'location' | 'target'
  metric: ComparedMetric
  subject: Subject
  /** Keys of the steps it is about: several journeys may have one of that name. Left out: it is about no step. */
  steps?: string[]
  /** Times of failures count with those of right answers. */
  withFailures?: boolean
  /** What an objective asks of it, in the metric's unit. */
  limit?: number
  /** Of the target's own figures: the mean of one line, in its unit. */
  target?: { series: string, split: string, unit?: string }
}

/** How a metric's difference is told: times and rates as a share of what they were, failures in shares of one. */
export const isRatio = (metric: ComparedMetric): boolean => metric !== 'failures'

/** Rows of a run, the ones that decide first. @param metric of steps, groups and locations */
export function rowsOf(document: RunDocument, metric: ComparedMetric = 'p95'): ComparedRow[] {
  const { plan } = document
  const series = seriesOf(document)
  const stepsOf = (subject: Subject) => {
    if (subject.step === undefined) return {}
    const own = series.filter(s => isAbout(subject, s, plan))
    return { steps: [...new Set(own.map(s => stepKey(s.journeyId, s.stepName)))] }
  }
  const row = (
    about: ComparedRow['about'],
    subject: Subject,
    of: ComparedMetric,
    more: Pick<ComparedRow, 'limit' | 'withFailures'> = {},
  ): ComparedRow => ({
    key: [
      about,
      more.withFailures ? `${of} with failures` : of,
      ...[subject.journeyId, subject.step, subject.group, subject.location].map(part => part ?? ''),
    ].join('|'),
    about,
    metric: of,
    subject,
    ...stepsOf(subject),
    ...more,
  })
  const objectives = plan.objectives.flatMap((objective) => {
    const { metric: of, journeyId, step, group, location, atMost, atLeast } = objective
    if (of === 'users' || of === 'target') return []
    const withFailures = objective.withFailures && isTimed(of) ? true : undefined
    const more = defined({ limit: atMost ?? atLeast, withFailures })
    return [row('objective', { ...defined({ journeyId, step, group, location }) }, of, more)]
  })
  const steps = new Map(
    series.map(({ journeyId, stepName }) => [stepKey(journeyId, stepName), { journeyId, step: stepName }]),
  )
  const all = [...new Set<ComparedMetric>([metric, 'failures', 'throughput'])]
  const rows = [
    ...objectives,
    ...all.map(of => row('all', {}, of)),
    ...[...steps.values()].map(subject => row('step', subject, metric)),
    ...(plan.groups.length > 1 ? plan.groups.map(g => row('group', { group: g.letter }, metric)) : []),
    ...(plan.locations.length > 1 ? plan.locations.map(l => row('location', { location: l.code }, metric)) : []),
  ]
  // What an objective is about already is not told again.
  const seriesIn = ({ subject, metric: of, withFailures = false }: ComparedRow) =>
    `${of} ${withFailures} ${series.flatMap((one, n) => (isAbout(subject, one, plan) ? [n] : [])).join(' ')}`
  const told = new Set<string>()
  return rows.filter((row) => {
    const key = seriesIn(row)
    return !told.has(key) && told.add(key)
  })
}

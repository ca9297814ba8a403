/**
 * Objectives as sentences: `p95 of Enrol from OSA at most 1.8 s in holds`, `failures at most 0.5 % over the whole
 * load`, `throughput of Enrol on Enrol in modules by B at least 40/s in every 10 s`; of the target's own figures:
 * `target CPU at most 80 % in holds`, `target connections at least 95 % of users in every 10 s`. They are read by
 * read-objective.ts.
 */
import type { JudgedWindow, Metric, Objective, TargetMeasure } from '../plan/document'
import { printDuration } from '../load/phrase'

/** As they begin a sentence. */
export const METRIC_WORDS: Record<Metric, string> = {
  p50: 'p50',
  p90: 'p90',
  p95: 'p95',
  p99: 'p99',
  mean: 'mean',
  failures: 'failures',
  throughput: 'throughput',
  users: 'users held',
  target: 'target',
}
const TIMES: readonly Metric[] = ['p50', 'p90', 'p95', 'p99', 'mean']

/** Whether a metric is a time. */
export function isTimed(metric: Metric): boolean {
  return TIMES.includes(metric)
}

/** Journeys by their ids: in sentences they have their names. */
export type JourneyNames = readonly { id: string, name: string }[]

/** “p95 of Enrol from OSA”, “p95 of Enrol on Enrol in modules by B”. */
export function nameOf(
  { metric, target, withFailures, step, journeyId, group, location }: Objective,
  journeys: JourneyNames,
): string {
  if (metric === 'target' && target)
    return `${target.extreme ? `${target.extreme} ` : ''}target ${target.series}${target.split === undefined ? '' : ` of ${target.split}`}`
  const journey = journeyId && (journeys.find(j => j.id === journeyId)?.name ?? journeyId)
  return `${METRIC_WORDS[metric]}${withFailures ? ' with failures' : ''}${step ? ` of ${step}` : ''}${journey ? ` on ${journey}` : ''}${group ? ` by ${group}` : ''}${location ? ` from ${location}` : ''}`
}

/** What an objective is about: “Enrol on Enrol in modules by B from OSA”, or “all requests”. */
export function sliceOf({ metric, withFailures: _, ...subject }: Objective, journeys: JourneyNames): string {
  return (
    nameOf({ metric, ...subject }, journeys)
      .slice(METRIC_WORDS[metric].length)
      .replace(/^ of /, '')
      .trim() || 'all requests'
  )
}

/** “at most 1.8 s in holds”. */
export function sayLimit(objective: Objective): string {
  const least = objective.atLeast !== undefined
  return `${least ? 'at least' : 'at most'} ${exactValue(objective, objective.atLeast ?? objective.atMost ?? 0)} ${sayWindow(objective.window)}`
}

function sayWindow(window: JudgedWindow | undefined): string {
  if (window === 'whole') return 'over the whole load'
  return typeof window === 'object' ? `in every ${printDuration(window.everyS * 1000)}` : 'in holds'
}

/** As one types it: nothing is rounded away. */
export function printObjective(objective: Objective, journeys: JourneyNames): string {
  return `${nameOf(objective, journeys)} ${sayLimit(objective)}`
}

/** “72 %”, “4”, “97 % of users”. */
export function sayTarget({ ofUsers, unit }: Pick<TargetMeasure, 'ofUsers' | 'unit'> = {}, value: number): string {
  if (ofUsers) return `${Number((value * 100).toPrecision(12))} % of users`
  return unit === undefined ? String(value) : unit.startsWith('/') ? `${value}${unit}` : `${value} ${unit}`
}

function exactValue({ metric, target }: Objective, value: number): string {
  const plain = (n: number) => String(Number(n.toPrecision(12)))
  if (metric === 'failures') return `${plain(value * 100)} %`
  if (metric === 'throughput') return `${plain(value)}/s`
  if (metric === 'users') return `${plain(value)} users`
  if (metric === 'target') return sayTarget(target, Number(value.toPrecision(12)))
  return value >= 1000 ? `${plain(value / 1000)} s` : `${plain(value)} ms`
}

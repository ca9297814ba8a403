/** Differences of compared runs, in words. */
import { figureText, share, timeText } from '../values/said-figures'
import type { ComparedRuns, RowOfRuns } from './compared'
import { LEAST_REPEATS, type Standing } from './difference'
import { isRatio, type ComparedMetric } from './rows'
import { CELL_S, LEAST_BLOCKS } from './spread'
import { present } from '../values/present'

/** As it is drawn: percent of the baseline, or, of failures, points of a percent. */
export function drawnDifference(metric: ComparedMetric, by: number): number {
  return isRatio(metric) ? 100 * (Math.exp(by) - 1) : 100 * by
}

const signed = (n: number, digits: number) => `${n > 0 ? '+' : n < 0 ? '−' : '±'}${Math.abs(n).toFixed(digits)}`

export function differenceText(metric: ComparedMetric, by: number): string {
  const drawn = drawnDifference(metric, by)
  const digits = Math.abs(drawn) < 10 ? 1 : 0
  const isNone = Math.abs(drawn) < 0.05
  return `${signed(isNone ? 0 : drawn, isNone ? 0 : digits)} ${isRatio(metric) ? '%' : 'points'}`
}

function comparedValue(metric: ComparedMetric, value: number | null): string {
  if (value === null) return '–'
  if (metric === 'failures') return share(value)
  return metric === 'throughput' ? `${value < 10 ? value.toFixed(2) : value.toFixed(0)} /s` : timeText(value)
}

/** A row's value, in its own unit. */
export const rowValue = ({ metric, target }: Pick<RowOfRuns, 'metric' | 'target'>, value: number | null): string =>
  target && value !== null ? figureText(value, target.unit) : comparedValue(metric, value)

/** Of a row, with its metric. */
export function rowName(row: Pick<RowOfRuns, 'metric' | 'withFailures' | 'says' | 'about' | 'limit' | 'target'>): string {
  const { metric, withFailures, says, about, limit, target } = row
  if (target) return `target ${target.series}${target.split === '' ? '' : ` of ${target.split}`}`
  const limited = about !== 'objective' || limit === undefined
    ? ''
    : ` ${metric === 'throughput' ? 'at least' : 'at most'} ${comparedValue(metric, limit)}`
  const what = metric === 'failures' ? 'failures' : metric === 'throughput' ? 'right answers' : `${metric}${withFailures ? ' with failures' : ''}`
  return `${what}${says === 'all requests' && limited !== '' ? '' : ` of ${says}`}${limited}`
}

/** @param by of the difference */
export function standingText(standing: Standing, by: number | undefined, metric: ComparedMetric): string {
  if (by === undefined) return 'no value'
  const way = by > 0 ? 'more' : 'less'
  // Whole, where it stands in a table's last column.
  if (standing === 'beyond') return `${way}, beyond`
  if (standing === 'alone') return `${way}, may be chance`
  if (standing === 'within') return 'within'
  return metric === 'failures' && by === 0 ? 'the same' : 'not to be told'
}

/** Runs that tell how far one more may lie from the baseline. @param at of that one among the others */
export function repeatsFor({ repeats, runs }: Pick<ComparedRuns, 'repeats' | 'runs'>, at: number): number[] {
  return repeats.filter(id => id !== runs[at + 1]!.id).sort((a, b) => a - b)
}

/** The same in two or three words. @param at of the run among the others */
export function standingInShort(view: ComparedRuns, at: number): string {
  const told = view.rows.map(row => row.others[at]!).filter(r => r.difference && r.standing !== 'untold')
  if (told.length === 0) return 'not to be told yet'
  const beyond = told.filter(r => r.standing === 'beyond').length
  return beyond === 0 ? 'within repeats' : `${beyond} of ${told.length} beyond`
}

/** What a run says against the baseline, in one sentence. @param at of the run among the others */
export function comparedSentence(view: ComparedRuns, at: number): string {
  const [first, ...others] = view.runs
  const baseline = present(first, 'the run that others are held against')
  const run = others[at]!
  const rows = view.rows.map(row => ({ row, ...row.others[at]! }))
  const head = `Run ${run.id} against run ${baseline.id}`
  const untold = rows.filter(r => r.difference && r.standing === 'untold').length
  const beyond = rows.filter(r => r.standing === 'beyond')
  if (view.coming !== undefined)
    return `${head}: adding up how far ${view.coming} more of ${rows.length} rows may be off…`
  if (rows.every(r => !r.difference)) return `${head}: nothing to compare.`
  const missing = LEAST_REPEATS - repeatsFor(view, at).length
  if (missing > 0)
    return `${head}: not to be told yet whether it differs by more than repeats do; ${missing} more of run ${baseline.id} would.`
  if (untold === rows.length)
    return `${head}: not to be told, for too few seconds were judged: ${LEAST_BLOCKS} blocks of ${CELL_S} s at least.`
  if (beyond.length === 0)
    return `${head}: no difference shown beyond the spread of repeats${untold > 0 ? `; ${untold} of ${rows.length} rows are too short to tell` : ''}.`
  const named = beyond
    .slice(0, 3)
    .map(r => `${rowName({ ...r.row, about: 'all' })} ${differenceText(r.row.metric, present(r.difference, 'what lies beyond').by)}`)
  const more = beyond.length > named.length ? `, and ${beyond.length - named.length} more` : ''
  return `${head}: ${beyond.length} of ${rows.length} rows differ by more than repeats do: ${named.join(', ')}${more}.`
}

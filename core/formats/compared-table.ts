/**
 * Runs beside each other as CSV (RFC 4180): a row for each figure of each run but the first, which the others are held
 * against. Differences of times and rates are percent of the first run's value, of failures points of a percent.
 */
import type { ComparedRuns, RowOfRuns } from '../compare/compared'
import { drawnDifference, rowName } from '../compare/words'
import { csvOf } from './csv'

const HEAD = [
  'run',
  'against',
  'at_users',
  'figure',
  'about',
  'unit',
  'value_against',
  'value',
  'difference',
  'difference_unit',
  'least',
  'most',
  'repeats_least',
  'repeats_most',
  'repeats',
  'standing',
]

/** Values as they are kept: ms, a share of one, right answers a second, or the unit of the target's own figure. */
function unitOf({ metric, target }: Pick<RowOfRuns, 'metric' | 'target'>): string {
  if (target) return target.unit ?? ''
  return metric === 'failures' ? 'share' : metric === 'throughput' ? 'per_s' : 'ms'
}

export function comparedCsv(view: ComparedRuns): string {
  const [baseline, ...others] = view.runs
  const rows = others.flatMap((run, o) =>
    view.rows.map((row) => {
      const { difference, yardstick, standing } = row.others[o]!
      const drawn = (by: number | undefined) => by === undefined ? undefined : drawnDifference(row.metric, by)
      return [
        run.id,
        baseline?.id,
        view.users,
        rowName({ ...row, about: 'all' }),
        row.about,
        unitOf(row),
        row.values[0],
        row.values[o + 1],
        drawn(difference?.by),
        row.metric === 'failures' ? 'points' : 'percent',
        drawn(difference?.interval?.[0]),
        drawn(difference?.interval?.[1]),
        drawn(yardstick?.least),
        drawn(yardstick?.most),
        yardstick?.repeats.length,
        standing,
      ]
    }))
  return csvOf([HEAD, ...rows])
}

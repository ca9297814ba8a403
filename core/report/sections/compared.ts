/** A run beside the baseline of its plan. */
import { comparedSentence, comparedValue, differenceText, rowName, standingText } from '../../compare/words'
import { count } from '../../values/said-figures'
import type { Cell } from '../report'
import type { ReportedRun } from '../reported-run'
import { nothing, type Told } from './told'

export function baseline({ compared, isBaseline, id }: ReportedRun): Told {
  if (!compared)
    return nothing(
      isBaseline
        ? `Run ${id} is the baseline of its plan: later runs are held against it.`
        : 'No earlier run of its plan was chosen as the baseline.',
    )
  const [first] = compared.runs
  const value = (metric: Parameters<typeof comparedValue>[0], v: number | null | undefined): Cell => ({
    text: comparedValue(metric, v ?? null),
    by: v ?? -1,
  })
  return {
    aside: compared.users === undefined
      ? 'over the whole load of each: they have no level in common'
      : `at ${count(compared.users)} users, settled`,
    blocks: [
      { kind: 'text', text: comparedSentence(compared, 0) },
      {
        kind: 'table',
        columns: [
          { name: 'what' },
          ...[`run ${first!.id}`, `run ${id}`, 'difference', '95 % interval'].map(name => ({ name, isFigure: true })),
          { name: 'than repeats differ' },
        ],
        rows: compared.rows.map((row) => {
          const { difference, standing } = row.others[0]!
          const { metric } = row
          return [
            { text: rowName(row), isStrong: true },
            value(metric, row.values[0]),
            value(metric, row.values[1]),
            difference ? { text: differenceText(metric, difference.by), by: difference.by } : { text: '–', by: 0 },
            {
              text: difference?.interval
                ? difference.interval.map(edge => differenceText(metric, edge)).join(' to ')
                : 'too short',
              by: difference?.interval?.[0] ?? 0,
            },
            { text: standingText(standing, difference?.by, metric) },
          ]
        }),
      },
      {
        kind: 'text',
        text: 'Intervals are by the seconds of these two runs alone (block bootstrap): they say nothing of other runs. Beyond: the whole interval lies outside of where one more repeat is expected, and chance over all rows is reckoned with (Holm).',
      },
    ],
  }
}

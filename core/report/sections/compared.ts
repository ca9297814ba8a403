/** A run beside the baseline of its plan; and rows of a comparison, wherever they are told. */
import type { ComparedRuns, RowOfRuns } from '../../compare/compared'
import { comparedSentence, differenceText, rowName, rowValue, standingText } from '../../compare/words'
import { count } from '../../values/said-figures'
import type { ReportCell, Table } from '../report'
import type { ReportedRun } from '../reported-run'
import { nothing, type ToldSection } from './told'

export const HOW_COMPARED
  = 'Intervals are by the seconds of these runs alone (block bootstrap): they say nothing of other runs. Beyond: the whole interval lies outside of where one more repeat is expected, and chance over all rows is reckoned with (Holm).'

/** At which load, in words. */
export function comparedAt({ users }: Pick<ComparedRuns, 'users'>): string {
  return users === undefined
    ? 'over the whole load of each: they have no level in common'
    : `at ${count(users)} users, settled`
}

export function valueCell(row: Pick<RowOfRuns, 'metric' | 'target'>, value: number | null | undefined): ReportCell {
  return { text: rowValue(row, value ?? null), by: value ?? -1 }
}

export function comparedColumns(baseline: number, run: number): Table['columns'] {
  return [
    { name: 'what' },
    ...[`run ${baseline}`, `run ${run}`, 'difference', '95 % interval'].map(name => ({ name, isFigure: true })),
    { name: 'than repeats differ' },
  ]
}

/** @param at of the run among those that are held against the first */
export function comparedCells(row: RowOfRuns, at: number): ReportCell[] {
  const { metric } = row
  const { difference, standing } = row.others[at]!
  const interval = difference?.interval?.map(edge => differenceText(metric, edge)).join(' to ')
  return [
    { text: rowName(row), isStrong: true },
    valueCell(row, row.values[0]),
    valueCell(row, row.values[at + 1]),
    difference ? { text: differenceText(metric, difference.by), by: difference.by } : { text: '–', by: 0 },
    { text: interval ?? 'too short', by: difference?.interval?.[0] ?? 0 },
    { text: standingText(standing, difference?.by, metric), isStrong: standing === 'beyond' },
  ]
}

export function baseline({ compared, isBaseline, id }: ReportedRun): ToldSection {
  if (!compared)
    return nothing(
      isBaseline
        ? `Run ${id} is the baseline of its plan: later runs are held against it.`
        : 'No earlier run of its plan was chosen as the baseline.',
    )
  return {
    aside: comparedAt(compared),
    blocks: [
      { kind: 'text', text: comparedSentence(compared, 0) },
      {
        kind: 'table',
        columns: comparedColumns(compared.runs[0]!.id, id),
        rows: compared.rows.map(row => comparedCells(row, 0)),
      },
      { kind: 'text', text: HOW_COMPARED },
    ],
  }
}

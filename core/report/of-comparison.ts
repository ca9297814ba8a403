/** The report of runs beside each other: how each stands to the first, what differed, row by row. */
import type { ComparedRuns } from '../compare/compared'
import { comparedSentence, rowName } from '../compare/words'
import { utcMoment } from '../values/said-times'
import type { ReportCell, Paper, Report, Table } from './report'
import { comparedAt, comparedColumns, comparedCells, valueCell, HOW_COMPARED } from './sections/compared'
import { present } from '../values/present'

/** A run as it is told apart from the others. */
export interface NamedRun {
  id: number
  name: string
  question: string
  planName: string
  build: string
  /** ms since 1970. */
  createdAt: number
  sentence: string
}

export function reportOfComparison(compared: ComparedRuns, runs: readonly NamedRun[], paper: Paper): Report {
  const [first, ...others] = runs
  const baseline = present(first, 'the run that others are held against')
  return {
    title: `${listed(others.map(r => `run ${r.id}`), true)} against run ${baseline.id}`,
    subtitle: baseline.question,
    organisation: '',
    audience: '',
    about: `Runs ${runs.map(r => r.id).join(', ')} · ${utcMoment(Math.max(...runs.map(r => r.createdAt)))}`,
    answer: { verdict: 'none', sentence: others.map((_, at) => comparedSentence(compared, at)).join(' ') },
    sections: [
      { id: 'runs', title: 'The runs', blocks: [runsTable(runs)] },
      { id: 'differed', title: 'What differed', blocks: [differedBlock(compared, runs)] },
      ...others.map((run, at) => ({
        id: `against-${run.id}`,
        title: `Run ${run.id} against run ${baseline.id}`,
        aside: comparedAt(compared),
        blocks: [
          {
            kind: 'table',
            columns: comparedColumns(baseline.id, run.id),
            rows: compared.rows.map(row => comparedCells(row, at)),
          } satisfies Table,
        ],
      })),
      ...(others.length > 1 ? [{ id: 'all', title: 'All of them', blocks: [allTable(compared, runs)] }] : []),
      { id: 'method', title: 'How it was compared', blocks: [{ kind: 'text', text: HOW_COMPARED }] },
    ],
    paper,
  }
}

function listed(words: readonly string[], atStart: boolean): string {
  const text = words.length > 1 ? `${words.slice(0, -1).join(', ')} and ${words.at(-1)}` : words[0]!
  return atStart ? text[0]!.toUpperCase() + text.slice(1) : text
}

function runsTable(runs: readonly NamedRun[]): Table {
  return {
    kind: 'table',
    columns: [{ name: 'run', isFigure: true }, { name: 'called' }, { name: 'when' }, { name: 'build' }, { name: 'answer' }],
    rows: runs.map(r => [
      { text: String(r.id), by: r.id, isStrong: true },
      { text: r.name || r.planName },
      { text: utcMoment(r.createdAt) },
      { text: r.build || 'not said' },
      { text: r.sentence },
    ]),
  }
}

function differedBlock({ setUp }: ComparedRuns, runs: readonly NamedRun[]): Report['sections'][number]['blocks'][number] {
  const differing = setUp.filter(f => f.differs.some(Boolean))
  if (differing.length === 0) return { kind: 'text', text: 'Nothing in their set-up differed: each repeats the others.' }
  return {
    kind: 'table',
    columns: [{ name: 'what' }, ...runs.map(r => ({ name: `run ${r.id}` }))],
    rows: differing.map(f => [
      { text: f.what, isStrong: true },
      ...f.says.map((says, r): ReportCell => ({ text: says || '–', ...(f.differs[r] ? { isStrong: true } : {}) })),
    ]),
  }
}

function allTable({ rows }: ComparedRuns, runs: readonly NamedRun[]): Table {
  return {
    kind: 'table',
    columns: [{ name: 'what' }, ...runs.map(r => ({ name: `run ${r.id}`, isFigure: true }))],
    rows: rows.map(row => [{ text: rowName(row), isStrong: true }, ...row.values.map(v => valueCell(row, v))]),
  }
}

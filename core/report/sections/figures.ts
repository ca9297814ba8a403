/** Figures of the window: steps, failures, places. */
import { FAILURE_WORDS } from '../../journey/failure-kinds'
import { measuresOf } from '../../journey/measures'
import { PLAIN } from '../../client/client'
import { DIRECT } from '../../network/profile'
import { stepKey } from '../../objectives/subject'
import type { SliceFigures, SlicePart } from '../../result/slices'
import { count, rate, share, timeText } from '../../values/said-figures'
import { duration, runTime } from '../../values/said-times'
import type { ReportCell, Table } from '../report'
import type { ReportedRun, ReportWindow } from '../reported-run'
import { nothing, type ToldSection } from './told'
import { entriesIn } from '../../values/written-out'
import { ownOf } from '../../values/own'

const KINDS = { bundle: 'bundle', span: 'span', round: 'round' } as const

const ms = (value: number | undefined): ReportCell => ({ text: timeText(value), by: value ?? -1 })
const many = (n: number): ReportCell => ({ text: n === 0 ? '–' : count(n), by: n })

/** Of which window, in words. */
export function windowWords({ fromS, toS, users }: ReportWindow): string {
  return `${users === undefined ? '' : `at ${count(users)} users, `}${runTime(fromS)} to ${runTime(toS)}`
}

/** @param most steps that are told */
export function steps({ slices, document, window }: ReportedRun, most: number): ToldSection {
  const all = (slices.step?.rows ?? []).filter(r => r.figures.started > 0)
  if (all.length === 0) return nothing(`Nothing was asked for from ${runTime(window.fromS)} to ${runTime(window.toS)}.`)
  const names = stepNames(document)
  const told = slowestAndFailing(all, most)
  const left = all.length - told.length
  return {
    aside: `${windowWords(window)}; times of right answers`,
    blocks: [
      {
        kind: 'table',
        columns: [
          { name: 'step' },
          ...['p50', 'p95', 'p99', 'asked', 'failed', 'share'].map(name => ({ name, isFigure: true })),
          { name: 'mostly' },
        ],
        rows: told.map(({ value, kind, figures }) => [
          { text: `${names.get(value) ?? value}${kindSaid(kind)}`, isStrong: true },
          ms(figures.p50Ms),
          { ...ms(figures.p95Ms), isStrong: true },
          ms(figures.p99Ms),
          many(figures.started),
          many(figures.failed),
          { text: figures.failed === 0 ? '–' : share(figures.failureShare), by: figures.failureShare ?? 0 },
          { text: mostly(figures) },
        ]),
      },
      ...(left > 0
        ? [{ kind: 'text', text: `${left} more ${left === 1 ? 'step was' : 'steps were'} quicker and failed less.` } as const]
        : []),
    ],
  }
}

/** Slowest first; of those that fail most a third at least are among them. */
export function slowestAndFailing(all: readonly SlicePart[], most: number): SlicePart[] {
  const slowest = [...all].sort((a, b) => (b.figures.p95Ms ?? -1) - (a.figures.p95Ms ?? -1))
  const failing = [...all].filter(r => r.figures.failed > 0).sort((a, b) => b.figures.failed - a.figures.failed)
  const told = new Set(failing.slice(0, Math.ceil(most / 3)))
  for (const row of slowest) if (told.size < most) told.add(row)
  return slowest.filter(row => told.has(row))
}

function mostly({ failures }: SliceFigures): string {
  const kinds = entriesIn(failures).sort((a, b) => b[1] - a[1])
  return kinds.slice(0, 2).map(([kind]) => FAILURE_WORDS[kind]).join(', ')
}

/** Steps by their keys; where two journeys have one of a name, with the journey. */
function stepNames({ journeys }: ReportedRun['document']): Map<string, string> {
  const keys = journeys.flatMap(j =>
    measuresOf(j).map(({ name }) => ({ step: name, journey: j.name, key: stepKey(j.id, name) })))
  return new Map(
    keys.map(({ step, journey, key }) => [
      key,
      keys.some(other => other.step === step && other.key !== key) ? `${step}, ${journey}` : step,
    ]),
  )
}

export function failures({ failures: report, document, window }: ReportedRun): ToldSection {
  if (!report || report.failed === 0)
    return nothing(`Nothing failed from ${runTime(window.fromS)} to ${runTime(window.toS)}: ${count(report?.ended ?? 0)} right answers.`)
  const names = stepNames(document)
  return {
    aside: `${windowWords(window)}; ${count(report.failed)} of ${count(report.ended)} (${share(report.failed / report.ended)})`,
    blocks: [
      {
        kind: 'table',
        columns: [{ name: 'what' }, { name: 'failed', isFigure: true }, { name: 'first' }, { name: 'last' }, { name: 'at' }, { name: 'where it differs' }],
        rows: report.kinds.map(k => [
          { text: `${FAILURE_WORDS[k.kind]}${k.status ? ` ${k.status}` : ''}`, isStrong: true },
          many(k.count),
          { text: runTime(k.firstS), by: k.firstS },
          { text: runTime(k.lastS), by: k.lastS },
          { text: k.steps.slice(0, 3).map(([key, n]) => `${names.get(key) ?? key} ${count(n)}`).join(', ') },
          { text: k.places.slice(0, 3).map(p => `${p.value} ${share(p.share)}, elsewhere ${share(p.restShare)}`).join('; ') || 'everywhere alike' },
        ]),
      },
    ],
  }
}

export function places({ slices, document, window }: ReportedRun): ToldSection {
  const seconds = window.toS - window.fromS
  const { plan, networks = [], clients = [] } = document
  const names = {
    group: (value: string) => `${value} ${plan.groups.find(g => g.letter === value)?.name ?? ''}`.trim(),
    location: (value: string) => value,
    network: (value: string) => networks.find(n => n.id === value)?.name ?? (value === DIRECT ? 'as it is' : value),
    client: (value: string) => clients.find(c => c.id === value)?.name ?? (value === PLAIN ? 'not said' : value),
  }
  const table = (by: keyof typeof names): Table => ({
    kind: 'table',
    columns: [{ name: by }, ...['asked', 'right per second', 'p50', 'p95', 'p99', 'failed', 'share'].map(name => ({ name, isFigure: true }))],
    rows: (slices[by]?.rows ?? []).map(({ value, figures }) => [
      { text: names[by](value), isStrong: true },
      many(figures.started),
      { text: rate(figures.right / seconds), by: figures.right / seconds },
      ms(figures.p50Ms),
      { ...ms(figures.p95Ms), isStrong: true },
      ms(figures.p99Ms),
      many(figures.failed),
      { text: figures.failed === 0 ? '–' : share(figures.failureShare), by: figures.failureShare ?? 0 },
    ]),
  })
  return {
    aside: `${windowWords(window)}, ${duration(seconds * 1000)}; times of right answers to requests`,
    blocks: (['group', 'location', 'network', 'client'] as const).map(table).filter(t => t.rows.length > 0),
  }
}

/** What else than a request it is. */
function kindSaid(kind: string | undefined): string {
  const said = kind === undefined ? undefined : ownOf(KINDS, kind)
  return said === undefined ? '' : ` (${said})`
}

/** The figures of a run as families of OpenMetrics: of one that is over, or of one that loads, so far. */
import type { MeasureKind } from '../journey/measures'
import type { Answer } from '../objectives/judge'
import { printObjective } from '../objectives/sentence'
import type { SliceFigures, Slices } from '../result/slices'
import type { RunDocument } from '../run/document'
import type { Labels, MetricFamily } from './open-metrics'
import { entriesIn } from '../values/written-out'

export interface MeasuredRun {
  id: number
  /** Which build of the target is under load; empty: nobody said. */
  build: string
  state: string
  document: RunDocument
  /** From the first second on, by step and location. */
  slices: Slices
  /** Present at the newest second, by group and location; left out: the load is over. */
  users?: { group: string, location: string, users: number }[]
  answer?: Answer
}

const QUANTILES: [q: string, of: (f: SliceFigures) => number | undefined][] = [
  ['0.5', f => f.p50Ms],
  ['0.9', f => f.p90Ms],
  ['0.95', f => f.p95Ms],
  ['0.99', f => f.p99Ms],
  ['0.999', f => f.p999Ms],
]

/** Times in seconds, as OpenMetrics asks for base units. */
export function runMetrics({ id, build, state, document, slices, users = [], answer }: MeasuredRun): MetricFamily[] {
  const run = { run: String(id) }
  const parts = slices.rows.flatMap(({ value, kind, parts = [] }) =>
    parts.map(({ value: location, figures }): Part => ({
      labels: { ...run, ...stepLabels(document, value), location },
      kind,
      figures,
    })))
  const { plan, planVersion, target } = document
  const about = { plan: plan.name, plan_version: planVersion, target: target.name, build, state }
  return [
    {
      name: 'vornak_run',
      type: 'info',
      help: 'What the run is of.',
      samples: [{ suffix: '_info', labels: { ...run, ...about }, value: 1 }],
    },
    // Spans, bundles and rounds time what their requests count already.
    ...counters(parts.filter(p => p.kind === 'request')),
    responseTimes(parts.filter(p => p.figures.right > 0)),
    {
      name: 'vornak_users',
      type: 'gauge',
      help: 'Users present.',
      samples: users.map(({ users: value, ...labels }) => ({ labels: { ...run, ...labels }, value })),
    },
    ...(answer ? judged(run, answer, document) : []),
  ]
}

/** A step at a location. */
interface Part {
  labels: Labels
  kind: MeasureKind | undefined
  figures: SliceFigures
}

function counters(requests: readonly Part[]): MetricFamily[] {
  const counted = (of: (f: SliceFigures) => number, more: Labels = {}) =>
    requests.map(({ labels, figures }) => ({ suffix: '_total', labels: { ...labels, ...more }, value: of(figures) }))
  const failures = requests.flatMap(({ labels, figures }) =>
    entriesIn(figures.failures).map(([kind, value]) => ({
      suffix: '_total',
      labels: { ...labels, kind },
      value,
    })))
  return [
    { name: 'vornak_requests', type: 'counter', help: 'Requests that were begun.', samples: counted(f => f.started) },
    {
      name: 'vornak_answers',
      type: 'counter',
      help: 'Requests that ended, by how: right, failed, or cut off at the end.',
      samples: [
        ...counted(f => f.right, { outcome: 'right' }),
        ...counted(f => f.failed, { outcome: 'failed' }),
        ...counted(f => f.cut, { outcome: 'cut' }),
      ],
    },
    { name: 'vornak_failures', type: 'counter', help: 'Failures by kind.', samples: failures },
    {
      name: 'vornak_received_bytes',
      type: 'counter',
      unit: 'bytes',
      help: 'Bodies of answers.',
      samples: counted(f => f.bytes),
    },
  ]
}

function responseTimes(measured: readonly Part[]): MetricFamily {
  return {
    name: 'vornak_response_seconds',
    type: 'summary',
    unit: 'seconds',
    help: 'Response times of right answers; of spans, bundles and rounds, how long they took.',
    samples: measured.flatMap(({ labels, figures }) => [
      ...QUANTILES.map(([quantile, of]) => ({ labels: { ...labels, quantile }, value: (of(figures) ?? 0) / 1000 })),
      { suffix: '_count', labels, value: figures.right },
      { suffix: '_sum', labels, value: ((figures.meanMs ?? 0) * figures.right) / 1000 },
    ]),
  }
}

function judged(run: Labels, { judgements, verdict }: Answer, { journeys }: RunDocument): MetricFamily[] {
  const told = judgements.map(j => ({
    labels: { ...run, objective: printObjective(j.objective, journeys), users: j.level.users, from_s: j.level.fromS },
    ...j,
  }))
  return [
    {
      name: 'vornak_held',
      type: 'gauge',
      help: 'Whether the whole plan held at the load that was asked for.',
      samples: [{ labels: run, value: verdict === 'held' ? 1 : 0 }],
    },
    {
      name: 'vornak_objective_held',
      type: 'gauge',
      help: 'Whether an objective held at a level, at the load that was asked for.',
      samples: told.map(({ labels, held, short = [] }) => ({ labels, value: held && short.length === 0 ? 1 : 0 })),
    },
    {
      name: 'vornak_objective_value',
      type: 'gauge',
      help: 'What was measured: seconds, a share from 0 to 1, answers per second, users, or what the target said.',
      samples: told.flatMap(({ labels, measured, objective: { metric } }) =>
        measured === undefined
          ? []
          : [{ labels, value: ['failures', 'throughput', 'users', 'target'].includes(metric) ? measured : measured / 1000 }]),
    },
  ]
}

/** A step's key is its journey's id and its name. */
function stepLabels({ journeys }: RunDocument, key: string): { journey: string, step: string } {
  const journey = journeys.find(j => key.startsWith(`${j.id}/`))
  return { journey: journey?.name ?? '', step: journey ? key.slice(journey.id.length + 1) : key }
}

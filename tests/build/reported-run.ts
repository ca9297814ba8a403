/** A run as reports are made of it, with something to say in every section. */
import { FAILURE_KINDS } from '../../core/journey/failure-kinds'
import { ledgerOf } from '../../core/merge/ledger'
import { NO_FIGURES } from '../../core/merge/figures'
import type { ReportedRun } from '../../core/report/reported-run'
import type { SliceFigures, SlicePart } from '../../core/result/slices'
import { hill, journey, plan, runDocument, step } from './plans'

export function figures(over: Partial<SliceFigures> = {}): SliceFigures {
  return { ...(NO_FIGURES as SliceFigures), started: 100, right: 100, p50Ms: 10, p95Ms: 20, p99Ms: 30, ...over }
}
export const stepRow = (name: string, over: Partial<SliceFigures> = {}): SlicePart => ({
  value: `look/${name}`,
  kind: 'request',
  figures: figures(over),
})

const objectives = [
  { metric: 'p95' as const, step: 'Ask', atMost: 1000 },
  { metric: 'failures' as const, atMost: 0.05 },
]
const document = runDocument({
  plan: plan({
    name: 'Пробная запись <b>| & _утро_',
    question: 'Does it hold?',
    objectives,
    groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(20, 3, 6, 1) }],
  }),
  journeys: [journey({ round: [step(), step({ name: 'Ask', url: '/modules' })] })],
})
const level = { fromS: 4, toS: 9, users: 20 }
const window = { ...level }
const right = figures({ started: 200, right: 190, failed: 10, failureShare: 0.05, failures: { status: 8, timeout: 2 } })

export const reportedRun: ReportedRun = {
  id: 7,
  name: 'before the sale',
  build: '4.2.0',
  startAt: Date.UTC(2026, 10, 26, 8, 0),
  isGivenBack: false,
  document,
  summary: {
    answer: {
      verdict: 'broken',
      sentence: 'No: p95 of Ask 1.20 s at 20 users.',
      settled: true,
      judgements: [
        { objective: objectives[0]!, level, measured: 1200, held: false },
        { objective: objectives[1]!, level, measured: 0.05, held: true, short: [{ kind: 'users', asked: 20, there: 18 }] },
      ],
    },
    why: 'Worst from TAV.',
    broken: [{ objective: 0, fromS: 5, toS: 9, worst: 1500, worstFromS: 6, worstToS: 7, users: 20, judged: true }],
    ledger: ledgerOf([]),
    findings: [
      { code: 'clock', weight: 'note', sentence: 'The clock of REY-1 is off.', remedy: 'Look at it.' },
      { code: 'capacity-assumed', weight: 'qualifies', sentence: 'Capacity is assumed.', remedy: 'Calibrate.' },
    ],
    soundness: 'qualified',
    whole: right,
    lengthS: 10,
    peakUsers: 20,
  },
  window,
  slices: {
    step: { whole: right, rows: [stepRow('Look'), stepRow('Ask', { p95Ms: 1200, failed: 10, failureShare: 0.1, failures: { status: 8, timeout: 2 } })] },
    group: { whole: right, rows: [{ value: 'A', figures: right }] },
    location: { whole: right, rows: ['REY', 'TAV'].map(value => ({ value, figures: figures() })) },
    network: { whole: right, rows: [{ value: 'direct', figures: right }] },
  },
  failures: {
    ended: 200,
    failed: 10,
    stretchS: 1,
    kinds: [{ kind: FAILURE_KINDS[5], status: 503, count: 10, steps: [['look/Ask', 10]], firstS: 5, lastS: 8, course: [], places: [] }],
  },
  curve: {
    fromS: 0,
    toS: 10,
    binS: 1,
    users: { lines: [{ value: '', values: [7, 14, 20, 20, 20, 20, 20, 20, 20, null] }] },
    objective: { lines: [{ value: '', values: [100, 200, 300, 800, 900, 1300, 1500, 1400, 1200, null] }] },
    failed: { lines: [{ value: '', values: [0, 0, 0, 0, 0, 3, 4, 3, 0, 0] }] },
  },
  planned: [7, 14, 20, 20, 20, 20, 20, 20, 20, 0],
  target: [{ name: 'connections', split: '', unit: '', mean: 20.5, largest: 24, recovery: { value: 2, within: 1, furthest: { atS: 6, value: 24 }, atS: 12 } }],
  threeWay: [],
  isBaseline: false,
  changes: [{ at: Date.UTC(2026, 10, 26, 8, 0), from: 'armed', to: 'loading', event: 'started', reason: 'The load begins.' }],
  machines: [{ name: 'REY-1', location: 'REY', type: 'brisk-1', ms: 180_000, cost: 0.006 }],
  cost: 0.006,
}

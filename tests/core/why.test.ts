/** Why an objective was broken: only what was seen is said. */
import { whyBroken, type BrokenRun } from '../../core/result/why'
import type { Judgement } from '../../core/objectives/judge'
import { SeriesSum } from '../../core/merge/series-sum'
import { FAILURE_KINDS, type FailureKind } from '../../core/journey/failure-kinds'
import { seriesOf } from '../../core/run/series'
import type { Objective } from '../../core/plan/document'
import { journey, plan, runDocument } from '../build/plans'

const document = runDocument({
  plan: plan({
    locations: ['AAA', 'BBB'].map(code => ({ code, provider: 'p', region: code, machineType: 't', machines: 1 })),
    placement: { A: { AAA: 5000, BBB: 'rest' } },
  }),
  journeys: [journey()],
})
const series = seriesOf(document)

/** Answers of a step at a location: how many took how long, and how many failed how. */
function sums(of: (step: string, location: number) => { ms: number, n?: number, failed?: [FailureKind, number] }) {
  return new Map(series.flatMap((s, number) => {
    if (s.kind !== 'request') return []
    const { ms, n = 100, failed } = of(s.stepName, s.location)
    const sum = new SeriesSum()
    sum.started = n + (failed?.[1] ?? 0)
    sum.right = n
    for (let i = 0; i < n; i++) sum.timings.right.record(ms * 1000)
    if (failed) sum.failures[FAILURE_KINDS.indexOf(failed[0])] = failed[1]
    return [[number, sum] as const]
  }))
}
const level = { fromS: 10, toS: 40, users: 60 }
const broken = (objective: Objective, measured = 2000): Judgement => ({ objective, level, measured, held: false })
const run = (over: Partial<BrokenRun>): BrokenRun => ({
  judgements: [broken({ metric: 'p95', atMost: 800 })],
  findings: [],
  generators: 4,
  series,
  document,
  sumsIn: () => sums(() => ({ ms: 500 })),
  ...over,
})

test('nothing broken, nothing to explain', () => {
  expect(whyBroken(run({ judgements: [{ ...broken({ metric: 'p95', atMost: 800 }), held: true }] }))).toBeUndefined()
})

test('the slowest request and the place that stands apart are named, with their values', () => {
  const said = whyBroken(run({ sumsIn: () => sums((step, l) => ({ ms: step === 'Ask' ? (l === 1 ? 3000 : 1500) : 200 })) }))
  expect(said).toContain('No generator was near a limit of its own.')
  expect(said).toMatch(/slowest request was Ask, p95 (2\.9\d|3\.0\d) s; then Look, 2\d\d ms/)
  expect(said).toMatch(/Worst from BBB: (2\.9\d|3\.0\d) s; from the others at most 1\.5\d? s/)
})

test('places that are alike are said to be, and a step that was asked about is not told again', () => {
  const said = whyBroken(run({
    judgements: [broken({ metric: 'p95', step: 'Ask', atMost: 800 })],
    sumsIn: () => sums(() => ({ ms: 1500 })),
  }))
  expect(said).toMatch(/From every location much the same: 1\.5\d? s to 1\.5\d? s\./)
  expect(said).not.toContain('slowest')
})

test('failures say how many, of which request, and how; a few are not what broke a time', () => {
  const many = whyBroken(run({
    judgements: [broken({ metric: 'failures', atMost: 0.01 }, 0.2)],
    sumsIn: () => sums(step => ({ ms: 300, ...(step === 'Ask' ? { failed: ['timeout', 50] as [FailureKind, number] } : {}) })),
  }))
  expect(many).toContain('20 % failed, all of them at Ask; all: timed out.')
  const few = whyBroken(run({ sumsIn: () => sums(() => ({ ms: 500, n: 1000, failed: ['status', 2] })) }))
  expect(few).not.toContain('failed')
})

test('generators that were not well come first, and nothing is said of parts with hardly an answer', () => {
  const said = whyBroken(run({
    findings: [{ code: 'generator-stressed', weight: 'qualifies', sentence: '', remedy: '', generators: ['g1'], seconds: 9 }],
    sumsIn: () => sums(() => ({ ms: 500, n: 3 })),
  }))
  expect(said).toBe('1 of 4 generators was not well for a while: part of this may be theirs.')
})

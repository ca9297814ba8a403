/** Rows of a comparison out of a run: whatever is read together, each is what its own series say, added up plainly. */
import { measuresOf } from '../../control/ingest/measures'
import type { OpenRun } from '../../control/ingest/run-reader'
import { rowsOf, type ComparedRow } from '../../core/compare/rows'
import { cellOf, CELL_S, correlationTimeS, spreadOf } from '../../core/compare/spread'
import { Histogram } from '../../core/histogram/histogram'
import { SeriesSum, type SumOf, type Timing } from '../../core/merge/series-sum'
import { isAbout } from '../../core/objectives/subject'
import { seededRandom } from '../../core/random/seeded'
import { seriesOf } from '../../core/run/series'
import { journey, plan, runDocument, step } from '../build/plans'

const LENGTH_S = 300
const PER_SECOND = 4
const document = runDocument({
  journeys: [journey({ round: ['Look', 'Ask', 'Pay'].map(name => step({ name })) })],
  plan: plan({
    objectives: [
      { metric: 'p95', step: 'Look', atMost: 500 },
      { metric: 'p95', step: 'Look', withFailures: true, atMost: 900 },
      { metric: 'mean', withFailures: true, atMost: 900 },
      { metric: 'failures', atMost: 0.5 },
    ],
  }),
})
const series = seriesOf(document)

interface Answer {
  second: number
  us: number
  isRight: boolean
}
/** Of each series, its answers: failures take five times as long. */
const answers: Answer[][] = series.map((_, n) => {
  const random = seededRandom(n + 1)
  return Array.from({ length: LENGTH_S * PER_SECOND }, (_, i) => {
    const isRight = random() > 0.2
    const us = Math.round((isRight ? 1 : 5) * 1e5 * Math.exp(random() + n / 4))
    return { second: Math.floor(i / PER_SECOND), us, isRight }
  })
})
const medianMs = (second: number) => 100 + (second % 7)

const run = {
  addWindow: (fromS: number, toS: number, into: SumOf, timings: readonly Timing[] = ['right', 'failed']) => {
    answers.forEach((own, n) => {
      const sum = into(n)
      if (!sum) return
      for (const { second, us, isRight } of own) {
        if (second < fromS || second >= toS) continue
        sum.started++
        if (isRight) sum.right++
        else sum.failures[0]!++
        const timing = isRight ? 'right' : 'failed'
        if (timings.includes(timing)) sum.timings[timing].record(us)
      }
    })
  },
  seconds: (fromS: number, toS: number) =>
    Array.from({ length: toS - fromS }, (_, i) => ({ all: [0, 0, medianMs(fromS + i)] })),
} as unknown as OpenRun

/** Answers of a row between two seconds, added up one by one. */
function plainly({ subject, withFailures }: ComparedRow, fromS: number, toS: number) {
  const own = series.flatMap((of, n) => (isAbout(subject, of, document.plan) ? answers[n]! : []))
  const inside = own.filter(a => a.second >= fromS && a.second < toS)
  const times = new Histogram()
  for (const { us, isRight } of inside) if (isRight || withFailures) times.record(us)
  const answered = inside.filter(a => a.isRight).length
  return { times, answered, failed: inside.length - answered, inside }
}

const rows = rowsOf(document)
const windows = [{ fromS: 20, toS: 165 }, { fromS: 180, toS: 300 }]

it('has rows with failures beside those of right answers alone', () => {
  expect(new SeriesSum().ownFaults).toBe(0)
  expect(rows.filter(r => r.withFailures).map(r => [r.metric, r.subject.step])).toEqual([['p95', 'Look'], ['mean', undefined]])
  expect(new Set(rows.map(r => r.key)).size).toBe(rows.length)
})

it('measures every row as its own answers are, counted one by one', () => {
  const measured = measuresOf(document, run, { rows, windows, spread: false })
  rows.forEach((row, i) => {
    const all = windows.flatMap(w => plainly(row, w.fromS, w.toS).inside)
    const told = all.filter(a => a.isRight || row.withFailures).map(a => a.us / 1000).sort((a, b) => a - b)
    const right = all.filter(a => a.isRight).length
    const expected = {
      // Nearest rank.
      p95: () => told[Math.ceil(0.95 * told.length) - 1]!,
      mean: () => told.reduce((a, b) => a + b, 0) / told.length,
      failures: () => (all.length - right) / all.length,
      throughput: () => right / (165 - 20 + 120),
    }[row.metric as 'p95']()
    // A histogram keeps times to a thousandth.
    expect(measured[i]!.value! / expected).toBeCloseTo(1, 2)
    expect(measured[i]).toMatchObject({ blocks: 0 })
  })
})

it('tells how far each may be off by its own ten seconds, of whole ones alone', () => {
  const measured = measuresOf(document, run, { rows, windows, spread: true })
  const starts = windows.flatMap(({ fromS, toS }) =>
    Array.from({ length: Math.floor((toS - fromS) / CELL_S) }, (_, i) => fromS + i * CELL_S))
  const medians = windows.flatMap(({ fromS, toS }) =>
    Array.from({ length: toS - fromS }, (_, i) => medianMs(fromS + i)))
  rows.forEach((row, i) => {
    const cells = starts.map(fromS => cellOf(plainly(row, fromS, fromS + CELL_S)))
    const { value } = measured[i]!
    expect(measured[i]).toEqual(spreadOf(cells, row.metric, correlationTimeS(medians), value))
    expect(measured[i]!.blocks).toBeGreaterThan(8)
    expect(measured[i]!.error).toBeGreaterThan(0)
  })
})

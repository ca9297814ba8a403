/**
 * Slices of a run, held against the plain samples they were made of: counted, and their percentiles by nearest rank
 * (Hyndman and Fan 1996, definition 1) to the width of a bin.
 */
import { seededRandom } from '../../core/random/seeded'
import { FAILURE_KINDS } from '../../core/journey/failure-kinds'
import { SeriesSum } from '../../core/merge/series-sum'
import { stepKey } from '../../core/objectives/subject'
import { DIMENSIONS, slicesOf, valueIn, type Dimension, type SliceWish } from '../../core/result/slices'
import { slicedRun as document, slicedSeries as series } from '../build/sliced-run'

const numbers = series.flatMap((of, number) => (of ? [number] : []))
const valuesIn = (d: Dimension) => [...new Set(numbers.map(number => valueIn(d, series[number]!, document)))]

interface Sample {
  series: number
  ms: number
  failed: boolean
  bytes: number
}

/** Samples of every series, and their sums. */
function sampled(seed: number): { samples: Sample[], sums: Map<number, SeriesSum> } {
  const random = seededRandom(seed)
  const samples: Sample[] = []
  const sums = new Map<number, SeriesSum>()
  for (const number of numbers) {
    // Some have nothing to tell.
    if (random() < 0.15) continue
    const sum = new SeriesSum()
    for (let n = Math.ceil(random() * 60); n > 0; n--) {
      const sample = {
        series: number,
        ms: Math.exp(random() * 8),
        failed: random() < 0.2,
        bytes: Math.floor(random() * 5000),
      }
      samples.push(sample)
      sum.started++
      sum.bytes += sample.bytes
      if (sample.failed) sum.failures[Math.floor(random() * FAILURE_KINDS.length)]!++
      else {
        sum.right++
        sum.timings.right.record(sample.ms * 1000)
      }
    }
    sums.set(number, sum)
  }
  return { samples, sums }
}

const adding = (sums: ReadonlyMap<number, SeriesSum>) => (into: (series: number) => SeriesSum | undefined) => {
  for (const [number, sum] of sums) into(number)?.add(sum)
}

const percentile = (sorted: readonly number[], p: number) => sorted[Math.max(0, Math.ceil(p * sorted.length) - 1)]

/** What a slice has to say of these samples; a histogram's bin is 1/1,024 of its value wide at most. */
function expectFigures(figures: ReturnType<typeof slicesOf>['whole'], of: readonly Sample[]): void {
  const right = of.filter(s => !s.failed).map(s => s.ms).sort((a, b) => a - b)
  expect([figures.started, figures.right, figures.failed, figures.bytes]).toEqual([
    of.length,
    right.length,
    of.length - right.length,
    of.reduce((sum, s) => sum + s.bytes, 0),
  ])
  if (right.length === 0) return expect(figures.p95Ms).toBeUndefined()
  const mean = right.reduce((a, b) => a + b, 0) / right.length
  const spread = Math.sqrt(right.reduce((sum, ms) => sum + (ms - mean) ** 2, 0) / right.length)
  for (const [told, plain] of [
    [figures.minMs, right[0]],
    [figures.p50Ms, percentile(right, 0.5)],
    [figures.p90Ms, percentile(right, 0.9)],
    [figures.p95Ms, percentile(right, 0.95)],
    [figures.p99Ms, percentile(right, 0.99)],
    [figures.p999Ms, percentile(right, 0.999)],
    [figures.maxMs, right.at(-1)],
    [figures.meanMs, mean],
    [figures.spreadMs, spread],
  ] as [number, number][])
    expect(Math.abs(told - plain)).toBeLessThanOrEqual(Math.max(0.002, plain / 1000))
}

const isRequest = (number: number) => series[number]!.kind === 'request'
const has = (d: Dimension, value: string) => (s: { series: number }) =>
  valueIn(d, series[s.series]!, document) === value

it('there is something to tell apart in every dimension', () => {
  for (const d of DIMENSIONS)
    expect(valuesIn(d).length).toBeGreaterThan(1)
  expect(numbers.some(number => series[number]!.kind === 'span')).toBe(true)
})

it.each([1, 2, 3])('rows of every two dimensions are what plain counting says, seed %d', (seed) => {
  const { samples, sums } = sampled(seed)
  for (const by of DIMENSIONS) {
    for (const then of DIMENSIONS) {
      if (by === then) continue
      const { whole, rows } = slicesOf(document, adding(sums), { rows: [by, then] }, series)
      expectFigures(whole, samples.filter(s => isRequest(s.series)))
      expect(rows.map(r => r.value)).toEqual(valuesIn(by))
      for (const row of rows) {
        const inRow = samples.filter(has(by, row.value)).filter(s => by === 'step' || isRequest(s.series))
        expectFigures(row.figures, inRow)
        for (const part of row.parts ?? [])
          expectFigures(
            part.figures,
            samples
              .filter(has(by, row.value))
              .filter(has(then, part.value))
              .filter(s => by === 'step' || then === 'step' || isRequest(s.series)),
          )
      }
    }
  }
})

it.each([4, 5, 6])('what is left out is in no row and not in the whole, seed %d', (seed) => {
  const { samples, sums } = sampled(seed)
  const random = seededRandom(seed + 100)
  for (let i = 0; i < 40; i++) {
    const only: NonNullable<SliceWish['only']> = {}
    for (const d of DIMENSIONS)
      if (random() < 0.5)
        only[d] = valuesIn(d).filter(() => random() < 0.6)
    const chosen = samples.filter(s => DIMENSIONS.every(d => !only[d]?.length || only[d].some(v => has(d, v)(s))))
    const { whole, rows } = slicesOf(document, adding(sums), { rows: ['location'], only }, series)
    const withRequests = numbers.some(number =>
      isRequest(number) && DIMENSIONS.every(d => !only[d]?.length || only[d].some(v => has(d, v)({ series: number }))))
    // Of steps that are no requests, what they timed: anything else would say nothing.
    const counted = withRequests || !only.step?.length ? chosen.filter(s => isRequest(s.series)) : chosen
    expectFigures(whole, counted)
    expect(rows.reduce((sum, r) => sum + r.figures.started, 0)).toBe(counted.length)
  }
})

it('steps of one name on two journeys are two rows, and a span is shown but never added up', () => {
  const { samples, sums } = sampled(7)
  const { whole, rows } = slicesOf(document, adding(sums), { rows: ['step'] }, series)
  for (const key of [stepKey('look', 'Look'), stepKey('other', 'Look')])
    expectFigures(rows.find(r => r.value === key)!.figures, samples.filter(has('step', key)))
  const span = rows.find(r => r.kind === 'span')!
  expect(span.figures.started).toBeGreaterThan(0)
  expect(rows.filter(r => r.kind === 'request').reduce((n, r) => n + r.figures.started, 0)).toBe(whole.started)
  expect(slicesOf(document, adding(sums), { rows: ['step'], only: { step: [span.value] } }, series).whole.started).toBe(
    span.figures.started,
  )
})

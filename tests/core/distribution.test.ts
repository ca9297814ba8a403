/**
 * A distribution against the plain samples it was made of. A histogram's bucket is 1/1,024 of its value wide at most:
 * samples are drawn apart from the edges by more than that, so that none can fall on the other side.
 */
import { distributionOf } from '../../core/result/distribution'
import { seededRandom } from '../../core/random/seeded'
import { SeriesSum } from '../../core/merge/series-sum'
import { seriesOf } from '../../core/run/series'
import { FAILURE_KINDS } from '../../core/journey/failure-kinds'
import { runDocument } from '../build/plans'

const document = runDocument()
const series = seriesOf(document)
const LIMITS = [1000, 20, 300]

function sampled(seed: number) {
  const random = seededRandom(seed)
  const samples: { series: number, ms: number, failed: boolean }[] = []
  const sums = new Map<number, SeriesSum>()
  for (const number of series.keys()) {
    const sum = new SeriesSum()
    for (let n = 0; n < 200; n++) {
      // Whole steps of 1 % and a half, from 0.5 ms to 60 s.
      const ms = 0.5 * 1.01 ** (Math.floor(random() * 1175) + 0.5)
      const failed = random() < 0.1
      samples.push({ series: number, ms, failed })
      sum.started++
      if (failed) sum.failures[FAILURE_KINDS.indexOf('status')]!++
      else sum.right++
      sum.timings[failed ? 'failed' : 'right'].record(ms * 1000)
    }
    sums.set(number, sum)
  }
  return { samples, sums }
}

const isRequest = (number: number) => series[number]!.kind === 'request'

it.each([1, 2, 3])('bands, bins and percentiles are what plain counting says, seed %d', (seed) => {
  const { samples, sums } = sampled(seed)
  const of = distributionOf(document, into => sums.forEach((sum, number) => into(number)?.add(sum)), {}, LIMITS)
  const there = samples.filter(s => isRequest(s.series))
  const right = there.filter(s => !s.failed).map(s => s.ms).sort((a, b) => a - b)
  expect([of.right, of.failed]).toEqual([right.length, there.length - right.length])
  const limits = [0, 20, 300, 1000, Number.POSITIVE_INFINITY]
  expect(of.bands).toEqual(
    limits.slice(1).map((toMs, i) => ({
      fromMs: limits[i],
      ...(Number.isFinite(toMs) ? { toMs } : {}),
      count: right.filter(ms => ms > limits[i]! && ms <= toMs).length,
    })),
  )
  expect(of.bins.reduce((sum, b) => sum + b.right, 0)).toBe(right.length)
  expect(of.bins.reduce((sum, b) => sum + b.failed, 0)).toBe(of.failed)
  for (const { fromMs, toMs, right: n } of of.bins) {
    // Give and take those within a bucket of an edge.
    const surely = right.filter(ms => ms > fromMs * 1.002 && ms < toMs / 1.002).length
    const perhaps = right.filter(ms => ms > fromMs / 1.002 && ms < toMs * 1.002).length
    expect(n).toBeGreaterThanOrEqual(surely)
    expect(n).toBeLessThanOrEqual(perhaps)
    expect(toMs / fromMs).toBeCloseTo(10 ** (1 / 40), 10)
  }
  for (const { share, ms } of of.percentiles) {
    const plain = right[Math.ceil(share * right.length) - 1]!
    expect(Math.abs(ms - plain)).toBeLessThanOrEqual(plain / 1000)
  }
})

it('two slices that share nothing add up to the whole, band by band', () => {
  const { sums } = sampled(7)
  const bands = (only: object) =>
    distributionOf(document, into => sums.forEach((sum, number) => into(number)?.add(sum)), only, LIMITS).bands
  const codes = document.plan.locations.map(l => l.code)
  const parts = codes.map(code => bands({ location: [code] }))
  expect(bands({}).map(b => b.count)).toEqual(
    LIMITS.concat(0).map((_, i) => parts.reduce((sum, of) => sum + of[i]!.count, 0)),
  )
})

it('of nothing has no percentile, and empty bands', () => {
  expect(distributionOf(document, () => undefined, {}, [50])).toEqual({
    right: 0,
    failed: 0,
    bins: [],
    percentiles: [],
    bands: [{ fromMs: 0, toMs: 50, count: 0 }, { fromMs: 50, count: 0 }],
  })
})

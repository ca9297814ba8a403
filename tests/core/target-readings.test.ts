/** From pages to points: gauges, counters and their resets, histograms; stamps, ages, clocks. */
import type { MetricSample } from '../../core/target/metrics-page'
import { courseOf, thinned } from '../../core/target/course'
import { momentsToAsk, readQuery } from '../../core/target/query'
import { percentileOf, SourceReadings } from '../../core/target/readings'
import { sourceFaults, type SeriesChoice, type Source } from '../../core/target/source'
import { SourceClockBook } from '../../core/target/source-clock'

const sample = (name: string, value: number, labels: Record<string, string> = {}, atMs?: number): MetricSample => ({
  name,
  labels,
  value,
  ...(atMs === undefined ? {} : { atMs }),
})
const readings = (choice: Partial<SeriesChoice>, kind: Source['kind'] = 'metrics', stamp?: string) =>
  new SourceReadings(
    { kind, series: [{ name: 's', of: 'm', kind: 'gauge', ...choice }], ...(stamp ? { stamp } : {}) },
    7,
  )
/** Values of one reading after the other, by line. */
function told(choice: Partial<SeriesChoice>, pages: MetricSample[][]) {
  const of = readings(choice)
  return pages.map((samples, i) =>
    Object.fromEntries(of.takePage({ samples }, i * 1000).points.map(p => [p.split, p.value])))
}

describe('a gauge', () => {
  it('is what stands there, times its factor; several of one line are added', () => {
    expect(told({ factor: 100 }, [[sample('m', 0.25)]])).toEqual([{ '': 25 }])
    const pods = [sample('m', 1, { pod: 'a', node: 'x' }), sample('m', 2, { pod: 'b', node: 'x' }), sample('m', 4, { pod: 'c', node: 'y' })]
    expect(told({}, [pods])).toEqual([{ '': 7 }])
    expect(told({ by: 'node' }, [pods])).toEqual([{ x: 3, y: 4 }])
    expect(told({ by: 'node', labels: { pod: 'c' } }, [pods])).toEqual([{ y: 4 }])
  })

  it('that is no number is not there', () => {
    expect(told({}, [[sample('m', NaN)]])).toEqual([{}])
  })
})

describe('a counter', () => {
  const counts = (...values: number[]) => values.map(v => [sample('m_total', v)])

  it('tells what it grew by since the first reading', () => {
    expect(told({ kind: 'count' }, counts(100, 103, 103, 110))).toEqual([{ '': 0 }, { '': 3 }, { '': 3 }, { '': 10 }])
  })

  it('that went down began anew, from nothing, and that is told', () => {
    const of = readings({ kind: 'count' })
    const take = (v: number, at: number) => of.takePage({ samples: [sample('m_total', v)] }, at)
    take(100, 0)
    expect(take(130, 1000)).toMatchObject({ beganAnew: false, points: [{ value: 30 }] })
    expect(take(4, 2000)).toMatchObject({ beganAnew: true, points: [{ value: 34 }] })
    expect(take(9, 3000)).toMatchObject({ beganAnew: false, points: [{ value: 39 }] })
  })

  it('each of several begins anew by itself', () => {
    const page = (a: number, b: number) => [sample('m_total', a, { pod: 'a' }), sample('m_total', b, { pod: 'b' })]
    expect(told({ kind: 'count' }, [page(10, 1000), page(15, 1010), page(2, 1020)])).toEqual([
      { '': 0 },
      { '': 15 },
      { '': 27 },
    ])
  })

  it('that appears later counts from nothing, and stood at nothing before', () => {
    const of = readings({ kind: 'count', by: 'path' })
    expect(of.takePage({ samples: [] }, 0).points).toEqual([])
    expect(of.takePage({ samples: [sample('m_total', 5, { path: '/a' })] }, 1000).points).toEqual([
      { series: 0, split: '/a', atMs: 0, value: 0 },
      { series: 0, split: '/a', atMs: 1000, value: 5 },
    ])
  })

  it('of this run alone counts from nothing at the first reading, too', () => {
    const page = [sample('m_total', 5, { run: '7' }), sample('m_total', 90, { run: '6' })]
    expect(told({ kind: 'count', labels: { run: '{{run}}' } }, [page])).toEqual([{ '': 5 }])
  })

  it('goes on where it was after a restart of ours', () => {
    const before = readings({ kind: 'count' })
    before.takePage({ samples: [sample('m_total', 10)] }, 0)
    before.takePage({ samples: [sample('m_total', 16)] }, 1000)
    const kept = JSON.parse(JSON.stringify(before.state)) as typeof before.state
    const after = new SourceReadings({ kind: 'metrics', series: [{ name: 's', of: 'm', kind: 'count' }] }, 7, kept)
    expect(after.takePage({ samples: [sample('m_total', 20)] }, 9000).points[0]!.value).toBe(10)
  })
})

describe('a histogram', () => {
  const page = (small: number, middle: number, all: number, sum: number) => [
    sample('m_bucket', small, { le: '0.1' }),
    sample('m_bucket', middle, { le: '0.5' }),
    sample('m_bucket', all, { le: '+Inf' }),
    sample('m_sum', sum),
    sample('m_count', all),
  ]

  it('tells of what was counted between two readings', () => {
    const pages = [page(1000, 1000, 1000, 50), page(1010, 1020, 1020, 55)]
    expect(told({ kind: 'mean', factor: 1000 }, pages)).toEqual([{}, { '': 250 }])
    // 20 calls, 10 of them up to 0.1 s: the median is that bound.
    expect(told({ kind: 'p50' }, pages)[1]!['']).toBeCloseTo(0.1, 12)
    // The nineteenth of twenty is nine tenths into the second bucket.
    expect(told({ kind: 'p95' }, pages)[1]!['']).toBeCloseTo(0.1 + 0.4 * 0.9, 12)
  })

  it('tells nothing where nothing was counted', () => {
    expect(told({ kind: 'p95' }, [page(1, 1, 1, 1), page(1, 1, 1, 1)])).toEqual([{}, {}])
  })

  it('a percentile lies in the bucket that holds it (against counting in plain samples)', () => {
    const bounds = [0.1, 0.2, 0.4, 0.8, 1.6, Infinity]
    const samples = Array.from({ length: 997 }, (_, i) => ((i * 7919) % 1500) / 1000)
    const sorted = [...samples].sort((a, b) => a - b)
    const buckets = bounds.map(le => ({ le, grew: samples.filter(s => s <= le).length }))
    for (const share of [0.5, 0.9, 0.95, 0.99]) {
      const true_ = sorted[Math.ceil(share * sorted.length) - 1]!
      const said = percentileOf(buckets, share)!
      const bucket = (x: number) => bounds.findIndex(le => x <= le)
      expect(bucket(said)).toBe(bucket(true_))
    }
    expect(percentileOf([{ le: 1, grew: 0 }, { le: Infinity, grew: 9 }], 0.5)).toBe(1)
  })
})

describe('stamps and clocks', () => {
  it('a value is of its own moment, on our clock', () => {
    const of = readings({})
    const { points } = of.takePage({ samples: [sample('m', 1, {}, 70_000)] }, 100_000, 5000)
    expect(points).toEqual([{ series: 0, split: '', atMs: 65_000, value: 1 }])
    // The same stamp again says nothing new.
    expect(of.takePage({ samples: [sample('m', 1, {}, 70_000)] }, 101_000, 5000).points).toEqual([])
  })

  it.each([
    ['2026-11-29T05:00:00Z', Date.UTC(2026, 10, 29, 5)],
    [1_795_928_400, 1_795_928_400_000],
    [1_795_928_400_000, 1_795_928_400_000],
  ])('a page of JSON says its moment as %p', (at, atMs) => {
    const of = readings({ of: '$.pool.inUse' }, 'json', '$.at')
    expect(of.takeJson({ at, pool: { inUse: '12' } }, 5).points).toEqual([{ series: 0, split: '', atMs, value: 12 }])
  })

  it('what a page of JSON does not hold is not there', () => {
    expect(readings({ of: '$.a.b' }, 'json').takeJson({ a: [] }, 5).points).toEqual([])
  })

  it('a clock is known from dates of whole seconds by what all of them allow', () => {
    const book = new SourceClockBook()
    expect(book.known).toBeUndefined()
    const AHEAD = 3_217
    for (let i = 0; i < 40; i++) {
      const asked = 1_795_928_400_000 + i * 1070
      const made = asked + 10 + AHEAD
      book.note(new Date(Math.floor(made / 1000) * 1000).toUTCString(), asked, asked + 20)
    }
    const { offsetMs, uncertaintyMs } = book.known!
    expect(uncertaintyMs).toBeLessThan(60)
    expect(Math.abs(offsetMs - AHEAD)).toBeLessThanOrEqual(uncertaintyMs)
    book.note('rubbish', 0, 1)
    expect(book.known).toEqual({ offsetMs, uncertaintyMs })
  })
})

describe('a course', () => {
  const at = (...pairs: [number, number][]) => pairs.map(([atS, value]) => ({ atS, value }))

  it('of a counter is its growth per second', () => {
    expect(courseOf(at([0, 0], [1, 10], [3, 30]), 'count', 1)).toEqual({ atS: [1, 3], values: [10, 10] })
  })

  it('has gaps where nothing was read: no nought, no line across', () => {
    expect(courseOf(at([0, 5], [1, 6], [9, 7]), 'gauge', 1).values).toEqual([5, 6, null, 7])
    // What it grew by over the gap is of no one second.
    expect(courseOf(at([0, 0], [1, 6], [9, 100], [10, 104]), 'count', 1).values).toEqual([6, null, 4])
  })

  it('of fewer points keeps its ends, tops and gaps', () => {
    const seconds = Array.from({ length: 1000 }, (_, i) => i)
    const long = { atS: seconds, values: seconds.map((i): number | null => i % 7) }
    long.values[501] = 99
    long.values[720] = null
    const few = thinned(long, 100)
    expect(few.atS.length).toBeLessThanOrEqual(110)
    expect(few.values).toContain(99)
    expect(few.values).toContain(null)
    expect([...few.atS].sort((a, b) => a - b)).toEqual(few.atS)
  })
})

it('sources that cannot be are told', () => {
  const source: Source = { name: 'a', kind: 'metrics', address: 'http://x/metrics', everyS: 1, series: [] }
  const series: SeriesChoice = { name: 's', of: 'm', kind: 'gauge' }
  expect(sourceFaults([source])).toEqual([])
  expect(sourceFaults([{ ...source, address: 'ftp://x' }])).toMatchObject([{ source: 0 }])
  expect(sourceFaults([source, source]).length).toBe(1)
  expect(sourceFaults([{ ...source, series: [series, series] }]).length).toBe(2)
  expect(sourceFaults([{ ...source, kind: 'json', series: [{ ...series, kind: 'p95' }] }])).toMatchObject([{ series: 0 }])
})

describe('a query to a metrics server', () => {
  // The language's published grammar, by its own parser; examples from memory of its documentation.
  it.each([
    ['http_requests_total{job="a",group!~"b|c"}', ['http_requests_total{job="a",group!~"b|c"}'], true],
    ['{__name__=~"job:.*"}', ['{__name__=~"job:.*"}'], true],
    ['sum by (job) (rate(a_total[5m])) / ignoring(x) group_left b > bool 2', ['a_total', 'b'], false],
    ['max_over_time(deriv(rate(c_total[1m])[5m:1m])[10m:])', ['c_total'], false],
    ['topk(3, sum(rate(d[5m] offset 1w)) by (app))', ['d'], false],
  ])('%s is made of', (query, selectors, isSelector) => {
    if (query.startsWith('max_over')) expect(readQuery(query).selectors).toEqual(selectors)
    else expect(readQuery(query)).toEqual({ selectors, isSelector })
  })

  it.each([
    ['sum(', /breaks off/],
    ['rate(a[5m)', /cannot be read from “\)/],
    ['1 + time()', /names no metric/],
    ['a[5m]', /many samples at once/],
    ['', /breaks off/],
  ])('%s is refused', (query, sentence) => {
    expect(() => readQuery(query)).toThrow(sentence)
    const source: Source = { name: 'x', kind: 'server', address: 'http://x', everyS: 1, series: [{ name: 's', of: query, kind: 'gauge' }] }
    expect(sourceFaults([source])).toMatchObject([{ series: 0, sentence: expect.stringMatching(sentence) as string }])
  })

  it('asks for every beat since the last, and not for more than was missed', () => {
    expect(momentsToAsk(100, undefined, 1)).toEqual({ startS: 100, endS: 100 })
    expect(momentsToAsk(101, 100, 1)).toEqual({ startS: 101, endS: 101 })
    expect(momentsToAsk(101.01, 100, 1)).toEqual({ startS: 100.01, endS: 101.01 })
    expect(momentsToAsk(115, 100, 5)).toEqual({ startS: 105, endS: 115 })
    expect(momentsToAsk(1e6, 100, 1).startS).toBe(1e6 - 300)
    // Its clock was put back.
    expect(momentsToAsk(90, 100, 1)).toEqual({ startS: 90, endS: 90 })
  })
})

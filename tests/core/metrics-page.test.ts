/** Pages of metrics: written by a client library that was not made here, and as the standard's own examples are. */
import fc from 'fast-check'
import { Counter, Gauge, Histogram, Registry, Summary } from 'prom-client'
import { PageError, readMetricsPage } from '../../core/target/metrics-page'

const valueOf = (text: string, name: string, labels: Record<string, string> = {}) =>
  readMetricsPage(text).samples.find(
    s => s.name === name && Object.entries(labels).every(([l, v]) => s.labels[l] === v),
  )?.value

describe.each([
  ['the older text form', 'text/plain; version=0.0.4; charset=utf-8'],
  ['OpenMetrics', 'application/openmetrics-text; version=1.0.0; charset=utf-8'],
])('a page of a client library (prom-client), %s', (_, type) => {
  let text = ''
  const odd = 'a "quoted" \\ back\nand new line {x="1"} # 7'
  beforeAll(async () => {
    const registry = new Registry()
    registry.setContentType(type as never)
    const registers = [registry]
    const calls = new Counter({ name: 'calls_total', help: 'Calls, "all" of \\ them.', labelNames: ['path'], registers })
    calls.inc({ path: odd }, 7)
    calls.inc({ path: '/b' }, 3.5)
    new Gauge({ name: 'temperature', help: 'May be below nought.', registers }).set(-12.25)
    new Gauge({ name: 'unbounded', help: 'Nobody knows.', registers }).set(Infinity)
    new Gauge({ name: 'nothing', help: 'No number.', registers }).set(NaN)
    new Gauge({ name: 'tiny', help: 'With an exponent.', registers }).set(1.5e-9)
    const took = new Histogram({ name: 'took_seconds', help: 'Time.', buckets: [0.1, 1], registers })
    ;[0.05, 0.5, 0.6, 5].forEach(s => took.observe(s))
    new Summary({ name: 'size_bytes', help: 'Sizes.', percentiles: [0.5], registers }).observe(40)
    text = await registry.metrics()
  })

  it('is read as it was meant', () => {
    const page = readMetricsPage(text)
    expect(page.isOpenMetrics).toBe(type.includes('openmetrics'))
    expect(valueOf(text, 'calls_total', { path: odd })).toBe(7)
    expect(valueOf(text, 'calls_total', { path: '/b' })).toBe(3.5)
    expect(valueOf(text, 'temperature')).toBe(-12.25)
    expect(valueOf(text, 'unbounded')).toBe(Infinity)
    expect(valueOf(text, 'nothing')).toBeNaN()
    expect(valueOf(text, 'tiny')).toBe(1.5e-9)
    expect(valueOf(text, 'took_seconds_bucket', { le: '0.1' })).toBe(1)
    expect(valueOf(text, 'took_seconds_bucket', { le: '+Inf' })).toBe(4)
    expect(valueOf(text, 'took_seconds_sum')).toBeCloseTo(6.15, 9)
    expect(valueOf(text, 'size_bytes', { quantile: '0.5' })).toBe(40)
    expect(page.families.get('took_seconds')).toMatchObject({ type: 'histogram', help: 'Time.' })
  })

  it('takes only what is wanted, and that the same', () => {
    const { samples } = readMetricsPage(text, new Set(['temperature']))
    expect(samples).toEqual([{ name: 'temperature', labels: {}, value: -12.25 }])
  })
})

/** OpenMetrics 1.0, “Overall Structure” and “Exemplars”; from memory. */
const EXAMPLE = `# TYPE acme_http_router_request_seconds summary
# UNIT acme_http_router_request_seconds seconds
# HELP acme_http_router_request_seconds Latency though all of ACME's HTTP request router.
acme_http_router_request_seconds_sum{path="/api/v1",method="GET"} 9036.32
acme_http_router_request_seconds_count{path="/api/v1",method="GET"} 807283.0
acme_http_router_request_seconds_created{path="/api/v1",method="GET"} 1605281325.0
# TYPE go_goroutines gauge
# HELP go_goroutines Number of goroutines that currently exist.
go_goroutines 69
# TYPE foo histogram
foo_bucket{le="0.01"} 0
foo_bucket{le="0.1"} 8 # {} 0.054
foo_bucket{le="1"} 11 # {trace_id="KOO5S4vxi0o"} 0.67
foo_bucket{le="+Inf"} 17 # {trace_id="oHg5SJYRHA0"} 9.8 1520879607.789
foo_count 17 1520879607.789
# EOF
`

describe('the standard’s examples', () => {
  it('are read: units, stamps in seconds, exemplars', () => {
    const { samples, families } = readMetricsPage(EXAMPLE)
    expect(families.get('acme_http_router_request_seconds')).toEqual({
      type: 'summary',
      unit: 'seconds',
      help: 'Latency though all of ACME\'s HTTP request router.',
    })
    expect(samples.find(s => s.name === 'acme_http_router_request_seconds_count')).toMatchObject({
      labels: { path: '/api/v1', method: 'GET' },
      value: 807283,
    })
    expect(samples.find(s => s.labels.le === '+Inf')?.exemplar).toEqual({ labels: { trace_id: 'oHg5SJYRHA0' }, value: 9.8 })
    expect(samples.find(s => s.name === 'foo_count')?.atMs).toBeCloseTo(1520879607789, 3)
  })

  it('a stamp of the older form is in ms', () => {
    expect(readMetricsPage('http_requests_total{code="200"} 1027 1395066363000\n').samples[0]).toEqual({
      name: 'http_requests_total',
      labels: { code: '200' },
      value: 1027,
      atMs: 1395066363000,
    })
  })

  it('what the older form allows beyond: blanks, empty lines, remarks, a comma at the end', () => {
    const text = '# just a remark\n\nmetric_without_labels   12.47\n  \nx{a = "1" , b="2",} 3\t\n'
    expect(readMetricsPage(text).samples).toEqual([
      { name: 'metric_without_labels', labels: {}, value: 12.47 },
      { name: 'x', labels: { a: '1', b: '2' }, value: 3 },
    ])
  })
})

describe('what is no such page is refused with its line', () => {
  it.each([
    ['a 1\nb{x="1} 2\n', /^Line 2: its labels/],
    ['a 1\n<html>\n', /^Line 2 begins with no name/],
    ['a one\n', /^Line 1: “one” is no number/],
    ['a 1 2 3\n', /^Line 1: after the name/],
    ['a\n', /^Line 1: after the name/],
    ['# TYPE a thing\n', /^Line 1: “thing” is no type/],
    ['a 1\n# EOF\nb 2\n# EOF\n', /^Line 3 comes after the end/],
  ])('%j', (text, sentence) => {
    expect(() => readMetricsPage(text)).toThrow(PageError)
    expect(() => readMetricsPage(text)).toThrow(sentence)
  })

  it('a page of OpenMetrics that breaks off', () => {
    expect(() => readMetricsPage('a 1\n', undefined, true)).toThrow(/breaks off/)
  })

  it('rubbish of any kind ends, in a PageError at worst', () => {
    const any = fc.string({ unit: fc.constantFrom(...'ab{}="\\n1. #\n,TYPE') })
    fc.assert(
      fc.property(any, fc.boolean(), (text, isOpen) => {
        try {
          readMetricsPage(text, undefined, isOpen)
        }
        catch (error) {
          expect(error).toBeInstanceOf(PageError)
        }
      }),
    )
  })
})

it('labels survive being written and read (OpenMetrics, escaped-string)', () => {
  const escaped = (v: string) => v.replace(/\\/g, '\\\\').replace(/"/g, '\\"').replace(/\n/g, '\\n')
  fc.assert(
    fc.property(fc.string(), fc.double({ noNaN: true }), (value, n) => {
      const { samples } = readMetricsPage(`m{a="${escaped(value)}"} ${n}\n# EOF\n`)
      // As text, nought has no sign.
      expect(samples).toEqual([{ name: 'm', labels: { a: value }, value: n + 0 }])
    }),
  )
})

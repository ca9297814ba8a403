/**
 * Metrics in the open telemetry protocol, as programs send them (OTLP 1.x, metrics/v1): taken apart into samples, as if
 * they stood on a page of metrics. Source of names and field numbers: the protocol's own definitions,
 * `opentelemetry/proto/metrics/v1/metrics.proto` (from memory; held against its own exporters in the tests).
 */
import type { MetricSample } from '../target/metrics-page'
import { identityOf } from '../target/lines'

/** What was sent is no such thing. */
export class OtlpError extends Error {
  override name = 'OtlpError'
}

export interface OtlpRequest {
  resourceMetrics?: ResourceMetrics[]
}
interface ResourceMetrics {
  resource?: { attributes?: KeyValue[] }
  scopeMetrics?: { metrics?: Metric[] }[]
}
interface KeyValue {
  key?: string
  value?: { stringValue?: string, boolValue?: boolean, intValue?: string | number, doubleValue?: number }
}
interface Metric {
  name?: string
  unit?: string
  gauge?: { dataPoints?: DataPoint[] }
  sum?: { dataPoints?: DataPoint[], aggregationTemporality?: Temporality, isMonotonic?: boolean }
  histogram?: { dataPoints?: DataPoint[], aggregationTemporality?: Temporality }
  exponentialHistogram?: { dataPoints?: DataPoint[], aggregationTemporality?: Temporality }
  summary?: { dataPoints?: DataPoint[] }
}
/** Of any kind: what its kind has not is not there. 64-bit numbers are texts. */
interface DataPoint {
  attributes?: KeyValue[]
  timeUnixNano?: string | number
  asDouble?: number
  asInt?: string | number
  count?: string | number
  sum?: number
  bucketCounts?: (string | number)[]
  explicitBounds?: number[]
}
type Temporality = number | string

export interface SentMetrics {
  samples: MetricSample[]
  /** By name, as far as it is told. */
  kinds: Map<string, { type: string, unit?: string }>
}

const NS_PER_MS = 1_000_000
const DELTA: readonly Temporality[] = [1, 'AGGREGATION_TEMPORALITY_DELTA']

/** @param sent a request, from JSON or from its binary form @throws OtlpError */
export function sentMetrics(sent: unknown): SentMetrics {
  const found: SentMetrics = { samples: [], kinds: new Map() }
  // Each of its fields may be missing, and is looked at where it is read.
  const { resourceMetrics } = (sent ?? {}) as OtlpRequest
  if (!Array.isArray(resourceMetrics)) throw new OtlpError('It has no resourceMetrics.')
  for (const { resource, scopeMetrics = [] } of resourceMetrics) {
    const shared = labelsOf(resource?.attributes)
    for (const { metrics = [] } of scopeMetrics) for (const metric of metrics) take(metric, shared, found)
  }
  return found
}

function take(metric: Metric, shared: Record<string, string>, { samples, kinds }: SentMetrics): void {
  const { name, unit, gauge, sum, histogram, exponentialHistogram, summary } = metric
  if (typeof name !== 'string' || name === '') throw new OtlpError('A metric has no name.')
  const counted = histogram ?? exponentialHistogram ?? summary
  const type = counted ? (summary ? 'summary' : 'histogram') : sum?.isMonotonic ? 'counter' : 'gauge'
  kinds.set(name, { type, ...(unit && unit !== '1' ? { unit } : {}) })
  const grows = (of: { aggregationTemporality?: Temporality } | undefined) =>
    DELTA.includes(of?.aggregationTemporality ?? 0)
  for (const point of (gauge ?? sum)?.dataPoints ?? [])
    samples.push(sampleOf(name, point, shared, point.asDouble ?? point.asInt, grows(sum)))
  for (const point of counted?.dataPoints ?? []) {
    const isGrowth = grows(histogram ?? exponentialHistogram)
    samples.push(sampleOf(`${name}_count`, point, shared, point.count, isGrowth))
    if (point.sum !== undefined) samples.push(sampleOf(`${name}_sum`, point, shared, point.sum, isGrowth))
    let upTo = 0
    // Bounds of an exponential histogram change as it grows: of one no percentiles are taken.
    point.bucketCounts?.forEach((count, at) => {
      upTo += Number(count)
      const le = point.explicitBounds?.[at]
      const bucket = sampleOf(`${name}_bucket`, point, shared, upTo, isGrowth)
      samples.push({ ...bucket, labels: { ...bucket.labels, le: le === undefined ? '+Inf' : String(le) } })
    })
  }
}

function sampleOf(
  name: string,
  { attributes, timeUnixNano }: DataPoint,
  shared: Record<string, string>,
  value: unknown,
  isGrowth: boolean,
): MetricSample {
  const n = Number(value ?? 0)
  if (Number.isNaN(n)) throw new OtlpError(`${name} has a value that is no number.`)
  const atMs = Number(timeUnixNano ?? 0) / NS_PER_MS
  return { name, labels: { ...shared, ...labelsOf(attributes) }, value: n, isGrowth, ...(atMs > 0 ? { atMs } : {}) }
}

function labelsOf(attributes: readonly KeyValue[] = []): Record<string, string> {
  return Object.fromEntries(
    attributes.flatMap(({ key, value }) => {
      const said = value?.stringValue ?? value?.boolValue ?? value?.intValue ?? value?.doubleValue
      return key === undefined || said === undefined ? [] : [[key, String(said)]]
    }),
  )
}

/** Adds up what came since the one before, so that it counts on as a page of metrics does. */
export class OtlpSums {
  private readonly sums = new Map<string, number>()

  /** @returns the same samples, none of which is a growth */
  take(samples: readonly MetricSample[]): MetricSample[] {
    return samples.map(({ isGrowth, ...sample }) => {
      if (!isGrowth) return sample
      const key = identityOf(sample)
      const value = (this.sums.get(key) ?? 0) + sample.value
      this.sums.set(key, value)
      return { ...sample, value }
    })
  }
}

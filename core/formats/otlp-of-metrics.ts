/**
 * Families of metrics in the open telemetry protocol (OTLP 1.x, metrics/v1), as its JSON has them: 64-bit numbers are
 * texts, names are in camel case. Source of names: the protocol's own `opentelemetry/proto/metrics/v1/metrics.proto`
 * (from memory; held against its own exporters in the tests).
 */
import type { Labels, MetricFamily } from './open-metrics'

/** Sums count from the beginning of the run. */
const CUMULATIVE = 2

/** Of which run, and when. Moments in ms since 1970. */
export interface OtlpMoment {
  /** Counts are of since then. */
  startMs: number
  nowMs: number
}

/** @returns an ExportMetricsServiceRequest */
export function otlpOfMetrics(
  families: readonly MetricFamily[],
  { startMs, nowMs }: OtlpMoment,
  version: string,
): object {
  const times = { startTimeUnixNano: nanoOf(startMs), timeUnixNano: nanoOf(nowMs) }
  const metrics = families.filter(f => f.samples.length > 0).map(family => metricOf(family, times))
  return {
    resourceMetrics: [
      {
        resource: { attributes: attributesOf({ 'service.name': 'vornak', 'service.version': version }) },
        scopeMetrics: [{ scope: { name: 'vornak', version }, metrics }],
      },
    ],
  }
}

interface Times {
  startTimeUnixNano: string
  timeUnixNano: string
}

function metricOf({ name, type, unit = '', help, samples }: MetricFamily, times: Times): object {
  const head = { name, description: help, unit: unit === 'seconds' ? 's' : unit === 'bytes' ? 'By' : unit }
  const points = samples.map(({ labels, value }) => ({ attributes: attributesOf(labels), ...times, asDouble: value }))
  switch (type) {
    case 'counter':
      return { ...head, sum: { aggregationTemporality: CUMULATIVE, isMonotonic: true, dataPoints: points } }
    case 'summary':
      return { ...head, summary: { dataPoints: summaryPoints(samples, times) } }
    default:
      return { ...head, gauge: { dataPoints: points } }
  }
}

/** What a family tells line by line is one point for each set of labels. */
function summaryPoints(samples: MetricFamily['samples'], times: Times): object[] {
  const points = new Map<string, { labels: Labels, count: number, sum: number, quantiles: [number, number][] }>()
  for (const { suffix, labels: all, value } of samples) {
    const { quantile, ...labels } = all
    const key = JSON.stringify(labels)
    let point = points.get(key)
    if (!point) points.set(key, (point = { labels, count: 0, sum: 0, quantiles: [] }))
    if (suffix === '_count') point.count = value
    else if (suffix === '_sum') point.sum = value
    else if (quantile !== undefined) point.quantiles.push([Number(quantile), value])
  }
  return [...points.values()].map(({ labels, count, sum, quantiles }) => ({
    attributes: attributesOf(labels),
    ...times,
    count: String(count),
    sum,
    quantileValues: quantiles.map(([quantile, value]) => ({ quantile, value })),
  }))
}

function attributesOf(labels: Labels): object[] {
  return Object.entries(labels).map(([key, value]) => ({
    key,
    value: typeof value === 'number' ? { doubleValue: value } : { stringValue: value },
  }))
}

/** Whole milliseconds, so that no digit is lost on the way. */
const nanoOf = (ms: number): string => `${Math.round(ms)}000000`

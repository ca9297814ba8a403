/**
 * A program that sends metrics in the open telemetry protocol, by its makers' own exporters: twice, with some growth
 * between. `node telemetry-sender.mjs URL json|protobuf DELTA|CUMULATIVE [gzip] [TOKEN]`
 */
import json from '@opentelemetry/exporter-metrics-otlp-http'
import protobuf from '@opentelemetry/exporter-metrics-otlp-proto'
import { AggregationTemporality, MeterProvider, PeriodicExportingMetricReader } from '@opentelemetry/sdk-metrics'

const [url, form, temporality, compression = 'none', token] = process.argv.slice(2)
const { OTLPMetricExporter } = form === 'json' ? json : protobuf
const exporter = new OTLPMetricExporter({
  url,
  compression,
  temporalityPreference: AggregationTemporality[temporality],
  headers: token ? { authorization: `Bearer ${token}` } : {},
})
const reader = new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 })
const provider = new MeterProvider({ readers: [reader] })
const meter = provider.getMeter('test')
const calls = meter.createCounter('app.calls')
const open = meter.createUpDownCounter('app.open')
const took = meter.createHistogram('app.took', { advice: { explicitBucketBoundaries: [10, 100, 1000] } })
meter.createObservableGauge('app.used').addCallback((result) => {
  ;[0.25, 0, -1, 2 ** 53 - 1].forEach((n, at) => result.observe(n, { 'pool.name': String(at) }))
})
calls.add(3, { route: '/a' })
open.add(5)
took.record(50)
await reader.forceFlush()
calls.add(4, { route: '/a' })
calls.add(2, { route: '/b' })
open.add(-2)
for (const ms of [20, 20, 200]) took.record(ms)
// It sends the last ones by itself.
await provider.shutdown()

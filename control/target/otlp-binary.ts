/** The binary form of what {@link sentMetrics} takes: Protocol Buffers, by the protocol's own field numbers. */
import protobuf from 'protobufjs/light.js'
import { OtlpError, type OtlpRequest } from '../../core/formats/otlp'
import { messageOf } from '../../core/values/thrown'

type Field = readonly [type: string, id: number, rule?: 'repeated']
const message = (fields: Record<string, Field>) => ({
  fields: Object.fromEntries(
    Object.entries(fields).map(([name, [type, id, rule]]) => [name, { type, id, ...(rule ? { rule } : {}) }]),
  ),
})
const many = (type: string, id: number): Field => [type, id, 'repeated']

/** Fields that nothing is made of are left out: they are skipped. */
const ROOT = protobuf.Root.fromJSON({
  nested: {
    Request: message({ resourceMetrics: many('ResourceMetrics', 1) }),
    ResourceMetrics: message({ resource: ['Resource', 1], scopeMetrics: many('ScopeMetrics', 2) }),
    Resource: message({ attributes: many('KeyValue', 1) }),
    ScopeMetrics: message({ metrics: many('Metric', 2) }),
    Metric: message({
      name: ['string', 1],
      unit: ['string', 3],
      gauge: ['Gauge', 5],
      sum: ['Sum', 7],
      histogram: ['Histogram', 9],
      exponentialHistogram: ['ExponentialHistogram', 10],
      summary: ['Summary', 11],
    }),
    Gauge: message({ dataPoints: many('NumberDataPoint', 1) }),
    Sum: message({
      dataPoints: many('NumberDataPoint', 1),
      aggregationTemporality: ['int32', 2],
      isMonotonic: ['bool', 3],
    }),
    Histogram: message({ dataPoints: many('HistogramDataPoint', 1), aggregationTemporality: ['int32', 2] }),
    ExponentialHistogram: message({
      dataPoints: many('ExponentialHistogramDataPoint', 1),
      aggregationTemporality: ['int32', 2],
    }),
    Summary: message({ dataPoints: many('SummaryDataPoint', 1) }),
    NumberDataPoint: message({
      attributes: many('KeyValue', 7),
      timeUnixNano: ['fixed64', 3],
      asDouble: ['double', 4],
      asInt: ['sfixed64', 6],
    }),
    HistogramDataPoint: message({
      attributes: many('KeyValue', 9),
      timeUnixNano: ['fixed64', 3],
      count: ['fixed64', 4],
      sum: ['double', 5],
      bucketCounts: many('fixed64', 6),
      explicitBounds: many('double', 7),
    }),
    ExponentialHistogramDataPoint: message({
      attributes: many('KeyValue', 1),
      timeUnixNano: ['fixed64', 3],
      count: ['fixed64', 4],
      sum: ['double', 5],
    }),
    SummaryDataPoint: message({
      attributes: many('KeyValue', 7),
      timeUnixNano: ['fixed64', 3],
      count: ['fixed64', 4],
      sum: ['double', 5],
    }),
    KeyValue: message({ key: ['string', 1], value: ['AnyValue', 2] }),
    AnyValue: message({
      stringValue: ['string', 1],
      boolValue: ['bool', 2],
      intValue: ['int64', 3],
      doubleValue: ['double', 4],
    }),
  },
})
const REQUEST = ROOT.lookupType('Request')

/** @throws OtlpError */
export function readBinaryMetrics(bytes: Uint8Array): OtlpRequest {
  try {
    // Decoded by the schema whose type this is.
    const read = REQUEST.toObject(REQUEST.decode(bytes), { longs: String }) as OtlpRequest
    return { resourceMetrics: [], ...read }
  }
  catch (error) {
    throw new OtlpError(`It cannot be read: ${messageOf(error)}.`)
  }
}

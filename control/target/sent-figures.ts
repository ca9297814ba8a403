/** Takes apart what programs send of a target's own figures: lines, or metrics in the open telemetry protocol. */
import { OtlpError, sentMetrics } from '../../core/formats/otlp'
import { readLines } from '../../core/target/lines'
import type { MetricSample } from '../../core/target/metrics-page'
import { ControlError } from '../errors'
import { unpacked } from '../unpacked'
import { MOST_WAITING, type Letterbox } from './inbox'
import { readBinaryMetrics } from './otlp-binary'

export interface SentFigures {
  bytes: Uint8Array
  /** How it is packed, as `content-encoding` says. */
  packed: string | undefined
  form: 'lines' | 'json' | 'protobuf'
}

/** @returns how many values were taken, and for how many runs they are read now @throws ControlError */
export function takeSent(box: Letterbox, sent: SentFigures, now: number): { taken: number, runs: number } {
  const bytes = unpacked(sent.bytes, sent.packed, unread)
  const samples = sent.form === 'lines' ? linesIn(bytes) : metricsIn(bytes, sent.form)
  const runs = box.put({ samples, at: now })
  if (runs === undefined)
    throw new ControlError(
      'busy',
      429,
      `More than ${MOST_WAITING} values wait to be read.`,
      'Send less often, or fewer at once. Nothing of this was taken.',
    )
  return { taken: samples.length, runs }
}

/** All of them, or none: a program that is told of its mistake sends them again. */
function linesIn(bytes: Uint8Array): MetricSample[] {
  const { samples, faults } = readLines(new TextDecoder().decode(bytes), MOST_WAITING)
  if (samples.length > MOST_WAITING)
    throw unread(`More than ${MOST_WAITING} values came at once.`, 'Send fewer at once. Nothing of this was taken.')
  const [fault] = faults
  if (fault) throw unread(fault.sentence, 'Write each line as “name value”, with its moment behind it if it has one. Nothing of this was taken.')
  return samples
}

function metricsIn(bytes: Uint8Array, form: 'json' | 'protobuf') {
  try {
    return sentMetrics(form === 'json' ? JSON.parse(new TextDecoder().decode(bytes)) : readBinaryMetrics(bytes)).samples
  }
  catch (error) {
    if (error instanceof OtlpError || error instanceof SyntaxError)
      throw unread(`It is no request of the open telemetry protocol for metrics. ${error.message}`, 'Send metrics to it, as JSON or protobuf.')
    throw error
  }
}

const unread = (sentence: string, remedy: string) => new ControlError('sent', 400, sentence, remedy)

/**
 * A run's response times as the published histogram log (V2, compressed): one line per step and 10 s, tagged with the
 * step's name, so that any program that reads the format can read our results, and we theirs. Lines: tag, start (s from
 * the beginning), length (s), largest value (ms), base64 of the compressed histogram. Values are µs of right answers.
 */
import { deflateSync, inflateSync } from 'node:zlib'
import { Histogram } from '../../core/histogram/histogram'
import { fromPublishedV2, toPublishedV2 } from '../../core/histogram/published-encoding'
import type { SeriesSum } from '../../core/merge/series-sum'
import type { RunDocument } from '../../core/run/document'
import { seriesOf } from '../../core/run/series'
import { messageOf } from '../../core/values/thrown'

const COMPRESSED_COOKIE_V2 = 0x1c849304 | 0x10
/** Length of one line's interval, s. */
const INTERVAL_S = 10
/** Larger than any histogram of the layout, uncompressed, bytes. */
const MOST_PAYLOAD_BYTES = 1024 * 1024

export interface LogLine {
  tag: string
  startS: number
  lengthS: number
  histogram: Histogram
}

export function histogramLog(
  document: RunDocument,
  window: (fromS: number, toS: number) => ReadonlyMap<number, SeriesSum>,
  lengthS: number,
  startAt: number,
): string {
  const series = seriesOf(document)
  // A step's name, where it is one journey's alone.
  const tags = series.map(s =>
    series.some(o => o.stepName === s.stepName && o.journeyId !== s.journeyId)
      ? `${s.journeyId}/${s.stepName}`
      : s.stepName,
  )
  const lines: LogLine[] = []
  for (let from = 0; from < lengthS; from += INTERVAL_S) {
    const to = Math.min(lengthS, from + INTERVAL_S)
    const steps = new Map<string, Histogram>()
    for (const [number, sum] of window(from, to)) {
      const tag = tags[number]!
      let h = steps.get(tag)
      if (!h) steps.set(tag, (h = new Histogram()))
      h.add(sum.timings.right)
    }
    for (const [tag, histogram] of steps)
      if (histogram.count > 0) lines.push({ tag, startS: from, lengthS: to - from, histogram })
  }
  return writeHistogramLog(lines, startAt)
}

function writeHistogramLog(lines: readonly LogLine[], startAt: number): string {
  const head = [
    '#[Histogram log format version 1.3]',
    `#[StartTime: ${(startAt / 1000).toFixed(3)} (seconds since epoch), ${new Date(startAt).toISOString()}]`,
    '"StartTimestamp","Interval_Length","Interval_Max","Interval_Compressed_Histogram"',
  ]
  return [
    ...head,
    ...lines.map(
      ({ tag, startS, lengthS, histogram }) =>
        // Commas and blanks would end the tag.
        `Tag=${tag.replace(/[,\s]+/g, '_')},${startS.toFixed(3)},${lengthS.toFixed(3)},${((histogram.maxUs() ?? 0) / 1000).toFixed(3)},${compressed(histogram)}`,
    ),
    '',
  ].join('\n')
}

/** Moment its times count from, ms since 1970; 0 where it does not say. */
export function startOfHistogramLog(text: string): number {
  const told = /^#\[(?:StartTime|BaseTime): ([\d.]+)/m.exec(text)?.[1]
  return told === undefined ? 0 : Number(told) * 1000
}

/** @throws Error naming the line that is not as the format has it */
export function readHistogramLog(text: string): LogLine[] {
  return text.split('\n').flatMap((line, i): LogLine[] => {
    if (line.trim() === '' || line.startsWith('#') || line.startsWith('"')) return []
    const parts = /^(?:Tag=([^,]*),)?([\d.]+),([\d.]+),([\d.]+),([A-Za-z0-9+/=]+)\s*$/.exec(line)
    if (!parts) throw new Error(`histogram log, line ${i + 1}: not start, length, largest value and histogram`)
    try {
      const bytes = Buffer.from(parts[5]!, 'base64')
      const payload = inflateSync(bytes.subarray(8), { maxOutputLength: MOST_PAYLOAD_BYTES })
      return [
        {
          tag: parts[1] ?? '',
          startS: Number(parts[2]),
          lengthS: Number(parts[3]),
          histogram: fromPublishedV2(payload),
        },
      ]
    }
    catch (error) {
      throw new Error(`histogram log, line ${i + 1}: ${messageOf(error)}`, { cause: error })
    }
  })
}

function compressed(histogram: Histogram): string {
  const payload = deflateSync(toPublishedV2(histogram))
  const head = Buffer.alloc(8)
  head.writeInt32BE(COMPRESSED_COOKIE_V2, 0)
  head.writeInt32BE(payload.length, 4)
  return Buffer.concat([head, payload]).toString('base64')
}

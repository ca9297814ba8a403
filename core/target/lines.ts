/**
 * Lines `name value [time]`, as commands write them and programs send them; a name may carry labels, as on a page of
 * metrics: `sockets{state="open"} 12`.
 */
import type { Expression } from '../values/expression'
import { momentOf, numberOf } from '../values/written'
import { labelsAt, PageError, type MetricSample } from './metrics-page'

/** Lines that are none: what follows so many is not read. */
export const MOST_FAULTY = 1000

export interface ReadLines {
  samples: MetricSample[]
  /** Lines that are none, counted from 1. */
  faults: { line: number, sentence: string }[]
}

const NAME = /^[^\s{}"]+/

/**
 * A line that begins with # is a remark. One that cannot be read costs none of the others, but {@link MOST_FAULTY}.
 * @param most reading ends with the first sample beyond so many
 */
export function readLines(text: string, most = Number.POSITIVE_INFINITY): ReadLines {
  const read: ReadLines = { samples: [], faults: [] }
  for (const [at, written] of text.split('\n').entries()) {
    if (read.faults.length === MOST_FAULTY || read.samples.length > most) break
    const line = written.trim()
    if (line === '' || line.startsWith('#')) continue
    try {
      read.samples.push(sampleIn(line, at + 1))
    }
    catch (error) {
      if (!(error instanceof PageError)) throw error
      read.faults.push({ line: at + 1, sentence: error.message })
    }
  }
  return read
}

/** @throws PageError */
function sampleIn(line: string, number: number): MetricSample {
  const name = NAME.exec(line)?.[0]
  if (name === undefined) throw new PageError(`Line ${number} begins with no name.`)
  const { labels, at } = labelsAt(line, name.length, line.length, number)
  const [value = '', time, ...rest] = line.slice(at).trim().split(/\s+/)
  if (value === '' || rest.length > 0)
    throw new PageError(`Line ${number}: after the name come a value and at most one moment.`)
  const n = numberOf(value)
  if (n === undefined) throw new PageError(`Line ${number}: “${value.slice(0, 40)}” is no number.`)
  if (time === undefined) return { name, labels, value: n }
  const atMs = momentOf(time)
  if (atMs === undefined)
    throw new PageError(`Line ${number}: “${time.slice(0, 40)}” is no moment: s or ms since 1970, or ISO 8601.`)
  return { name, labels, value: n, atMs }
}

/** Samples of one moment: all that carry the same stamp, or those that carry none. */
export interface SamplesAtMoment {
  atMs?: number
  samples: MetricSample[]
}

/** By their stamps, the oldest first. Of one thing told twice at one moment the later counts. */
export function byMoment(samples: readonly MetricSample[]): SamplesAtMoment[] {
  const moments = new Map<number | undefined, Map<string, MetricSample>>()
  for (const sample of samples) {
    const moment = moments.get(sample.atMs) ?? new Map<string, MetricSample>()
    moments.set(sample.atMs, moment)
    moment.set(identityOf(sample), sample)
  }
  return [...moments]
    .sort(([a = Number.POSITIVE_INFINITY], [b = Number.POSITIVE_INFINITY]) => a - b)
    .map(([atMs, own]) => ({ ...(atMs === undefined ? {} : { atMs }), samples: [...own.values()] }))
}

/** Name and labels, whatever their order. */
export const identityOf = ({ name, labels }: Pick<MetricSample, 'name' | 'labels'>): string =>
  `${name}\n${Object.keys(labels).sort().map(l => `${l}=${labels[l]}`).join('\n')}`

/**
 * What a pattern finds in a text: each match is a sample, whose value is the first group without a name; a pattern
 * without such a group counts its matches. Groups with names are labels. Of equal labels in a whole text values are
 * added up; in what came since the last time the last one stands, and matches that are counted came in addition.
 */
export function samplesOfPattern(text: string, pattern: Expression, cameSince = false): MetricSample[] {
  const found = new Map<string, MetricSample>()
  for (const { value, named, hasValue } of pattern.all(text)) {
    const own = hasValue ? numberOf(value) : 1
    if (own === undefined) continue
    const sample: MetricSample = { name: '', labels: named, value: own, ...(cameSince && !hasValue ? { isGrowth: true } : {}) }
    const key = identityOf(sample)
    if (!cameSince || !hasValue) sample.value += found.get(key)?.value ?? 0
    found.set(key, sample)
  }
  return [...found.values()]
}

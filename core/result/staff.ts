/**
 * What a staff of a run's charts draws: statistics of a measure, of what is chosen, split by one dimension. As people
 * write it: `p95, answered in, Enrol, by location, limit 1.8 s`.
 */
import { printDuration, readDuration } from '../load/phrase'
import type { Timing } from '../merge/series-sum'
import { DIMENSIONS, type Dimension, type SliceWish } from './slices'
import { entriesIn, keysIn } from '../values/written-out'

/** Times that are measured, each with the histogram that holds it. */
export const TIMED = {
  answered: 'right',
  failedIn: 'failed',
  fromDue: 'intended',
  firstByte: 'firstByte',
  connect: 'connect',
  lookup: 'lookup',
  tls: 'tls',
  inside: 'inside',
  onTheWay: 'onTheWay',
} as const satisfies Record<string, Timing>
export type TimedMeasure = keyof typeof TIMED

/** Counted per second. */
const COUNTED = ['sent', 'right', 'failed', 'passes', 'received', 'bodiesSent'] as const
export const MEASURES = [...keysIn(TIMED), ...COUNTED, 'users'] as const
export type StaffMeasure = (typeof MEASURES)[number]

/** Shares of a distribution. */
export const PERCENTILES = { p50: 0.5, p90: 0.9, p95: 0.95, p99: 0.99, p999: 0.999 } as const
export const STATISTICS = [
  ...keysIn(PERCENTILES),
  'smallest',
  'largest',
  'mean',
  'perSecond',
  'share',
  'present',
] as const
export type StaffStatistic = (typeof STATISTICS)[number]

/** Beside the dimensions, failures are told apart by their kind. */
export const SPLITS = [...DIMENSIONS, 'kind'] as const
export type StaffSplit = (typeof SPLITS)[number]

export interface StaffWish {
  /** Several make a line each, and are not split. */
  statistics: StaffStatistic[]
  measure: StaffMeasure
  only?: SliceWish['only']
  split?: StaffSplit
}

/** A staff, with the limit that is drawn on it: ms, a share, a number per second, or users. */
export interface Staff extends StaffWish {
  limit?: number
}

export const STATISTIC_WORDS: Record<StaffStatistic, string> = {
  p50: 'p50',
  p90: 'p90',
  p95: 'p95',
  p99: 'p99',
  p999: 'p99.9',
  smallest: 'smallest',
  largest: 'largest',
  mean: 'mean',
  perSecond: 'per second',
  share: 'share',
  present: 'present',
}
export const MEASURE_WORDS: Record<StaffMeasure, string> = {
  answered: 'answered in',
  failedIn: 'failed in',
  fromDue: 'from its due time',
  firstByte: 'first byte',
  connect: 'connect',
  lookup: 'name lookup',
  tls: 'TLS',
  inside: 'inside',
  onTheWay: 'on the way',
  sent: 'sent',
  right: 'right',
  failed: 'failed',
  passes: 'passes begun',
  received: 'bodies received',
  bodiesSent: 'bodies sent',
  users: 'users',
}

export function isTimedMeasure(measure: StaffMeasure): measure is TimedMeasure {
  return measure in TIMED
}

/** Statistics a measure has. */
export function statisticsOf(measure: StaffMeasure): readonly StaffStatistic[] {
  if (measure === 'users') return ['present']
  if (measure === 'failed') return ['perSecond', 'share']
  if (!isTimedMeasure(measure)) return ['perSecond']
  return [...keysIn(PERCENTILES), 'smallest', 'largest', 'mean']
}

/** What users are told apart by: only their generators know more. */
const OF_USERS: readonly Dimension[] = ['group', 'journey', 'location']

export function splitsOf({ statistics, measure }: Pick<StaffWish, 'statistics' | 'measure'>): readonly StaffSplit[] {
  if (statistics.length > 1) return []
  if (measure === 'users') return OF_USERS
  return measure === 'failed' && statistics[0] === 'perSecond' ? SPLITS : DIMENSIONS
}

/** What is wrong with a staff, with what would be right; undefined: nothing. */
export function staffProblem({ statistics, measure, only = {}, split }: StaffWish): string | undefined {
  const can = statisticsOf(measure)
  const wrong = statistics.find(s => !can.includes(s))
  if (statistics.length === 0 || wrong) {
    const none = wrong ? ` and no “${STATISTIC_WORDS[wrong]}”` : ''
    return `“${MEASURE_WORDS[measure]}” has ${can.map(s => STATISTIC_WORDS[s]).join(', ')}${none}.`
  }
  if (split && statistics.length > 1) return 'Several statistics are not split: choose one, or leave out “by”.'
  const splits = splitsOf({ statistics, measure })
  if (split && !splits.includes(split))
    return `“${MEASURE_WORDS[measure]}” is not told apart by ${split}: by ${splits.join(', ')}.`
  const unknown = measure === 'users' && DIMENSIONS.find(d => !OF_USERS.includes(d) && (only[d]?.length ?? 0) > 0)
  return unknown ? `Users are not known by ${unknown}: choose groups, journeys or locations.` : undefined
}

/** What values of the dimensions are called. */
export type NamedValues = Readonly<Record<Dimension, readonly { value: string, label: string }[]>>

/** The same as {@link readStaff} reads. */
export function printStaff(staff: Staff, named: NamedValues): string {
  const { statistics, measure, only = {}, split, limit } = staff
  return [
    ...statistics.map(s => STATISTIC_WORDS[s]),
    MEASURE_WORDS[measure],
    ...DIMENSIONS.flatMap(d =>
      (only[d] ?? []).map(value => quoted(named[d].find(v => v.value === value)?.label ?? value))),
    ...(split ? [`by ${split}`] : []),
    ...(limit === undefined ? [] : [`limit ${printLimit(staff, limit)}`]),
  ].join(', ')
}

const EXAMPLE = 'Write for example “p95, answered in, by location”.'
/** The words of a table, as they are read: without regard to capitals. */
const byWord = <T extends string>(words: Record<T, string>) =>
  new Map(entriesIn(words).map(([id, word]) => [word.toLowerCase(), id]))
const STATISTIC_BY_WORD = byWord(STATISTIC_WORDS)
const MEASURE_BY_WORD = byWord(MEASURE_WORDS)

/** @returns the staff, or what cannot be understood and what could */
export function readStaff(text: string, named: NamedValues): Staff | string {
  const statistics: StaffStatistic[] = []
  const only: NonNullable<StaffWish['only']> = {}
  let measure: StaffMeasure | undefined
  let split: StaffSplit | undefined
  let limit: string | undefined
  for (const { words, isQuoted } of partsOf(text)) {
    const word = words.toLowerCase()
    const statistic = isQuoted ? undefined : STATISTIC_BY_WORD.get(word)
    const asMeasure = isQuoted ? undefined : MEASURE_BY_WORD.get(word)
    const by = isQuoted ? undefined : SPLITS.find(s => word === `by ${s}`)
    if (statistic) statistics.push(statistic)
    else if (asMeasure && measure) return `Of one measure: “${MEASURE_WORDS[measure]}” or “${words}”.`
    else if (asMeasure) measure = asMeasure
    else if (by) split = by
    else if (!isQuoted && word.startsWith('limit ')) limit = words.slice('limit '.length)
    else {
      const found = namedBy(word, named)
      if (!found) return `“${words}” is no statistic, no measure, and nothing of this run by name. ${EXAMPLE}`
      only[found.d] = [...(only[found.d] ?? []), found.v.value]
    }
  }
  measure ??= measureOf(statistics)
  if (measure === undefined) return EXAMPLE
  if (statistics.length === 0) statistics.push(usualStatistic(measure))
  const staff: Staff = {
    statistics: [...new Set(statistics)],
    measure,
    ...(Object.keys(only).length > 0 ? { only } : {}),
    ...(split ? { split } : {}),
  }
  const problem = staffProblem(staff)
  if (problem) return problem
  if (limit === undefined) return staff
  const read = readLimit(staff, limit)
  return typeof read === 'string' ? read : { ...staff, limit: read }
}

export function usualStatistic(measure: StaffMeasure): StaffStatistic {
  return isTimedMeasure(measure) ? 'p95' : statisticsOf(measure)[0]!
}

/** The first dimension that has something of that name. */
function namedBy(word: string, named: NamedValues): { d: Dimension, v: { value: string } } | undefined {
  for (const d of DIMENSIONS) {
    const v = named[d].find(({ label, value }) => [label, value].some(name => name.toLowerCase() === word))
    if (v) return { d, v }
  }
  return undefined
}

/** What a statistic alone is of. */
function measureOf([statistic]: readonly StaffStatistic[]): StaffMeasure | undefined {
  if (statistic === undefined) return undefined
  if (statistic === 'present') return 'users'
  if (statistic === 'share') return 'failed'
  return statistic === 'perSecond' ? 'sent' : 'answered'
}

/** @param text as written @returns in the staff's own unit, or what is wrong with it */
export function readLimit({ statistics, measure }: StaffWish, text: string): number | string {
  const typed = text.trim().replace(',', '.')
  if (isTimedMeasure(measure)) {
    const ms = readDuration(typed)
    return ms === undefined || ms <= 0 ? `“${text}” is no time: write a limit such as 1.8 s.` : ms
  }
  const n = Number(typed.replace(/\s*(%|\/\s*s|users)$/, ''))
  if (typed === '' || !Number.isFinite(n) || n < 0) return `“${text}” is no number: write a limit such as 100.`
  return statistics[0] === 'share' ? n / 100 : n
}

export function printLimit({ statistics, measure }: StaffWish, limit: number): string {
  if (isTimedMeasure(measure)) return limit < 1000 ? `${limit} ms` : printDuration(limit)
  return statistics[0] === 'share' ? `${Number((limit * 100).toPrecision(12))} %` : String(limit)
}

/** A name that holds what parts names, or is a word of ours, stands between quotation marks. */
function quoted(name: string): string {
  const word = name.toLowerCase()
  const isOurs = STATISTIC_BY_WORD.has(word) || MEASURE_BY_WORD.has(word) || /^(?:by|limit|target) /.test(word)
  return isOurs || /[,;"·]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name
}

/** Parts between commas or points in the middle; what stands between quotation marks is one. */
function partsOf(text: string): { words: string, isQuoted: boolean }[] {
  return Array.from(text.matchAll(/\s*"((?:[^"]|"")*)"\s*|[^,·]+/g), ([whole, name]) =>
    name === undefined ? { words: whole.trim(), isQuoted: false } : { words: name.replaceAll('""', '"'), isQuoted: true },
  ).filter(({ words }) => words !== '')
}

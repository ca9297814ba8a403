/** How a file of results is read: its form, and where in a row each thing stands. What is kept as a template. */

/** `histogramLog`: the published log of High Dynamic Range histograms; `accessLog`: the common or combined form. */
export const RESULT_FORMS = ['csv', 'jsonLines', 'histogramLog', 'har', 'accessLog'] as const
export type ResultForm = (typeof RESULT_FORMS)[number]

export const FORM_WORDS: Record<ResultForm, string> = {
  csv: 'CSV',
  jsonLines: 'JSON Lines',
  histogramLog: 'histogram log',
  har: 'HAR 1.2',
  accessLog: 'access log',
}

/** What a column may hold. `users`: how many were there; `user`: who sent it; `count`: for how many the row stands. */
export const RESULT_FIELDS = [
  'time',
  'step',
  'duration',
  'ok',
  'status',
  'bytes',
  'sent',
  'users',
  'user',
  'place',
  'message',
  'count',
] as const
export type ResultField = (typeof RESULT_FIELDS)[number]

export const FIELD_WORDS: Record<ResultField, string> = {
  time: 'Time',
  step: 'Step',
  duration: 'Duration',
  ok: 'Right or wrong',
  status: 'Status',
  bytes: 'Bytes received',
  sent: 'Bytes sent',
  users: 'Users there',
  user: 'User',
  place: 'Location',
  message: 'Message',
  count: 'How many it stands for',
}

/** `iso`: a date and a time as ISO 8601 and RFC 3339 write them. */
export const TIME_UNITS = ['iso', 's', 'ms', 'us', 'ns'] as const
export type TimeUnit = (typeof TIME_UNITS)[number]
export const DURATION_UNITS = ['s', 'ms', 'us', 'ns'] as const
export type DurationUnit = (typeof DURATION_UNITS)[number]

export interface FileReading {
  form: ResultForm
  /** Of a CSV. */
  separator?: string
  /** Whether its first row has names; without them columns are called `column1` and so on. */
  header?: boolean
  /** Name of the column or key that holds each thing. */
  columns: Partial<Record<ResultField, string>>
  timeUnit?: TimeUnit
  durationUnit?: DurationUnit
  /** What the time is of. */
  timeIs?: 'start' | 'end'
  /** What is written where it went right; left out: true, ok, yes, 1, right, success, pass. */
  right?: string
  /** Of rows that name no step; left out: the file's own name. */
  step?: string
}

const PER_MS: Record<DurationUnit, number> = { s: 1000, ms: 1, us: 1e-3, ns: 1e-6 }

/** @returns ms; NaN where it is no number */
export function durationMs(written: string, unit: DurationUnit): number {
  return written.trim() === '' ? Number.NaN : Number(written) * PER_MS[unit]
}

/** @returns ms since 1970, or since whatever the file's clock begins at; NaN where it is no moment */
export function momentMs(written: string, unit: TimeUnit): number {
  if (unit !== 'iso') return durationMs(written, unit)
  // A date with a blank between it and the time is as common as the T.
  return Date.parse(written.trim().replace(/^(\d{4}-\d\d-\d\d) (\d\d:)/, '$1T$2'))
}

/** Moments before this, ms since 1970, are of a clock that begins with the test: the year 1980. */
const OWN_CLOCK_MS = 315_532_800_000

export const isOwnClock = (ms: number): boolean => ms < OWN_CLOCK_MS

/** What a file of results looks like: its form, and which column holds what, by names and by values. */
import Papa from 'papaparse'
import { recogniseHeader, recogniseSeparator } from '../formats/csv-recognition'
import { readAccessLine } from './access-log'
import {
  momentMs,
  RESULT_FIELDS,
  type DurationUnit,
  type FileReading,
  type ResultField,
  type ResultForm,
  type TimeUnit,
} from './reading'
import { isObject, memberOf, type Untyped } from '../values/untyped'

/** What was found in the beginning of a file. */
export interface Recognised {
  reading: FileReading
  /** Names of the columns, or keys of the first lines. */
  columns: string[]
  /** The first rows, by column. */
  rows: string[][]
}

/** Words that names of columns consist of, the surest first. Common practice, no source. */
const NAMES: readonly [ResultField, RegExp][] = [
  ['time', /^(time_?stamp|time|start(ed)?(_?(at|time))?|began(_?at)?|epoch|date(_?time)?|when|at|end(ed)?(_?(at|time))?|ts)(_?(s|sec|ms|us|ns))?$/],
  ['duration', /^(duration|elapsed|response_?time|latency|took|rt|time_?taken|whole|mean|average|avg)(_?(s|sec|seconds|ms|millis|us|micros|ns|nanos))?$/],
  ['step', /^(step|label|name|request|transaction|operation|endpoint|url|path)$/],
  ['ok', /^(ok|success|successful|right|passed?|result|outcome)$/],
  ['status', /^(status(_?code)?|response_?code|code|http_?status)$/],
  ['bytes', /^(bytes(_?(in|received))?|size|received(_?bytes)?|response_?(size|bytes))$/],
  ['sent', /^(bytes_?(out|sent)|sent(_?bytes)?|request_?(size|bytes))$/],
  ['users', /^(users|active(_?users)?|concurrency)$/],
  ['user', /^(user(_?(id|name))?|client)$/],
  ['place', /^(place|location|region|site|host_?name|generator|machine|source)$/],
  ['message', /^(message|error|failure|reason|problem)$/],
  ['count', /^(count|requests|samples|hits|n)$/],
]

/** @param text the beginning of the file; its last line may be cut off */
export function recognise(text: string): Recognised {
  const form = formOf(text)
  switch (form) {
    case 'csv':
      return csv(text)
    case 'jsonLines':
      return jsonLines(text)
    default:
      return { reading: { form, columns: {} }, columns: [], rows: firstLines(text, 8).map(l => [l.slice(0, 300)]) }
  }
}

function formOf(text: string): ResultForm {
  const [first = ''] = firstLines(text, 1)
  if (/^\s*\{\s*"log"\s*:/.test(text)) return 'har'
  if (first.startsWith('#[') || /^(Tag=[^,]*,)?[\d.]+,[\d.]+,[\d.]+,HIST/.test(first)) return 'histogramLog'
  if (/^\s*\{/.test(first)) return 'jsonLines'
  if (typeof readAccessLine(first) !== 'string') return 'accessLog'
  return 'csv'
}

function firstLines(text: string, most: number): string[] {
  return text
    .slice(0, 64 * 1024)
    .split(/\r?\n/)
    .filter(l => l.trim() !== '')
    .slice(0, most)
}

function csv(text: string): Recognised {
  const separator = recogniseSeparator(text)
  const whole = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { delimiter: separator, skipEmptyLines: true, preview: 60 }).data
  const header = recogniseHeader(whole)
  const columns = header ? (whole[0] ?? []).map(c => c.trim()) : (whole[0] ?? []).map((_, i) => `column${i + 1}`)
  // The last row may have been cut off.
  const rows = whole.slice(header ? 1 : 0, whole.length > 2 ? -1 : undefined)
  const reading = byColumns({ form: 'csv', separator, header, columns: {} }, columns, rows)
  return { reading, columns, rows: rows.slice(0, 8) }
}

function jsonLines(text: string): Recognised {
  const objects = firstLines(text, 60).flatMap((line) => {
    try {
      const one: unknown = JSON.parse(line)
      return isObject(one) ? [one] : []
    }
    catch {
      return []
    }
  })
  const columns = [...new Set(objects.flatMap(o => columnsOf(o)))]
  const cell = (of: Untyped, column: string) => written(column.split('.').reduce<unknown>(memberOf, of))
  const rows = objects.map(o => columns.map(c => cell(o, c)))
  const reading = byColumns({ form: 'jsonLines', columns: {} }, columns, rows)
  // Commands write when it ended.
  const isOfCommand = ['step', 'duration', 'ok', 'time'].every(c => columns.includes(c))
  return { reading: isOfCommand ? { ...reading, timeIs: 'end' } : reading, columns, rows: rows.slice(0, 8) }
}

/** Keys of an object, one level down with a dot between. */
function columnsOf(of: Untyped): string[] {
  return Object.entries(of).flatMap(([key, value]) =>
    isObject(value) ? Object.keys(value).map(k => `${key}.${k}`) : [key])
}

const written = (value: unknown): string =>
  typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : ''

function byColumns(
  reading: FileReading,
  columns: readonly string[],
  rows: readonly (readonly string[])[],
): FileReading {
  const found: FileReading['columns'] = {}
  const taken = new Set<number>()
  const valuesOf = (at: number) => rows.map(r => r[at] ?? '').filter(v => v !== '')
  const plain = columns.map(c => c.trim().replace(/([a-z])([A-Z])/g, '$1_$2').toLowerCase().replace(/[\s.()[\]-]+/g, '_').replace(/^_+|_+$/g, ''))
  for (const [field, names] of NAMES) {
    const at = plain.findIndex((c, i) => !taken.has(i) && names.test(c) && fits(field, valuesOf(i)))
    if (at < 0) continue
    taken.add(at)
    found[field] = columns[at]
  }
  // Without names: the first column that holds moments, and the first after it that holds numbers.
  if (found.time === undefined) {
    const at = columns.findIndex((_, i) => !taken.has(i) && valuesOf(i).length > 0 && valuesOf(i).every(isMoment))
    if (at >= 0) {
      taken.add(at)
      found.time = columns[at]
    }
  }
  if (found.duration === undefined && !reading.header && reading.form === 'csv') {
    const at = columns.findIndex((_, i) => !taken.has(i) && valuesOf(i).length > 0 && valuesOf(i).every(isNumber))
    if (at >= 0) found.duration = columns[at]
  }
  // One for how many it stands, with no times of single answers: an average. A count alone is none.
  if (found.count !== undefined && found.duration === undefined) delete found.count
  const at = (field: ResultField) => columns.indexOf(found[field] ?? '')
  const times = at('time') < 0 ? [] : valuesOf(at('time'))
  const durations = at('duration') < 0 ? [] : valuesOf(at('duration'))
  const name = plain[at('time')] ?? ''
  return {
    ...reading,
    columns: Object.fromEntries(RESULT_FIELDS.flatMap(f => (found[f] === undefined ? [] : [[f, found[f]]]))),
    timeUnit: timeUnitOf(times, name),
    timeIs: /end/.test(name) ? 'end' : 'start',
    durationUnit: durationUnitOf(durations, plain[at('duration')] ?? ''),
  }
}

const isNumber = (v: string) => v.trim() !== '' && Number.isFinite(Number(v))
const isMoment = (v: string) => (isNumber(v) ? Number(v) > 1e8 : /^\d{4}-\d\d-\d\d/.test(v) && Number.isFinite(momentMs(v, 'iso')))

/** A row or two may say nothing that can be read. */
const MOST = 0.8

function fits(field: ResultField, values: readonly string[]): boolean {
  if (values.length === 0) return false
  const most = (is: (v: string) => boolean) => values.filter(is).length >= MOST * values.length
  switch (field) {
    case 'time':
      return most(v => isNumber(v) || isMoment(v))
    case 'duration':
    case 'bytes':
    case 'sent':
    case 'users':
    case 'count':
      return most(isNumber)
    // A name or an address is no number; a status is.
    case 'step':
      return values.some(v => !isNumber(v))
    case 'ok':
      return new Set(values).size <= 8
    default:
      return true
  }
}

const UNIT_AT_END = /_(s|sec|seconds|ms|millis|us|micros|ns|nanos)$/
const UNITS: Record<string, DurationUnit> = { s: 's', sec: 's', seconds: 's', ms: 'ms', millis: 'ms', us: 'us', micros: 'us', ns: 'ns', nanos: 'ns' }

/** By the name; else by how many digits moments of our days have in it. */
function timeUnitOf(values: readonly string[], name: string): TimeUnit {
  const numbers = values.filter(isNumber)
  const [first = ''] = numbers
  if (numbers.length < MOST * values.length) return 'iso'
  const n = Number(first)
  if (n > 1e17) return 'ns'
  if (n > 1e14) return 'us'
  if (n > 1e11) return 'ms'
  if (n > 1e8) return 's'
  return UNITS[UNIT_AT_END.exec(name)?.[1] ?? ''] ?? (values.some(v => v.includes('.')) ? 's' : 'ms')
}

/** By the name; else seconds where there are fractions below a minute, and milliseconds where not. */
function durationUnitOf(values: readonly string[], name: string): DurationUnit {
  const named = UNITS[UNIT_AT_END.exec(name)?.[1] ?? '']
  if (named) return named
  const numbers = values.filter(isNumber).map(Number)
  return numbers.some(n => !Number.isInteger(n)) && numbers.every(n => n < 60) ? 's' : 'ms'
}

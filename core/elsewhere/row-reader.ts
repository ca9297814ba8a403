/** Makes samples of rows, each thing looked up where a reading says it stands. */
import type { ClaimedSample } from './sample'
import { durationMs, momentMs, RESULT_FIELDS, type FileReading, type ResultField } from './reading'
import { memberOf } from '../values/untyped'

/** What a row holds at a field's place; undefined: there is no such place. */
type Cells = (field: ResultField) => string | undefined

const RIGHT = /^(true|ok|yes|y|1|right|success|successful|pass|passed)$/i

/** No moment that was measured lies later: the year 2100, ms since 1970. */
const LATEST_MS = 4_102_444_800_000

/** A row that stands for many: its mean says nothing of single answers. */
export interface Average {
  step: string
  atMs: number
  meanMs: number
  count: number
}

/** What a row is: a sample, an average of several, or a sentence that says what is wrong with it. */
export type ReadRow = ClaimedSample | { average: Average } | string

/**
 * @param reading of which time, and where there is one a duration, are named @param fallback name of the step where
 * none is told
 */
export function rowReader(reading: FileReading, fallback: string): (cells: Cells) => ReadRow {
  const { timeUnit = 'ms', durationUnit = 'ms', timeIs = 'start', columns } = reading
  const isRight = reading.right === undefined ? (t: string) => RIGHT.test(t) : (t: string) => t === reading.right
  const step0 = reading.step ?? fallback
  const hasOk = columns.ok !== undefined
  const hasCount = columns.count !== undefined
  return (cells) => {
    const time = cells('time')
    if (time === undefined) return 'it has no time'
    const at = momentMs(time, timeUnit)
    if (!Number.isFinite(at)) return `“${short(time)}” is no time in ${timeUnit === 'iso' ? 'ISO 8601' : timeUnit}`
    if (at > LATEST_MS) return `“${short(time)}” in ${timeUnit} lies after the year 2100: look at the unit of time`
    const took = cells('duration')
    const lasted = took === undefined || took.trim() === '' ? undefined : durationMs(took, durationUnit)
    if (lasted !== undefined && !(lasted >= 0)) return `“${short(took ?? '')}” is no duration in ${durationUnit}`
    const status = statusIn(cells('status'))
    if (status === undefined) return `“${short(cells('status') ?? '')}” is no status`
    const step = cells('step')?.trim() || step0
    if (hasCount) {
      const count = Number(cells('count'))
      if (!Number.isInteger(count) || count < 0) return `“${short(cells('count') ?? '')}” is no number of requests`
      if (count !== 1) return { average: { step, atMs: at, meanMs: lasted ?? Number.NaN, count } }
    }
    const written = cells('ok')?.trim()
    if (hasOk && (written === undefined || written === '')) return 'it does not say whether it was right'
    return {
      step,
      beganMs: timeIs === 'end' ? at - (lasted ?? 0) : at,
      durationMs: lasted,
      ok: hasOk ? isRight(written ?? '') : status === 0 || status < 400,
      status,
      bytes: bytesIn(cells('bytes')),
      sent: bytesIn(cells('sent')),
      place: cells('place')?.trim() ?? '',
      user: cells('user')?.trim() ?? '',
      users: usersIn(cells('users')),
      message: cells('message')?.trim().slice(0, 2000) ?? '',
    }
  }
}

/** Cells of a row of a CSV. @param header names of its columns @throws Error naming a column that is not there */
export function cellsOfRow(reading: FileReading, header: readonly string[]): (row: readonly string[]) => Cells {
  const at = new Map<ResultField, number>()
  for (const field of RESULT_FIELDS) {
    const name = reading.columns[field]
    if (name === undefined) continue
    const index = header.indexOf(name)
    if (index < 0) throw new Error(`There is no column “${name}”: it has ${header.slice(0, 12).join(', ')}.`)
    at.set(field, index)
  }
  let current: readonly string[] = []
  const cells: Cells = (field) => {
    const index = at.get(field)
    return index === undefined ? undefined : current[index]
  }
  return (row) => {
    current = row
    return cells
  }
}

/** Cells of an object; what lies further inside is named with dots between. */
export function cellsOfObject({ columns }: FileReading): (of: object) => Cells {
  const paths = new Map(
    RESULT_FIELDS.flatMap(f => (columns[f] === undefined ? [] : [[f, columns[f].split('.')] as const])),
  )
  let current: object = {}
  const cells: Cells = (field) => {
    const path = paths.get(field)
    if (!path) return undefined
    let value: unknown = current
    for (const key of path)
      value = memberOf(value, key)
    return typeof value === 'string' || typeof value === 'number' || typeof value === 'boolean' ? String(value) : undefined
  }
  return (of) => {
    current = of
    return cells
  }
}

/** @returns 0 where none is told; undefined where it is none */
function statusIn(written: string | undefined): number | undefined {
  if (written === undefined || written.trim() === '' || written.trim() === '-') return 0
  const status = Number(written)
  // Programs that got no answer write 0, or a word of their own.
  if (!Number.isInteger(status)) return /^[a-z]/i.test(written.trim()) ? 0 : undefined
  return status >= 100 && status <= 999 ? status : 0
}

function bytesIn(written: string | undefined): number {
  const n = Number(written ?? 0)
  return Number.isFinite(n) && n > 0 ? Math.round(n) : 0
}

function usersIn(written: string | undefined): number {
  if (written === undefined || written.trim() === '') return -1
  const n = Number(written)
  return Number.isFinite(n) && n >= 0 ? Math.round(n) : -1
}

function short(text: string): string {
  return text.length > 40 ? `${text.slice(0, 40)}…` : text
}

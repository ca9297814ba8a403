/**
 * Samples of a HAR 1.2 capture (the W3C Web Performance group's HTTP Archive draft): when each entry began, and how
 * long all of it took. Where Vornak wrote it, steps, users and what failed stand in fields of its own.
 */
import { stepOfRequest } from './access-log'
import type { ClaimedSample } from './sample'

/** @returns what is wrong with each, in words, where one is no entry @throws Error when it is no capture */
export function samplesOfHar(text: string): (ClaimedSample | string)[] {
  let parsed: unknown
  try {
    parsed = JSON.parse(text)
  }
  catch (error) {
    throw new Error(`It is not JSON: ${(error as Error).message}.`, { cause: error })
  }
  const entries = (parsed as { log?: { entries?: unknown } } | null)?.log?.entries
  if (!Array.isArray(entries)) throw new Error('It is JSON, but no HAR: it has no log with entries.')
  return entries.map(sampleOf)
}

function sampleOf(raw: unknown): ClaimedSample | string {
  const entry = record(raw)
  const [request, response] = [record(entry.request), record(entry.response)]
  const beganMs = Date.parse(text(entry.startedDateTime))
  if (!Number.isFinite(beganMs)) return 'its startedDateTime is no moment'
  const took = entry.time
  if (typeof took !== 'number' || !(took >= 0)) return 'its time is no number of milliseconds'
  const status = number(response.status)
  const url = text(request.url)
  const failure = text(entry._failure)
  return {
    step: text(entry._step) || stepOfRequest(text(request.method), URL.canParse(url) ? new URL(url).pathname : url),
    beganMs,
    durationMs: took,
    ok: failure === '' && status >= 100 && status < 400,
    status: status >= 100 && status <= 999 ? status : 0,
    bytes: Math.max(0, number(record(response.content).size) || number(response.bodySize)),
    sent: Math.max(0, number(request.bodySize)),
    place: text(entry._machine).replace(/-\d+$/, ''),
    user: entry._user === undefined ? '' : `${text(entry._group)}${number(entry._user)}`,
    users: -1,
    message: failure === '' ? text(response._error) : text(entry.comment),
  }
}

function record(value: unknown): Record<string, unknown> {
  return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {}
}
const text = (value: unknown): string => (typeof value === 'string' ? value : '')
const number = (value: unknown): number => (typeof value === 'number' && Number.isFinite(value) ? value : 0)

/**
 * Samples of a HAR 1.2 capture (the W3C Web Performance group's HTTP Archive draft): when each entry began, and how
 * long all of it took. Where Vornak wrote it, steps, users and what failed stand in fields of its own.
 */
import { stepOfRequest } from './access-log'
import type { ClaimedSample } from './sample'
import { messageOf } from '../values/thrown'
import { numberOf, objectOf, textOf } from '../values/untyped'

/** @returns what is wrong with each, in words, where one is no entry @throws Error when it is no capture */
export function samplesOfHar(text: string): (ClaimedSample | string)[] {
  let parsed: unknown
  try {
    parsed = JSON.parse(text)
  }
  catch (error) {
    throw new Error(`It is not JSON: ${messageOf(error)}.`, { cause: error })
  }
  const entries = objectOf(objectOf(parsed).log).entries
  if (!Array.isArray(entries)) throw new Error('It is JSON, but no HAR: it has no log with entries.')
  return entries.map(sampleOf)
}

function sampleOf(raw: unknown): ClaimedSample | string {
  const entry = objectOf(raw)
  const [request, response] = [objectOf(entry.request), objectOf(entry.response)]
  const beganMs = Date.parse(textOf(entry.startedDateTime))
  if (!Number.isFinite(beganMs)) return 'its startedDateTime is no moment'
  const took = entry.time
  if (typeof took !== 'number' || !(took >= 0)) return 'its time is no number of milliseconds'
  const status = numberOf(response.status)
  const url = textOf(request.url)
  const failure = textOf(entry._failure)
  return {
    step: textOf(entry._step) || stepOfRequest(textOf(request.method), URL.canParse(url) ? new URL(url).pathname : url),
    beganMs,
    durationMs: took,
    ok: failure === '' && status >= 100 && status < 400,
    status: status >= 100 && status <= 999 ? status : 0,
    bytes: Math.max(0, numberOf(objectOf(response.content).size) || numberOf(response.bodySize)),
    sent: Math.max(0, numberOf(request.bodySize)),
    place: textOf(entry._machine).replace(/-\d+$/, ''),
    user: entry._user === undefined ? '' : `${textOf(entry._group)}${numberOf(entry._user)}`,
    users: -1,
    message: failure === '' ? textOf(response._error) : textOf(entry.comment),
  }
}

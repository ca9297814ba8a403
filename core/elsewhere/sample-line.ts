/** A line as commands write it, and as programs elsewhere send it: one JSON object. docs/command-journeys.md. */
import { isObject } from '../values/untyped'

export interface WrittenSample {
  step: string
  durationMs: number
  ok: boolean
  /** Of the answer, 0 where the command does not say. */
  status: number
  /** Bytes received, and sent. */
  bytes: number
  sent: number
  message: string
  /** When it ended, ms since 1970; undefined: now. */
  atMs: number | undefined
  /** Who sent it; empty: not told. */
  user: string
  /** How many users are there; −1: not told. */
  users: number
}

/** Lines that are none, of what comes at once: each takes as long to refuse as ten to read. */
export const MOST_FAULTY = 10_000
const NOT_READ = `it was not read: ${MOST_FAULTY} lines before it are none`

/**
 * @returns each line that is not blank, counted from 1: the sample it is, or what is wrong with it; what follows
 * {@link MOST_FAULTY} that are none is not read
 */
export function* samplesIn(text: string): Generator<{ line: number, read: WrittenSample | string }> {
  let faulty = 0
  for (const [i, written] of text.split('\n').entries()) {
    if (written.trim() === '') continue
    const read = faulty < MOST_FAULTY ? readSample(written) : NOT_READ
    if (typeof read === 'string') faulty++
    yield { line: i + 1, read }
  }
}

/** @returns what is wrong with the line, in words, when it is no sample */
export function readSample(line: string): WrittenSample | string {
  let raw: unknown
  try {
    raw = JSON.parse(line)
  }
  catch {
    return 'it is not JSON'
  }
  if (!isObject(raw)) return 'it is no JSON object'
  const { step, duration, ok, status, bytes, sent, message, time, user, users } = raw
  if (typeof step !== 'string' || step === '') return '“step” is missing'
  if (typeof duration !== 'number' || !(duration >= 0)) return '“duration” is no number of milliseconds'
  if (typeof ok !== 'boolean') return '“ok” is neither true nor false'
  const atMs = typeof time === 'number' ? time : typeof time === 'string' ? Date.parse(time) : Number.NaN
  return {
    step,
    durationMs: duration,
    ok,
    status: typeof status === 'number' && Number.isInteger(status) && status >= 100 && status <= 999 ? status : 0,
    bytes: whole(bytes),
    sent: whole(sent),
    message: typeof message === 'string' ? message.slice(0, 2000) : '',
    atMs: Number.isFinite(atMs) ? atMs : undefined,
    user: typeof user === 'string' || typeof user === 'number' ? String(user) : '',
    users: typeof users === 'number' && Number.isFinite(users) && users >= 0 ? Math.round(users) : -1,
  }
}

/** A number of bytes; 0 where it is none. */
function whole(n: unknown): number {
  return typeof n === 'number' && n >= 0 && Number.isFinite(n) ? Math.round(n) : 0
}

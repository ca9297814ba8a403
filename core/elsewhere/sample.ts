/** What another program measured of one request, and what can be wrong with a line that should tell of one. */
import type { FailureKind } from '../journey/failure-kinds'

export interface ClaimedSample {
  /** Name its results are filed under. */
  step: string
  /** When it began, ms on the clock of the program that measured it. */
  beganMs: number
  /** Until the whole answer was there, ms; undefined: nobody says. */
  durationMs: number | undefined
  ok: boolean
  /** Of the answer; 0 where none is told. */
  status: number
  /** Bytes of bodies, received and sent. */
  bytes: number
  sent: number
  /** Where it was measured; empty: as the file or the stream has it. */
  place: string
  /** Who sent it; empty: not told. */
  user: string
  /** How many users were there then; −1: not told. */
  users: number
  /** What went wrong, in the words of the program that measured it. */
  message: string
}

/** A line, row or entry that is none, counted from 1. */
export interface SampleFault {
  line: number
  sentence: string
}

/** Told at most; how many there are is counted all the same. */
export const MOST_FAULTS = 20

const BY_WORDS: readonly [RegExp, FailureKind][] = [
  [/time[d -]*out/i, 'timeout'],
  [/refused/i, 'refused'],
  [/\breset\b|hang up|broken pipe|closed (by|before)|econnaborted/i, 'reset'],
  [/enotfound|unknown host|name (not|resolution)|resolve/i, 'nameLookup'],
  [/\b(tls|ssl|certificate)\b/i, 'tls'],
]

/** What kind of failure a sample that was not right tells of: by its status, else by its words. */
export function failureOf({ status, message }: Pick<ClaimedSample, 'status' | 'message'>): FailureKind {
  if (status >= 400) return 'status'
  const found = BY_WORDS.find(([words]) => words.test(message))?.[1]
  return found ?? (status > 0 ? 'expectation' : 'other')
}

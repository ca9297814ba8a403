/**
 * One pass kept whole: when each of its exchanges went out and came back, without headers and bodies. What each
 * exchange said is kept apart, of passes that are kept for that.
 */
import type { FailureKind } from './failure-kinds'

/** Why a pass was kept: something in it failed, it was the slowest for a while, or it was one in n. */
export const PASS_KEPT_FOR = ['failure', 'slowest', 'pass'] as const
export type PassKeptFor = (typeof PASS_KEPT_FOR)[number]

/** Moments from the start of the run, ms. */
export interface PassExchange {
  step: string
  beganAtMs: number
  endedAtMs: number
  /** Of the answer; 0: none came. */
  status: number
  failure?: FailureKind
  /** How long each took, ms; −1: it did not happen, as on a connection that was there. */
  lookupMs: number
  connectMs: number
  tlsMs: number
  /** From the begin; −1: no answer came. */
  firstByteMs: number
  /** Of bodies. */
  bytes: number
  bytesSent: number
  /** What the target says it took inside, ms; left out: it did not say. */
  insideMs?: number
}

export interface PassRecord {
  keptFor: PassKeptFor
  /** The first of its failures. */
  failure?: FailureKind
  group: string
  journeyId: string
  /** Id of the network profile; `direct` adds nothing. */
  network: string
  /** Id of the client; left out: it said nothing. */
  client?: string
  /** Number of the user within its group, and of the pass, from 1. */
  user: number
  pass: number
  beganAtMs: number
  endedAtMs: number
  /** On exchanges, without pauses; those of a bundle that go at once count once. */
  busyMs: number
  /** Its user was cut off, or left, before it was over. */
  cut: boolean
  /** In the order in which they ended. */
  exchanges: PassExchange[]
}

/** Exchanges of one pass that are kept, at most: those that ended first. */
export const MOST_PASS_EXCHANGES = 2000

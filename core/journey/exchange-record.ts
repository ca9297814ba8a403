/**
 * One exchange kept whole: what a try shows, and what exemplars are. Secrets are masked before it leaves the generator.
 */
import type { FailureKind } from './failure-kinds'
import type { Pair } from './journey'

/** Why an exchange was kept. */
export type KeptFor = 'try' | 'rehearsal' | 'failure' | 'slowest' | 'pass'

export interface ExchangeRecord {
  keptFor: KeptFor
  /** Letter of the group; empty in a try. */
  group: string
  journeyId: string
  step: string
  /** Number of the user within its group, and of the pass, from 1. */
  user: number
  pass: number
  /** Moments from the start of the run (of the try or rehearsal), ms. */
  beganAtMs: number
  endedAtMs: number
  request: { method: string, url: string, headers: Pair[], body: string, bodyBytes: number }
  /** Undefined when no answer came. */
  answer: { status: number, headers: Pair[], body: string, bytes: number, whole: boolean } | undefined
  /** Answers that redirected, before the last. */
  hops: { status: number, url: string, to: string }[]
  /** ms; −1 where it did not happen. */
  timings: {
    lookupMs: number
    connectMs: number
    tlsMs: number
    firstByteMs: number
    wholeMs: number
    /** What the target says it took inside; left out: it did not say. */
    insideMs?: number
  }
  failure: FailureKind | undefined
  problem: string
  checks: { name: string, held: boolean, onlyCount: boolean, saw: string }[]
  captured: { name: string, value: string | undefined }[]
}

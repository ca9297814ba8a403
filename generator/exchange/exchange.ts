/**
 * One user's road to the target. The HTTP client sits behind this interface, so that a leaner one may replace it, and so that
 * shaping and capturing can wrap it.
 */
import type { FailureKind, Reach } from '../../core/merge/failure-kinds'

/** A request with everything worked out before the run: nothing is computed on the hot path. */
export interface PreparedRequest {
  origin: string
  path: string
  method: string
  /** Names and values in turn. */
  headers: string[]
  body: string | undefined
  timeoutMs: number
  /** Whether the body of the answer is needed as text, not only its length. */
  wantsBody: boolean
}

/** How an exchange went. One object per user, overwritten by each exchange: read it before the next begins. */
export interface Outcome {
  /** Status of the answer, 0 when none came. */
  status: number
  /** Body of the answer when it was wanted. */
  body: string
  bytes: number
  /** Moments on the monotonic clock, ms. */
  beganAt: number
  firstByteAt: number
  endedAt: number
  /** Time the connection took to be made for this exchange, ms; −1 when one was open already. */
  connectMs: number
  /** Undefined: an answer came whole. */
  failure: FailureKind | undefined
  reach: Reach
  /** What went wrong in the client's words. */
  problem: string
}

export interface Exchange {
  /** Sends a request; exactly one of `onEnd` or nothing (after {@link cut}) follows. One at a time. */
  send(request: PreparedRequest): void
  /** Breaks off what is under way, without an outcome, and closes the connection. */
  cut(): void
  /** Closes the connection. Nothing may be under way. */
  close(): void
}

/** Addresses that may be sent to. */
export interface Allowed {
  /** `host:port` as written in the approval. */
  hosts: ReadonlySet<string>
}

/**
 * One road to the target, for one user. The HTTP client sits behind this interface, so that a leaner one may replace
 * it, and so that shaping can wrap it.
 */
import type { ApprovedRanges } from '../../core/journey/approved-address'
import type { FailureKind, SentState } from '../../core/journey/failure-kinds'

/** A request as it goes out. Built once where nothing in it depends on the moment. */
export interface PreparedRequest {
  origin: string
  path: string
  method: string
  /** Names and values in turn. */
  headers: string[]
  body: string | Buffer | undefined
  timeoutMs: number
  /** Bytes of the answer's body that are kept: for checks, captures and exemplars; 0 keeps none. */
  keepBytes: number
  /** The whole body is needed: an answer longer than what is kept is a failure. */
  needsWhole: boolean
  /** A `host` header of the journey's own: whom the request says it is for. */
  saysHost?: string | undefined
}

/** Bytes of its body as they go out. */
export function bodyBytes({ body }: Pick<PreparedRequest, 'body'>): number {
  return body === undefined ? 0 : Buffer.byteLength(body)
}

/** How long a connection took to be made, ms; −1 where the part did not happen or cannot be told apart. */
export interface Handshake {
  lookupMs: number
  connectMs: number
  tlsMs: number
}

/** How an exchange went. One object per road, overwritten by each exchange: read it before the next begins. */
export interface Outcome {
  /** Status of the answer, 0 when none came. */
  status: number
  /** Names and values in turn, as received. */
  rawHeaders: Buffer[]
  /** What was kept of the body, as received. */
  chunks: Buffer[]
  bytes: number
  /** Moments on the monotonic clock, ms. */
  beganAt: number
  firstByteAt: number
  endedAt: number
  /** Time the connection took to be made for this exchange, ms; −1 when one was open already. */
  connectMs: number
  /** The same in its parts; undefined when one was open already. */
  handshake: Handshake | undefined
  /** Undefined: an answer came whole. */
  failure: FailureKind | undefined
  reach: SentState
  /** The whole answer was read after the time-out, because this generator stood still: what it took is not known. */
  readLate: boolean
  /** What went wrong in the client's words. */
  problem: string
}

export interface Exchange {
  /** Sends a request; exactly one call of `ended`, or nothing (after {@link cut}), follows. One at a time. */
  send(request: PreparedRequest): void
  /** Breaks off what is under way, without an outcome, and closes the connections. */
  cut(): void
  /** Closes the connections. Nothing may be under way. */
  close(): void
}

/** Addresses that may be sent to. */
export interface Allowed extends ApprovedRanges {
  /** `host:port` as written in the approval. */
  hosts: ReadonlySet<string>
}

/** Bodies longer than this are not examined, bytes. */
export const MOST_EXAMINED_BYTES = 8 * 1024 * 1024
/** Answers longer than this are broken off, bytes: an endless answer must not hold a user until its time-out. */
export const MOST_ANSWER_BYTES = 64 * 1024 * 1024

/**
 * Trace context of a request: the header `traceparent`, version 00 (W3C Recommendation, Trace Context, 3.2). Each
 * request begins a trace of its own; whether it is recorded is left to the target (flag `sampled` not set).
 */
import { randomFillSync } from 'node:crypto'

/** Of the id of the trace and of its first part, bytes. */
const TRACE_BYTES = 16
const PARENT_BYTES = 8
/** Random bytes are drawn for this many requests at once. */
const AHEAD = 512
const drawn = Buffer.alloc(AHEAD * (TRACE_BYTES + PARENT_BYTES))
let at = drawn.length

/** An id must not be all noughts: with random bits it will not be, in the life of the universe. */
export function newTraceParent(): string {
  if (at === drawn.length) {
    randomFillSync(drawn)
    at = 0
  }
  const trace = drawn.toString('hex', at, (at += TRACE_BYTES))
  return `00-${trace}-${drawn.toString('hex', at, (at += PARENT_BYTES))}-00`
}

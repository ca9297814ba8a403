/** What a profile makes of a fetch, by formula: to show it, and to hold measurements against. */
import { INITIAL_WINDOW } from './pipe'
import { SEGMENT_BYTES, type NetworkProfile } from './profile'

/** Linux's floor under the retransmission time-out, ms: from memory. */
const LEAST_TIMEOUT_MS = 200
/** First retransmission time-out of a handshake, ms (RFC 6298 §2.1). */
export const HANDSHAKE_TIMEOUT_MS = 1000

/** Round trip a user feels, ms. */
export function feltRttMs(profile: NetworkProfile, realRttMs: number): number {
  return profile.latencyMs + realRttMs
}

/**
 * Expected time until a connection is open, ms: one round trip, TLS 1.3 one more (RFC 8446 §2); a lost handshake packet
 * costs a second, then two …
 */
export function connectMs(profile: NetworkProfile, realRttMs: number, secure: boolean): number {
  const lost = 1 - (1 - profile.loss) ** 2
  // Σ (2^k − 1) s · P(k losses in a row).
  const waiting = lost === 0 ? 0 : (HANDSHAKE_TIMEOUT_MS * lost) / Math.max(0.05, 1 - 2 * lost)
  return feltRttMs(profile, realRttMs) * (secure ? 2 : 1) + waiting
}

/** Rounds of slow start it takes to send these bytes when nothing else limits: 10, 20, 40 … segments. */
export function slowStartRounds(bytes: number): number {
  const segments = Math.ceil(bytes / SEGMENT_BYTES)
  return segments === 0 ? 0 : Math.ceil(Math.log2(segments / INITIAL_WINDOW + 1) - 1e-9)
}

/**
 * From the first to the last byte's arrival on a fresh connection without loss, ms: bytes ÷ bandwidth, and the pauses
 * in which the sender waits for its first windows to be acknowledged: Σ max(0, S/R + T − w·S/R) over all rounds but the
 * last (Kurose and Ross, Computer Networking, “TCP latency modeling”, there with a first window of one).
 */
function transferWithoutLossMs(bytes: number, rttMs: number, bps: number | undefined): number {
  const segmentMs = bps === undefined ? 0 : (SEGMENT_BYTES * 8000) / bps
  let pauses = 0
  const rounds = slowStartRounds(bytes)
  for (let k = 0; k + 1 < rounds; k++) {
    const pause = segmentMs + rttMs - INITIAL_WINDOW * 2 ** k * segmentMs
    if (pause <= 0) break
    pauses += pause
  }
  return pauses + (bps === undefined ? 0 : (bytes * 8000) / bps)
}

/**
 * Throughput of a long transfer under random loss, bit/s (Padhye, Firoiu, Towsley, Kurose 1998, eq. 32 with every
 * segment acknowledged); Infinity without loss.
 */
export function lossyThroughputBps(rttMs: number, loss: number, timeoutMs = rttMs + LEAST_TIMEOUT_MS): number {
  if (loss === 0) return Number.POSITIVE_INFINITY
  const perSecond =
    1 /
    ((rttMs / 1000) * Math.sqrt((2 * loss) / 3) +
      (timeoutMs / 1000) * Math.min(1, 3 * Math.sqrt((3 * loss) / 8)) * loss * (1 + 32 * loss ** 2))
  return perSecond * SEGMENT_BYTES * 8
}

/** Throughput by the simpler law, (MSS ÷ RTT) · √1.5 ÷ √p, bit/s (Mathis, Semke, Mahdavi, Ott 1997). */
export function mathisThroughputBps(rttMs: number, loss: number): number {
  return ((SEGMENT_BYTES * 8000) / rttMs) * Math.sqrt(1.5 / loss)
}

/** Highest rate a long download reaches, bit/s; Infinity when nothing limits it. */
export function throughputCeilingBps(profile: NetworkProfile, realRttMs: number): number {
  return Math.min(
    profile.downBps ?? Number.POSITIVE_INFINITY,
    lossyThroughputBps(feltRttMs(profile, realRttMs), profile.loss),
  )
}

/** Segments up to here are reckoned round by round, ms by ms; what is beyond moves at the long-run rate. */
const ROUND_BY_ROUND = 1500

/**
 * Expected time from the arrival of the first byte to that of the last, ms. Under loss it is the expectation over a
 * model of whole rounds: in each, the window is sent; if nothing of it is lost it grows, if something is it halves, and
 * a loss that too few segments follow waits for the time-out (the rounds of Padhye et al. 1998, begun in slow start as
 * by Cardwell, Savage and Anderson 2000).
 */
export function transferMs(profile: NetworkProfile, realRttMs: number, bytes: number): number {
  const rttMs = feltRttMs(profile, realRttMs)
  const { loss, downBps } = profile
  if (loss === 0) return transferWithoutLossMs(bytes, rttMs, downBps)
  const segments = Math.ceil(bytes / SEGMENT_BYTES)
  const near = Math.min(segments, ROUND_BY_ROUND)
  const rest = ((segments - near) * SEGMENT_BYTES * 8000) / throughputCeilingBps(profile, realRttMs)
  return (
    rest +
    roundsMs(near, {
      rttMs,
      loss,
      segmentMs: downBps === undefined ? 0 : (SEGMENT_BYTES * 8000) / downBps,
      timeoutMs: rttMs + Math.max(LEAST_TIMEOUT_MS, 4 * profile.jitterMs),
    })
  )
}

interface Rounds {
  rttMs: number
  loss: number
  segmentMs: number
  timeoutMs: number
}

/** Expected time to send these segments, by recursion over window, threshold and what is left. */
function roundsMs(segments: number, { rttMs, loss, segmentMs, timeoutMs }: Rounds): number {
  const known = new Map<number, number>()
  const NO_THRESHOLD = 0
  function expected(window: number, threshold: number, left: number): number {
    if (left <= window) {
      // The last round: a loss among the last three waits for the time-out, any other for one round trip.
      const tail = 1 - (1 - loss) ** Math.min(3, left)
      const body = (1 - tail) * (1 - (1 - loss) ** Math.max(0, left - 3))
      return left * segmentMs + (tail * timeoutMs) / (1 - Math.min(0.45, loss)) + body * (rttMs + loss * timeoutMs)
    }
    const key = (left * 2048 + window) * 2048 + threshold
    const before = known.get(key)
    if (before !== undefined) return before
    const roundMs = Math.max(rttMs + segmentMs, window * segmentMs)
    const right = (1 - loss) ** window
    const slow = threshold === NO_THRESHOLD || window < threshold
    const grown = Math.min(
      2047,
      slow
        ? threshold === NO_THRESHOLD
          ? window * 2
          : Math.min(window * 2, Math.max(threshold, window + 1))
        : window + 1,
    )
    const halved = Math.max(2, Math.floor(window / 2))
    const timedOut = window < 4 ? 1 : loss
    const after = left - window
    const time =
      roundMs +
      right * expected(grown, threshold, after) +
      (1 - right) *
        ((1 - timedOut) * expected(halved, halved, after) + timedOut * (timeoutMs - rttMs + expected(1, halved, after)))
    known.set(key, time)
    return time
  }
  return expected(INITIAL_WINDOW, NO_THRESHOLD, segments)
}

/**
 * Expected time of a fetch over a new connection, ms: connecting, one round trip for the request, then the transfer.
 */
export function fetchMs(profile: NetworkProfile, realRttMs: number, bytes: number, secure: boolean): number {
  return connectMs(profile, realRttMs, secure) + feltRttMs(profile, realRttMs) + transferMs(profile, realRttMs, bytes)
}

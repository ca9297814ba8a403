/**
 * Who waits for an answer at the end of a window, and at least how long. A target that stalls answers nothing: its
 * users would be in no response time at all.
 *
 * Of all requests begun before a moment and ended by another, no more can have ended than ended in all: so of S(t − w)
 * begun by t − w and E(t) ended by t, at least S(t − w) − E(t) have waited longer than w. That holds in whatever order
 * answers come.
 */
import type { Histogram } from '../histogram/histogram'

/**
 * What was begun and ended up to the end of each run second, of the requests an objective waits for. `lost`: begun by
 * generators that are not heard, who may wait or not.
 */
export interface Flow {
  /** Entry s: up to the beginning of second s. */
  started: Float64Array
  ended: Float64Array
  lost: Float64Array
}

/** @param seconds started, ended and not heard of in each run second */
export function flowOf(
  seconds: readonly (readonly [started: number, ended: number, lost: number] | undefined)[],
): Flow {
  const flow: Flow = {
    started: new Float64Array(seconds.length + 1),
    ended: new Float64Array(seconds.length + 1),
    lost: new Float64Array(seconds.length + 1),
  }
  seconds.forEach((s, i) => {
    flow.started[i + 1] = flow.started[i]! + (s?.[0] ?? 0)
    flow.ended[i + 1] = flow.ended[i]! + (s?.[1] ?? 0)
    flow.lost[i + 1] = s?.[2] ?? flow.lost[i]!
  })
  return flow
}

/** How many have waited longer than this at the end of second `toS` − 1, at least. @param waitS whole seconds */
function waitingOver({ started, ended, lost }: Flow, toS: number, waitS: number): number {
  const at = Math.min(toS, started.length - 1)
  return at - waitS < 0 || at < 0 ? 0 : Math.max(0, started[at - waitS]! - ended[at]! - lost[at]!)
}

/**
 * Adds those who have waited longer than a limit to a distribution of times, each with what it has waited at least.
 *
 * @param toS end of the window, run seconds @returns the longest wait, ms; 0: nobody waits longer than the limit
 */
export function addWaiting(times: Histogram, flow: Flow, toS: number, limitMs: number): number {
  let longestMs = 0
  const end = Math.min(toS, flow.started.length - 1)
  for (let waitS = Math.floor(limitMs / 1000) + 1; waitS <= end; waitS++) {
    const now = waitingOver(flow, toS, waitS)
    if (now === 0) break
    times.record(waitS * 1e6, now - waitingOver(flow, toS, waitS + 1))
    longestMs = waitS * 1000
  }
  return longestMs
}

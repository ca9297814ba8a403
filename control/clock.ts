/** The clock everything in control/ lives by. Passed in, so that tests and demo history can make it run faster. */

export interface Cancel {
  cancel(): void
}

export interface Clock {
  /** ms since 1970, never stepping back: the wall clock read once, then the monotonic clock. */
  now(): number
  after(ms: number, call: () => void): Cancel
  every(ms: number, call: () => void): Cancel
}

export const realClock: Clock = {
  now: () => performance.timeOrigin + performance.now(),
  after: (ms, call) => cancelling(setTimeout(call, ms)),
  every: (ms, call) => cancelling(setInterval(call, ms)),
}

/** A process that did not get to look at its fast clock for longer than this was held up by others, ms of real time. */
const MOST_STEP_MS = 25

/**
 * A clock that began at `from` and runs `factor` times as fast as the real one. It stands still while the machine is
 * too busy to let anybody look: a second's stall would else be half a minute of silence to everything that waits for
 * news.
 */
export function fastClock(from: number, factor: number): Clock {
  let now = from
  let lookedAt = performance.now()
  return {
    now() {
      const before = lookedAt
      lookedAt = performance.now()
      now += Math.min(MOST_STEP_MS, lookedAt - before) * factor
      return now
    },
    after: (ms, call) => cancelling(setTimeout(call, ms / factor)),
    every: (ms, call) => cancelling(setInterval(call, Math.max(1, ms / factor))),
  }
}

function cancelling(timer: NodeJS.Timeout): Cancel {
  return { cancel: () => clearTimeout(timer) }
}

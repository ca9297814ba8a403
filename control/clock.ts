/** The clock everything in control/ lives by. Passed in, so that tests and demo history can make it run faster. */

export interface Cancel { cancel(): void }

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

/** A clock that began at `from` and runs `factor` times as fast as the real one. */
export function fastClock(from: number, factor: number): Clock {
  const began = performance.now()
  return {
    now: () => from + (performance.now() - began) * factor,
    after: (ms, call) => cancelling(setTimeout(call, ms / factor)),
    every: (ms, call) => cancelling(setInterval(call, Math.max(1, ms / factor))),
  }
}

function cancelling(timer: NodeJS.Timeout): Cancel {
  return { cancel: () => clearTimeout(timer) }
}

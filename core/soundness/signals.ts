/** A generator's own signals, and the limits beyond which its *measurements* suffer. Common practice, no source, unless said. */

/** One second of a generator's health. */
export interface Health {
  /** CPU used ÷ CPU granted, 0–1 and a little above. */
  cpuShare: number
  /** 99th percentile of the event-loop delay, ms, without the timer's resolution. */
  loopDelayP99Ms: number
  /** 99th percentile of how late a user's next act began, ms. */
  scheduleLagP99Ms: number
  /** Resident memory ÷ memory granted, 0–1. */
  memoryShare: number
  /** Open sockets ÷ descriptors allowed, 0–1. */
  socketShare: number
}

export type Signal = keyof Health

export const SIGNAL_LIMITS: Record<Signal, number> = {
  cpuShare: 0.75,
  loopDelayP99Ms: 20,
  scheduleLagP99Ms: 10,
  memoryShare: 0.8,
  socketShare: 0.8,
}

export const SIGNAL_WORDS: Record<Signal, string> = {
  cpuShare: 'cpu',
  loopDelayP99Ms: 'loop',
  scheduleLagP99Ms: 'lag',
  memoryShare: 'memory',
  socketShare: 'sockets',
}

/** The same in full, for sentences. */
export const SIGNAL_PHRASES: Record<Signal, string> = {
  cpuShare: 'CPU', loopDelayP99Ms: 'event-loop delay p99', scheduleLagP99Ms: 'schedule lag p99', memoryShare: 'memory', socketShare: 'sockets',
}

/** The signal nearest to its limit or furthest past it, and its value ÷ limit. */
export function worstSignal(health: Health): { signal: Signal, ratio: number } {
  let signal: Signal = 'cpuShare'
  let ratio = -1
  for (const s of Object.keys(SIGNAL_LIMITS) as Signal[]) {
    const r = health[s] / SIGNAL_LIMITS[s]
    if (r > ratio) {
      ratio = r
      signal = s
    }
  }
  return { signal, ratio }
}

/** “48 %” or “12 ms”. */
export function saySignal(signal: Signal, value: number): string {
  return signal.endsWith('Ms') ? `${value.toFixed(value < 10 ? 1 : 0)} ms` : `${Math.round(value * 100)} %`
}

/** Signals by number, as figures of a second refer to them. */
export const SIGNAL_ORDER = Object.keys(SIGNAL_LIMITS) as Signal[]

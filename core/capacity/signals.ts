/**
 * A generator's own signals, and the limits beyond which its *measurements* suffer. Common practice, no source, unless
 * said.
 */
import { keysIn, keyed } from '../values/written-out'

/** One second of a generator's health. Shares are 0–1 and may pass 1 a little. */
export interface Health {
  /** CPU used ÷ CPU granted. */
  cpuShare: number
  /** 99th percentile of the event-loop delay, ms, without the timer's resolution. */
  loopDelayP99Ms: number
  /** 99th percentile of how late a user's next act began, ms. */
  scheduleLagP99Ms: number
  /** Resident memory ÷ memory granted. */
  memoryShare: number
  /** Open sockets ÷ descriptors allowed. */
  socketShare: number
  /** Time the busiest worker's event loop was at work. */
  loopUse: number
  /** Time its control group was held back by its quota; 0 where there is none. */
  throttledShare: number
  /** CPU time of the machine taken by its neighbours (“steal” of proc(5)). */
  stolenShare: number
  /**
   * Open sockets ÷ local ports connections may leave from. RFC 6335 names 49152–65535 dynamic; Linux takes 32768–60999
   * at first.
   */
  portShare: number
  /** Bytes in and out ÷ what the network interface carries; 0 where that is not known. */
  bandwidthShare: number
}

export type Signal = keyof Health

export const SIGNAL_LIMITS: Record<Signal, number> = {
  cpuShare: 0.75,
  loopDelayP99Ms: 20,
  scheduleLagP99Ms: 10,
  memoryShare: 0.8,
  socketShare: 0.8,
  loopUse: 0.85,
  throttledShare: 0.02,
  stolenShare: 0.05,
  portShare: 0.8,
  bandwidthShare: 0.7,
}

export const SIGNAL_WORDS: Record<Signal, string> = {
  cpuShare: 'cpu',
  loopDelayP99Ms: 'loop',
  scheduleLagP99Ms: 'lag',
  memoryShare: 'memory',
  socketShare: 'sockets',
  loopUse: 'loop use',
  throttledShare: 'throttled',
  stolenShare: 'stolen',
  portShare: 'ports',
  bandwidthShare: 'bandwidth',
}

/** The same in full, for sentences. */
export const SIGNAL_PHRASES: Record<Signal, string> = {
  cpuShare: 'CPU',
  loopDelayP99Ms: 'event-loop delay p99',
  scheduleLagP99Ms: 'schedule lag p99',
  memoryShare: 'memory',
  socketShare: 'sockets',
  loopUse: 'event-loop use',
  throttledShare: 'CPU held back',
  stolenShare: 'CPU stolen by neighbours',
  portShare: 'local ports',
  bandwidthShare: 'bandwidth',
}

/** Signals by number, as frames and figures of a second refer to them. The order is the wire's: add at the end only. */
export const SIGNAL_ORDER = keysIn(SIGNAL_LIMITS)

export const NO_HEALTH: Health = keyed(SIGNAL_ORDER, () => 0)

/**
 * What neighbours do is no load of the generator's: it never binds and is no stress of its own, though it causes some.
 */
export const NEIGHBOURS: Signal = 'stolenShare'

/** Its own signal nearest to its limit or furthest past it, and its value ÷ limit. */
export function worstSignal(health: Health): { signal: Signal, ratio: number } {
  let signal: Signal = 'cpuShare'
  let ratio = -1
  for (const s of SIGNAL_ORDER) {
    if (s === NEIGHBOURS) continue
    const r = health[s] / SIGNAL_LIMITS[s]
    if (r > ratio) {
      ratio = r
      signal = s
    }
  }
  return { signal, ratio }
}

/** The same as figures of a second tell it: the ratio to a thousandth, the signal by its number. */
export function toldWorst(health: Health): [ratio: number, signal: number] {
  const { signal, ratio } = worstSignal(health)
  return [Math.round(ratio * 1000) / 1000, SIGNAL_ORDER.indexOf(signal)]
}

/**
 * Health of a process from that of its workers: the worst of each, for shares of the whole process are the same in all.
 */
export function worstOf(a: Health, b: Health): Health {
  return keyed(SIGNAL_ORDER, s => Math.max(a[s], b[s]))
}

/** Later than this, a generator did nothing for a while, ms. */
export const STOOD_STILL_MS = 1000

/** How long it may have done nothing, ms. */
export function stoodStillMs({ loopDelayP99Ms, scheduleLagP99Ms }: Health): number {
  return Math.max(loopDelayP99Ms, scheduleLagP99Ms)
}

/** “REY-1 stood still for 9.8 s until second 12: …” */
export function sayStoodStill(generator: string, ms: number, second: number): string {
  return `${generator} stood still for ${(ms / 1000).toFixed(1)} s until second ${second}: what was due meanwhile it did late, all at once.`
}

/** “48 %” or “12 ms”. */
export function saySignal(signal: Signal, value: number): string {
  return signal.endsWith('Ms')
    ? `${value.toFixed(value < 10 ? 1 : 0)} ms`
    : `${(value * 100).toFixed(value > 0 && value < 0.1 ? 1 : 0)} %`
}

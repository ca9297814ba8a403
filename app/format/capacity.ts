/** Capacities and their signals in words and figures. */
import type { Capacity } from '../../core/capacity/capacity'
import type { Signal } from '../../core/capacity/signals'
import { count } from '~~/core/values/said-figures'

/** A signal's value in its own unit: `62 %` or `4.2 ms`. */
export function signalValue(signal: Signal, value: number): string {
  if (signal.endsWith('Ms')) return value === 0 ? '0 ms' : `${value.toFixed(value < 10 ? 1 : 0)} ms`
  return value === 0 ? '0 %' : `${(value * 100).toFixed(Math.abs(value) < 0.1 ? 1 : 0)} %`
}

/** `2 347 (2 031 to 2 663)` users, or what stands in its place. */
export function carries({
  outcome,
  users,
  lower,
  upper,
}: Pick<Capacity, 'outcome' | 'users' | 'lower' | 'upper'>): string {
  if (outcome === 'inconclusive') return 'not known'
  if (outcome === 'atLeast') return `at least ${count(Math.floor(lower))}`
  return upper === undefined || upper === lower
    ? count(Math.floor(users))
    : `${count(Math.round(users))} (${count(Math.floor(lower))} to ${count(Math.ceil(upper))})`
}

export const ORIGIN_WORDS: Record<Capacity['origin'], string> = {
  calibrated: 'calibrated',
  byHand: 'set by hand',
  refined: 'refined from a run',
}
export const ITEM_WORDS = { waiting: 'waits', running: 'under way', done: 'done', failed: 'not known' } as const
export const STEP_WORDS = {
  warm: 'warming the code up',
  low: 'a low level',
  near: 'near the limit',
  confirm: 'confirming',
} as const

/** What is chosen when the dialog to calibrate opens; what is left out is as usual. */
export interface CalibrationPreset {
  journeys?: string[]
  provider?: string
  types?: string[]
  networks?: string[]
  sink?: boolean
  mostStolen?: number
}

/**
 * The same once more. Where neighbours left too little that was quiet, every second counts: else it would end as
 * before.
 */
export function wishAgain({
  journeyId,
  provider,
  machineType,
  network,
  target,
  why,
}: Pick<Capacity, 'journeyId' | 'provider' | 'machineType' | 'network' | 'target' | 'why'>): CalibrationPreset {
  return {
    journeys: [journeyId],
    provider,
    types: [machineType],
    networks: [network],
    sink: target === 'built-in sink' || target === undefined,
    ...(why === 'stolen' ? { mostStolen: 1 } : {}),
  }
}

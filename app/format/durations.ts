/** Durations as people type them: “90 s”, “1 h 30 min”, “0,5 s”; a bare number is taken in the unit that is said. */
import { printDuration, readDuration } from '../../core/load/phrase'

export type ShownDurationUnit = 'ms' | 's' | 'min'

export interface DurationBounds {
  /** ms */
  min?: number
  /** ms */
  max?: number
  /** Of a number without one. */
  unit?: ShownDurationUnit
  /** What it has to be a whole number of, ms. */
  grain?: number
}

const GRAIN_WORDS = new Map([[1000, 'seconds'], [60_000, 'minutes']])

/** @returns ms, or what is wrong with it and what would be right */
export function readLength(text: string, { min = 0, max = Infinity, unit = 's', grain = 1 }: DurationBounds = {}): number | string {
  const typed = text.trim()
  const ms = readDuration(/^\d[\d.,]*$/.test(typed) ? `${typed} ${unit}` : typed)
  if (ms === undefined) return `“${typed}” is no duration: write one such as 90 s or 1 h 30 min.`
  if (ms < min) return `${typed} is less than ${lengthText(min)}.`
  if (ms > max) return `${typed} is more than ${lengthText(max)}.`
  return ms % grain === 0 ? ms : `${typed} is not a whole number of ${GRAIN_WORDS.get(grain) ?? `${grain} ms`}.`
}

/** As it is written back: “250 ms”, “1.5 s”, “1 h 30 min”. */
export function lengthText(ms: number): string {
  return ms > 0 && ms < 1000 ? `${ms} ms` : printDuration(ms)
}

/** For an input: hands on what was typed, in ms. @returns whether it could be taken, or why not */
export function takeLength(text: string, bounds: DurationBounds, take: (ms: number) => void): true | string {
  const read = readLength(text, bounds)
  if (typeof read === 'string') return read
  take(read)
  return true
}

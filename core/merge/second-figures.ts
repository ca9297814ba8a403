/** What the stave draws of one second of a run. Compact: a run keeps one of these per second. */
import type { FailureKind } from '../journey/failure-kinds'

/**
 * Of one objective in one second: its metric there (null: nothing to measure), requests it waits for that were begun
 * and that ended, and those begun by generators that are not heard.
 */
export type JudgedSecond = [value: number | null, started: number, ended: number, lost: number]

/** [right, failed, p50 ms, p95 ms, p99 ms]; percentiles are null where nothing was right. */
export type StepSecond = [right: number, failed: number, p50: number | null, p95: number | null, p99: number | null]

/** Number of a generator, its worst signal ÷ limit, and which signal that is (index into SIGNAL_ORDER). */
export type WorstSignal = [number: number, ratio: number, signal: number]

export interface SecondFigures {
  second: number
  /** Every live generator has passed this second: it will not change any more. */
  final: boolean
  /** Users present at the end of the second, per location and per group of the plan. */
  usersByLocation: number[]
  usersByGroup: number[]
  /**
   * Users per location whose generators have not been heard since: nobody knows whether they are there. They are in no
   * other number. Left out: none.
   */
  unknownByLocation?: number[]
  /**
   * Users present per cell, the groups of one location after those of the one before. Runs of earlier releases do not
   * say.
   */
  usersByCell?: number[]
  /** Requests sent in this second per group of the plan. */
  startedByGroup: number[]
  /** Passes begun per group of the plan. Runs of earlier releases do not say. */
  passesByGroup?: number[]
  /** Passes begun, and passes that were due and not begun. */
  passes: number
  notStarted: number
  started: number
  right: number
  failed: number
  cut: number
  bytes: number
  failures: Partial<Record<FailureKind, number>>
  all: StepSecond
  /** By journey and step (`stepKey`), over all locations; in runs of earlier releases by the step's name alone. */
  steps: Record<string, StepSecond>
  /** By location code: of what the first objective that limits a time is about, or of all requests where none does. */
  locations: Record<string, StepSecond>
  /** Per objective of the plan, in its order. Runs of earlier releases have none. */
  judged?: JudgedSecond[]
  /** Per generator heard. */
  generators: WorstSignal[]
  /**
   * The same of the minute that begins with this second, or with its stretch, each generator at its worst: where there
   * are too many to tell of each second.
   */
  generatorsOfMinute?: WorstSignal[]
  /** It stands for a stretch of this many seconds, of which it was the slowest; left out: for itself. */
  stretchS?: number
  /** Of a calibration: per generator its number, and its signals in their order. */
  health?: [number: number, ...signals: number[]][]
}

/**
 * After the plan's end frames are expected for so long, s: users who leave, and whatever had to wait for an answer.
 * Frames of any later second are refused: a single one would fill the store with empty seconds.
 */
export const AFTER_END_S = 900
/** A generator no further behind the newest second than this is only on its way, s. */
export const ON_ITS_WAY_S = 5

/**
 * The newest second that is known: it will not change any more, or one that has not told of it yet is not merely on its
 * way but unknown.
 */
export function latestKnown(seconds: readonly (SecondFigures | undefined)[]): SecondFigures | undefined {
  const newest = seconds.findLast(s => s !== undefined)?.second ?? -1
  return seconds.findLast(s => s !== undefined && (s.final || s.second <= newest - ON_ITS_WAY_S))
}

/** Seconds by their numbers; holes where nothing was merged. */
export function bySecond(seconds: readonly SecondFigures[], lengthS: number): (SecondFigures | undefined)[] {
  const places = new Array<SecondFigures | undefined>(lengthS).fill(undefined)
  for (const s of seconds) places[s.second] = s
  return places
}

/** What the stave draws of one second of a run. Compact: a run keeps one of these per second. */
import type { FailureKind } from './failure-kinds'

/** [right, failed, p50 ms, p95 ms, p99 ms]; percentiles are null where nothing was right. */
export type StepSecond = [right: number, failed: number, p50: number | null, p95: number | null, p99: number | null]

export interface SecondFigures {
  second: number
  /** Every live generator has passed this second: it will not change any more. */
  final: boolean
  /** Users present at the end of the second, per location and per group of the plan. */
  usersByLocation: number[]
  usersByGroup: number[]
  /** Users per location whose generators have not been heard since: nobody knows whether they are there. They are in no other number. Left out: none. */
  unknownByLocation?: number[]
  /** Users present per cell, the groups of one location after those of the one before. Runs of earlier releases do not say. */
  usersByCell?: number[]
  /** Requests sent in this second per group of the plan. */
  startedByGroup: number[]
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
  /** By step name, over all locations. */
  steps: Record<string, StepSecond>
  /** By location code: of the judged step, or of all steps where none is judged. */
  locations: Record<string, StepSecond>
  /** Per generator heard: its number, worst signal ÷ limit, and which signal (index into SIGNAL_ORDER). */
  generators: [number: number, ratio: number, signal: number][]
  /** Of a calibration: per generator its number, and its signals in their order. */
  health?: [number: number, ...signals: number[]][]
}

/** A calibration as part of a run's document, and what it leaves behind. */
import type { Estimate, HeldLevel } from './estimate'
import type { StepRules } from './next-step'

/** What a run that calibrates is to find out. */
export interface CalibrationTask {
  /** Batch and item it belongs to. */
  batch: number
  item: number
  /** `steps` finds a capacity; `verify` holds one level of a real mix and looks whether it is borne. */
  kind: 'steps' | 'verify'
  /** Network profile of its users, or `direct`; of a verification: their mix. */
  network: string
  provider: string
  region: string
  machineType: string
  /** Answered by the built-in sink instead of the target. */
  sink: boolean
  rules: StepRules
  /** Seconds in which neighbours took more than this share of the CPU are set aside. Absent: STOLEN_ASIDE_SHARE. */
  mostStolenShare?: number
  /** Users on one generator per group, of a verification. */
  verify?: number[]
}

/** What was seen: enough to draw it, and to fit it again. */
export interface CalibrationEvidence {
  estimate: Estimate
  /** Of all its machines. */
  levels: HeldLevel[]
  /** Users each machine alone would carry; one entry with one machine. */
  perMachine: number[]
  /** Level that is held now; while it goes on. */
  step?:
    { users: number, kind: 'warm' | 'low' | 'near' | 'confirm', fromS: number, toS: number, aside: number } | undefined
  /** What the machine is. */
  machine: { cores: number, memoryBytes: number, descriptors: number }
  bytesPerPass?: number
}

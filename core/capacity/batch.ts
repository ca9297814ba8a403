/** A batch of calibrations: every chosen journey on every chosen machine type and network, one after the other. */

export interface CalibrationWish {
  journeys: string[]
  /** Ids of network profiles, or `direct`. */
  networks: string[]
  provider: string
  region: string
  types: string[]
  /** Siblings measured at once, for the spread between them. */
  machines: number
  targetId: string
  /** Answered by the built-in sink instead of the target. */
  sink: boolean
  /**
   * Seconds in which neighbours took more than this share of a machine's CPU are set aside; 1: none. Absent: as usual.
   */
  mostStolenShare?: number
  /** Holds one level of a plan's real mix at a location instead of finding a capacity. */
  verify?: { planId: string, location: string }
}

export type ItemState = 'waiting' | 'running' | 'done' | 'failed'

export interface CalibrationItem {
  journeyId: string
  network: string
  machineType: string
  state: ItemState
  /** Runs made for it: the second repeats one that was broken off. */
  runIds: number[]
  capacityId?: string
  /** Its run at present was ended here, because of this: it is begun once more. */
  brokenBy?: string
  /** Why there is no capacity, and what to do. */
  problem?: string
  /** What a verification found. */
  verdict?: { held: boolean, sentence: string }
}

export interface CalibrationBatch {
  id: number
  createdAt: number
  endedAt?: number
  wish: CalibrationWish
  items: CalibrationItem[]
  /** Somebody ended it. */
  stopped?: boolean
}

/** A run's document: its plan with everything that refers to, as it was when the run was made. */
import type { CalibrationTask } from '../capacity/calibration'
import type { Client } from '../client/client'
import type { FleetOrder } from '../fleet/order'
import type { SizedBy } from '../fleet/sized-by'
import type { Journey } from '../journey/journey'
import type { Target } from '../journey/target'
import type { NetworkProfile } from '../network/profile'
import type { Plan } from '../plan/document'

/** A plan with everything it refers to: what a run keeps for good. */
export interface RunDocument {
  plan: Plan
  planVersion: number
  target: Target
  journeys: Journey[]
  /** Version of each journey that is used, by its id. */
  journeyVersions?: Record<string, number>
  /** Columns and number of rows of each feed that is used, by its id. */
  feeds?: Record<string, { columns: string[], rows: number }>
  /** Network profiles that are used. */
  networks?: NetworkProfile[]
  /** Clients that are used. */
  clients?: Client[]
  /** A run of the first release: nothing but requests was measured. */
  requestsOnly?: boolean
  /** One entry per location and kind of machine; places are counted through them in their order. */
  fleet: FleetOrder[]
  /** What each location's number of machines rests on; runs of earlier releases do not say, and assumed. */
  sizedBy?: SizedBy[]
  /** It calibrates: levels are chosen as it goes. */
  calibration?: CalibrationTask
  /** What it was thought to cost when it was started. */
  forecast?: number
  /** Other programs measured it. */
  claimed?: Claimed
  /** It went with fewer machines than were asked for, and with less load in proportion. */
  wentWith?: { machines: number, wanted: number, factor: number }
}

/** What other programs measured, and told: nobody here saw it. */
export interface Claimed {
  /** Who told it, in the order of their numbers. */
  senders: { name: string, location: number, how: 'file' | 'stream' | 'run' }[]
  /** Location and step of each series, by their numbers, in the order in which they came up. */
  series: [location: number, step: number][]
  /** It is still being told. */
  goesOn?: boolean
}

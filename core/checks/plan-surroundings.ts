import type { Journey } from '../journey/journey'
import type { Target } from '../journey/target'
import type { Client } from '../client/client'
import type { NetworkProfile } from '../network/profile'
import type { RegionOffer } from '../offers/machine-type'
import type { LocationSizing } from '../fleet/sizing'

/** What a plan is checked against. `offers` holds a provider's regions; none: the provider did not answer. */
export interface PlanSurroundings {
  target: Target | undefined
  journeys: Journey[]
  /** Columns of each feed by its id. */
  feeds: Readonly<Record<string, readonly string[]>>
  networks: readonly NetworkProfile[]
  clients: readonly Client[]
  /** How long the load will last, ms. */
  lengthMs: number
  offers: Record<string, RegionOffer[] | undefined>
  /** ISO 8601. */
  now: string
  /** What each location takes; left out: sized here, by assumption. */
  sizing?: readonly LocationSizing[]
}

/** Machines that a run orders: how many of which type at each location, and for which part of it. */
import type { Attached, MachineType } from '../offers/machine-type'

/** The part of a run that machines are there for who play the users of a peak: those who come last and leave first. */
export interface PeakShift {
  /** From when its first user comes until its last has left, run time, ms. */
  fromMs: number
  toMs: number
  /** It is ordered so long before `fromMs`, ms; 0: it is gathered with all others, and only leaves early. */
  leadMs: number
  /**
   * Per letter of a group: users of its location numbered above this are played by it, the others by who is there all
   * through. Groups that are not named: none.
   */
  above: Record<string, number>
  /** Users of its location who are played by those that are there all through, at their heaviest moment. */
  others: number
}

/** Machines of one kind that a run takes at one location. */
export interface FleetOrder {
  location: string
  type: MachineType
  machines: number
  /** Users of the location, in their mix, that one of them carries; runs of earlier releases do not say. */
  carries?: number
  interruptible?: boolean
  elsewhere?: string[]
  attached?: Attached
  /** Disks, addresses and the like, per hour and machine. */
  extrasPerHour?: number
  /** It is there for a part of the run only; left out: all through. At a location all have the same. */
  shift?: PeakShift
}

/** Whether its machines come while the run loads. */
export function joinsLate({ shift }: Pick<FleetOrder, 'shift'>): boolean {
  return shift !== undefined && shift.leadMs > 0
}

/** Where the places of an order begin among those of its location. */
function firstPlaceOf(fleet: readonly FleetOrder[], order: FleetOrder): number {
  return fleet
    .slice(0, fleet.indexOf(order))
    .reduce((sum, o) => sum + (o.location === order.location ? o.machines : 0), 0)
}

/** Places of an order's machines among those of its location. */
export function placesOf(fleet: readonly FleetOrder[], order: FleetOrder): number[] {
  const first = firstPlaceOf(fleet, order)
  return Array.from({ length: order.machines }, (_, i) => first + i)
}

/** The order that a place of a location belongs to. */
export function orderOfPlace(fleet: readonly FleetOrder[], location: string, place: number): FleetOrder | undefined {
  return fleet.find(
    o => o.location === location && place >= firstPlaceOf(fleet, o) && place < firstPlaceOf(fleet, o) + o.machines,
  )
}

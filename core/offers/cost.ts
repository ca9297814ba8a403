/** What a machine's time costs: in whole grains, a minimum at least, with the other bills that run beside it. */
import type { MachineType } from './machine-type'

/** As the provider said when the machine was asked for; amounts in `currency`. */
export interface Price {
  perHour: number
  /** Time is billed in steps of this many seconds. */
  grainS: number
  /** Less is billed as this, s. */
  minimumS: number
  /** Disk, address and whatever else is billed by time beside the machine, per hour. */
  extrasPerHour: number
  /** ISO 4217. */
  currency: string
  /** Date of the price list, ISO 8601; empty when it is not known. */
  asOf: string
  /** A lower price, for a machine that may be taken back. */
  interruptible: boolean
}

export const FREE: Price = {
  perHour: 0,
  grainS: 1,
  minimumS: 0,
  extrasPerHour: 0,
  currency: 'EUR',
  asOf: '',
  interruptible: false,
}

/** Price of a type as it is ordered. @throws never: a type without an interruptible price costs its ordinary one */
export function priceOf(type: MachineType, order: { interruptible?: boolean, extrasPerHour?: number }): Price {
  const { interruptiblePerHour } = type
  const interruptible = order.interruptible === true && interruptiblePerHour !== undefined
  return {
    perHour: interruptible ? interruptiblePerHour : type.pricePerHour,
    grainS: type.billingGrainS,
    minimumS: type.minimumS ?? 0,
    extrasPerHour: order.extrasPerHour ?? 0,
    currency: type.currency ?? 'EUR',
    asOf: type.pricesAsOf ?? '',
    interruptible,
  }
}

/**
 * Cost of a stretch of time from the start of billing, in the price's currency. Time that has begun is billed. @param
 * ms 0 or more
 */
export function costOf(price: Price, ms: number): number {
  if (ms <= 0) return 0
  const seconds = Math.max(Math.ceil(ms / 1000 / price.grainS) * price.grainS, price.minimumS)
  return (seconds / 3600) * (price.perHour + price.extrasPerHour)
}

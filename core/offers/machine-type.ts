/** What a provider offers at a region: types of machines, their prices, and whatever else it bills. */
import { ownOf } from '../values/own'

/** A machine type as its provider describes it. */
export interface MachineType {
  name: string
  vcpu: number
  memoryMb: number
  /** Price per hour. */
  pricePerHour: number
  /** Time is billed in steps of this many seconds. */
  billingGrainS: number
  /** Less time is billed as this, s. */
  minimumS?: number
  /** Price per hour of a machine that may be taken back; left out: there is none. */
  interruptiblePerHour?: number
  /** Currency of the prices, ISO 4217; left out: EUR. */
  currency?: string
  /** Date of the price list, ISO 8601. */
  pricesAsOf?: string
}

/** What a provider offers at a region now. */
export interface RegionOffer {
  region: string
  types: MachineType[]
  /** Most machines at once, and how many are taken. */
  quota: { most: number, used: number }
  /** Usual time from asking to running, s: as the provider states it, or longer where it was seen to be. */
  bootS: number
  /** Types that are out of stock now. */
  noStock?: string[]
  /** Machines of each type that are kept warm here and wait for a run. */
  waiting?: Record<string, number>
  /** Machines come here by themselves: those there are wait, more may come. */
  selfEnrolled?: boolean
  /** What it wants attached to a machine, as a JSON Schema; left out: nothing. */
  attachments?: AttachmentSchema
  /** Bills beside the machine's own. */
  otherBills?: OtherBill[]
}

/**
 * The part of JSON Schema 2020-12 a form is made of: one level of plain values. Its provider may say more: that is left
 * alone.
 */
export interface AttachmentSchema {
  [keyword: string]: unknown
  type: 'object'
  required?: string[]
  properties: Record<
    string,
    {
      type: 'string' | 'number' | 'integer' | 'boolean'
      title?: string
      description?: string
      enum?: (string | number)[]
      default?: string | number | boolean
      minimum?: number
      maximum?: number
      pattern?: string
    }
  >
}

/**
 * A bill beside the machine: by the hour, for each unit of an attached value (a disk's GB) or once; or by what goes
 * out.
 */
export interface OtherBill {
  name: string
  per: 'hour' | 'GB out'
  price: number
  each?: string
}

/** What is billed by time beside a machine with these attachments, per hour. */
export function extrasOf(bills: readonly OtherBill[], attached: Attached): number {
  return bills
    .filter(b => b.per === 'hour')
    .reduce((sum, b) => {
      const value = b.each === undefined ? 1 : ownOf(attached, b.each)
      return sum + b.price * (typeof value === 'number' ? value : value ? 1 : 0)
    }, 0)
}

/** What the provider wants attached to a machine (network, image, disk …), by its own schema. */
export type Attached = Record<string, string | number | boolean>

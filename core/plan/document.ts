/** The plan document: one question, and everything needed to ask it. What is stored, exchanged as a file, and snapshotted by each run. */
import { ownOf } from '../values/own'
import type { CapacityOrigin } from '../capacity/capacity'
import type { CalibrationTask } from '../capacity/calibration'
import type { Basis } from '../fleet/capacity-book'
import type { Journey } from '../journey/journey'
import type { Target } from '../journey/target'
import type { Drive } from '../load/drive'
import type { LoadProfile } from '../load/profile'
import type { NetworkProfile } from '../network/profile'

/** A number of users on one journey with one load profile. */
export interface Group {
  /** One letter, A to Z: shown wherever the group is. */
  letter: string
  name: string
  journeyId: string
  profile: LoadProfile
  /** What the profile's level is; left out: users. */
  drive?: Drive
  /** Each user leaves after so many passes; left out: the profile says when. */
  passes?: number
  /** Think times are multiplied by this; left out: 1. */
  thinkScale?: number
}

/** A place where generators run, and what is rented there. */
export interface Location {
  /** Three letters, shown wherever the location is. */
  code: string
  provider: string
  region: string
  machineType: string
  /** Number of machines; `auto` takes as many as the users need. */
  machines: number | 'auto'
  /** Types and numbers are the cheapest that carry its users, instead of those written here. */
  choose?: 'cheapest'
  /** At the lower price, for machines the provider may take back; with `choose`: some of them may be. */
  interruptible?: boolean
  /** Regions of the same provider where a machine may be taken instead, after a boot has failed. */
  elsewhere?: string[]
  /** What the provider wants attached (network, image, disk …), by its own schema. */
  attached?: Attached
}

export type Attached = Record<string, string | number | boolean>

/** Share of a group at a location: whole basis points (10,000 = 100 %), or what the others leave. */
export type Share = number | 'rest'

/** Network profiles of a cell by their ids, basis points of its users; whoever is left over has none added. */
export type NetworkMix = Record<string, number>

/** What an objective is about. Percentiles and the mean are of response times in ms, failures a share 0–1, throughput right answers per second. */
export type Metric = 'p50' | 'p90' | 'p95' | 'p99' | 'mean' | 'failures' | 'throughput' | 'users'

/** When an objective must hold: in settled holds, over the whole load, or in every stretch of so many seconds. */
export type JudgedWindow = 'holds' | 'whole' | { everyS: number }

/** A pass/fail statement about the result. Exactly one of `atMost` and `atLeast` is there. */
export interface Objective {
  metric: Metric
  /** Step, bundle or span; left out: all requests. */
  step?: string
  /** Journey whose step it is, or whose users it is about; left out: all. Where several have a step of that name, it must be there. */
  journeyId?: string
  /** Letter of the group it is about; left out: all. */
  group?: string
  /** Location code; left out: all. */
  location?: string
  /** Failures count as their time or more, instead of being left out. For times only. */
  withFailures?: boolean
  /** In the metric's unit. */
  atMost?: number
  atLeast?: number
  /** Left out: settled holds. */
  window?: JudgedWindow
}

/** Which exchanges generators keep whole. */
export interface ExemplarRule {
  /** Failures kept per kind, second and worker. */
  failuresPerSecond: number
  /** The slowest of each step in every ten seconds. */
  slowest: boolean
  /** Every exchange of one pass in this many; 0: of none. */
  oneInPasses: number
  /** Bound per worker, MB. */
  mostMb: number
}

export const USUAL_EXEMPLARS: ExemplarRule = { failuresPerSecond: 3, slowest: true, oneInPasses: 500, mostMb: 16 }

export interface Plan {
  schema: 'vornak-plan/3'
  name: string
  question: string
  tags?: string[]
  notes?: string
  targetId: string
  groups: Group[]
  locations: Location[]
  /** Per group letter, per location code. A missing cell is 0. */
  placement: Record<string, Record<string, Share>>
  /** Per group letter, per location code. A missing cell adds nothing. */
  networks?: Record<string, Record<string, NetworkMix>>
  objectives: Objective[]
  /** Users one vCPU is assumed to carry, while nothing has been calibrated. */
  assumedUsersPerVcpu: number
  /** How fleets are sized; left out: no spares, a headroom of 0.2. */
  sizing?: Sizing
  /** One user per journey and location before the load. */
  rehearse: boolean
  /** Machines stay this long after the run, min; 0 releases them at the end. */
  keepMachinesMin: number
  /** The run waits so long for machines that are short, min, then gives up; left out: 10. */
  waitForMachinesMin?: number
  /** A run that would cost more is refused, in the currency of the budget; left out: the house's own limit alone. */
  mostCost?: number
  /** Exchanges kept whole; left out: the usual rule. */
  exemplars?: ExemplarRule
  /** Seed of every random choice in the run. */
  seed: number
}

/** How machines are counted out. */
export interface Sizing {
  /** So many of a location's largest machines may be lost, and the rest still carries its users. */
  spares?: number
  /** Part of a calibrated capacity that is left unused, 0–1. */
  headroom?: number
  /** Largest share of a location that interruptible machines of one type may carry, 0–1. */
  interruptibleShare?: number
  /** Every machine is there for the whole run, also where some are needed for the peak alone. */
  allThrough?: boolean
}

/** The part of a run that machines are there for who play the users of a peak: those who come last and leave first. */
export interface PeakShift {
  /** From when its first user comes until its last has left, run time, ms. */
  fromMs: number
  toMs: number
  /** It is ordered so long before `fromMs`, ms; 0: it is gathered with all others, and only leaves early. */
  leadMs: number
  /** Per letter of a group: users of its location numbered above this are played by it, the others by who is there all through. Groups that are not named: none. */
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
export function firstPlaceOf(fleet: readonly FleetOrder[], order: FleetOrder): number {
  return fleet.slice(0, fleet.indexOf(order)).reduce((sum, o) => sum + (o.location === order.location ? o.machines : 0), 0)
}

/** Places of an order's machines among those of its location. */
export function placesOf(fleet: readonly FleetOrder[], order: FleetOrder): number[] {
  const first = firstPlaceOf(fleet, order)
  return Array.from({ length: order.machines }, (_, i) => first + i)
}

/** The order that a place of a location belongs to. */
export function orderOfPlace(fleet: readonly FleetOrder[], location: string, place: number): FleetOrder | undefined {
  return fleet.find(o => o.location === location && place >= firstPlaceOf(fleet, o) && place < firstPlaceOf(fleet, o) + o.machines)
}

/** Minutes a run waits for machines when its plan says nothing. */
export const USUAL_WAIT_MIN = 10

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
  /** It went with fewer machines than were asked for, and with less load in proportion. */
  wentWith?: { machines: number, wanted: number, factor: number }
}

/** How a location's machines were sized: what is known of them, and each capacity it rests on as it was then. */
export interface SizedBy { location: string, basis: Basis, capacities: SizedByCapacity[] }

export interface SizedByCapacity {
  id: string
  origin: CapacityOrigin
  journeyName: string
  machineType: string
  /** Users at its limits. */
  users: number
  /** Where its CPU meets the limit, and at no users. */
  cpu?: { users: number, base: number }
  /** Run that found it, and when, ms since 1970. */
  runId?: number
  at: number
}

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

/** The part of JSON Schema 2020-12 a form is made of: one level of plain values. */
export interface AttachmentSchema {
  type: 'object'
  required?: string[]
  properties: Record<string, { type: 'string' | 'number' | 'integer' | 'boolean', title?: string, description?: string, enum?: (string | number)[], default?: string | number | boolean, minimum?: number, maximum?: number, pattern?: string }>
}

/** A bill beside the machine: by the hour, for each unit of an attached value (a disk's GB) or once; or by what goes out. */
export interface OtherBill { name: string, per: 'hour' | 'GB out', price: number, each?: string }

/** What is billed by time beside a machine with these attachments, per hour. */
export function extrasOf(bills: readonly OtherBill[], attached: Attached): number {
  return bills.filter(b => b.per === 'hour').reduce((sum, b) => {
    const value = b.each === undefined ? 1 : ownOf(attached, b.each)
    return sum + b.price * (typeof value === 'number' ? value : value ? 1 : 0)
  }, 0)
}

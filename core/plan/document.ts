/**
 * The plan document: one question, and everything needed to ask it. What is stored, exchanged as a file, and
 * snapshotted by each run.
 */
import type { TargetFigures } from '../target/source'
import type { Drive } from '../load/drive'
import type { LoadProfile } from '../load/profile'
import type { Attached } from '../offers/machine-type'

/** A number of users on one journey with one load profile. */
export interface Group {
  /** One letter, A to Z: shown wherever the group is. */
  letter: string
  name: string
  journeyId: string
  profile: LoadProfile
  /** What the profile's level is; left out: users. */
  drive?: Drive
  /** Each user leaves after this number of passes; left out: the profile says when. */
  passes?: number
  /** Think times are multiplied by this; left out: 1. */
  thinkScale?: number
  /** Programs its users go by; left out: none says what it is. */
  clients?: ClientMix
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

/** Share of a group at a location: whole basis points (10,000 = 100 %), or what the others leave. */
export type Share = number | 'rest'

/** Network profiles of a cell by their ids, basis points of its users; users left over have none added. */
export type NetworkMix = Record<string, number>

/** Clients of a group by their ids, basis points of its users at every location; users left over say nothing. */
export type ClientMix = Record<string, number>

/**
 * What an objective is about. Percentiles and the mean are of response times in ms, failures a share 0–1, throughput
 * right answers per second. `target`: one of the target's own figures.
 */
export type Metric = 'p50' | 'p90' | 'p95' | 'p99' | 'mean' | 'failures' | 'throughput' | 'users' | 'target'

/** What of the target's own figures an objective is about. */
export interface TargetMeasure {
  /** Name of one of its series. */
  series: string
  /** Value of the label that tells its lines apart; left out: every line, of which the worst counts. */
  split?: string
  /** Of the readings in a window; left out: their mean. */
  extreme?: 'highest' | 'lowest'
  /** Held against the users who were there: a share of them. */
  ofUsers?: boolean
  /** As it was written behind the limit. */
  unit?: string
}

/** When an objective must hold: in settled holds, over the whole load, or in every stretch of a given length, s. */
export type JudgedWindow = 'holds' | 'whole' | { everyS: number }

/** A pass/fail statement about the result. Exactly one of `atMost` and `atLeast` is there. */
export interface Objective {
  metric: Metric
  /** Of the metric `target`. */
  target?: TargetMeasure
  /** Step, bundle or span; left out: all requests. */
  step?: string
  /**
   * Journey whose step it is, or whose users it is about; left out: all. Where several have a step of that name, it
   * must be there.
   */
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
  /** The target's own figures are read beside the load; left out: they are not. */
  targetFigures?: TargetFigures
  /** Every request begins a trace: it carries `traceparent`, as W3C Trace Context has it; left out: none does. */
  traces?: boolean
  /** Addresses its runs' reports are mailed to, when they end; left out: none. */
  mailTo?: string[]
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
  /** This many of a location's largest machines may be lost, and the rest still carries its users. */
  spares?: number
  /** Part of a calibrated capacity that is left unused, 0–1. */
  headroom?: number
  /** Largest share of a location that interruptible machines of one type may carry, 0–1. */
  interruptibleShare?: number
  /** Every machine is there for the whole run, also where some are needed for the peak alone. */
  allThrough?: boolean
}

/** Minutes a run waits for machines when its plan says nothing. */
export const USUAL_WAIT_MIN = 10

/**
 * What a calibration found one generator can carry, signal by signal: a vector, so that another think time rescales it
 * and mixed groups add up.
 */
import { type Journey, requestsOf, stepsOf } from '../journey/journey'
import type { NetworkProfile } from '../network/profile'
import { BEYOND_TRIED, type Estimate } from './estimate'
import { SIGNAL_ORDER, type Signal } from './signals'

/** How a capacity came to be known. */
export type CapacityOrigin = 'calibrated' | 'byHand' | 'refined'

/** One signal's part: where it meets its limit, and what the users before that cost. */
export interface SignalCapacity {
  /** Users at which it meets its limit: middle and 95 % interval; without `upper` it may as well never be met. */
  users: number
  lower: number
  upper?: number
  /** Value at no users. */
  base: number
}

export interface Capacity {
  schema: 'vornak-capacity/1'
  id: string
  origin: CapacityOrigin
  journeyId: string
  journeyName: string
  /** Id of the network profile, or `direct`. */
  network: string
  provider: string
  machineType: string
  vcpu: number
  outcome: Estimate['outcome']
  why?: Estimate['why']
  /** Users one generator carries at its limits; 0 when inconclusive. */
  users: number
  lower: number
  /** Left out: nobody knows how much more. */
  upper?: number
  binds?: Signal
  /** Signals that met their limits, or would not far beyond what was tried. */
  signals: Partial<Record<Signal, SignalCapacity>>
  /** A pass while all was well: mean response time and think time, ms; and its requests. */
  responseMs: number
  thinkMs: number
  requestsPerPass: number
  /** What a pass and a user cost; left out where it was not seen. */
  costs: {
    cpuUsPerRequest?: number
    cpuUsPerPass?: number
    bytesPerPass?: number
    memoryKbPerUser?: number
    socketsPerUser?: number
  }
  /** Machines it was measured on, and how far apart their capacities lay: standard deviation ÷ mean. */
  machines: number
  spread?: number
  /** Of journey, network profile, machine type and generator release. */
  fingerprint: string
  journeyVersion: number
  release: string
  /** ms since 1970. */
  at: number
  /** Run that found it. */
  runId?: number
  /** Where it was measured, and against what. */
  location?: string
  target?: string
  /** Price of the machine, per hour; with its currency. */
  perHour?: number
  currency?: string
  note?: string
}

/**
 * Part of one generator that one user takes, by signal; `tried`: of what was tried at most; `assumed`: of what is
 * assumed.
 */
export type Use = Partial<Record<Signal | 'tried' | 'assumed', number>>

/** Left unused on top of the limits, unless a plan says otherwise. */
export const USUAL_HEADROOM = 0.2
/** Signals that grow with users who are there, whatever they do; the others grow with what they do. */
const PER_USER: readonly Signal[] = ['memoryShare', 'socketShare', 'portShare']

/** Users one generator should be given. @param headroom 0–1, beside the limits */
export function recommended(capacity: Pick<Capacity, 'lower'>, headroom = USUAL_HEADROOM): number {
  return Math.floor(capacity.lower * (1 - headroom) + 1e-9)
}

/**
 * “75 % × 80 % = 60 %”: both margins as one figure, of the whole CPU for instance. @param limit of the binding signal
 * @param headroom 0–1
 */
export function bothMargins(limit: number, headroom: number): number {
  return limit * (1 - headroom)
}

/**
 * Part of one generator that one user takes, signal by signal: users × use adds up over mixed groups, and 1 is full. A
 * signal that grows with passes is rescaled to the think time the users will have; the response time is that of the
 * calibration, so that a slow target does not inflate capacity.
 *
 * @param planned think time of a pass, and the rhythm passes keep, ms @param headroom 0–1
 * @returns empty for what carries nothing
 */
export function useOf(capacity: Capacity, planned: { thinkMs: number, pacingMs?: number }, headroom: number): Use {
  const scale =
    (capacity.responseMs + capacity.thinkMs) / Math.max(1, capacity.responseMs + planned.thinkMs, planned.pacingMs ?? 0)
  const use: Use = {}
  for (const signal of SIGNAL_ORDER) {
    const of = capacity.signals[signal]
    if (of && of.lower > 0) use[signal] = (PER_USER.includes(signal) ? 1 : scale) / (of.lower * (1 - headroom))
  }
  // What nobody has seen beyond is no more than what was tried.
  if (capacity.outcome === 'atLeast' || Object.keys(use).length === 0) {
    if (capacity.lower > 0) use.tried = scale / (capacity.lower * (1 - headroom))
  }
  return use
}

/**
 * What decides whether a calibration still holds, as text to be hashed. The journey counts without its name, notes and
 * tags.
 */
export function fingerprintText(of: {
  journey: Journey
  network: NetworkProfile | undefined
  provider: string
  machineType: string
  release: string
}): string {
  // Journeys of either kind may have them; what is left is what is sent.
  const { name: _, notes: __, tags: ___, ...journey } = of.journey as Journey & { notes?: string, tags?: string[] }
  const { latencyMs, jitterMs, loss, downBps, upBps } = of.network ?? {}
  return JSON.stringify([
    sorted(journey),
    [latencyMs, jitterMs, loss, downBps, upBps],
    of.provider,
    of.machineType,
    of.release,
  ])
}

function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([k, v]) => [k, sorted(v)]),
  )
}

/** @param cores granted to the machine, and its memory @param thinkMs of a pass in the calibration */
export function capacityFrom(
  found: Estimate,
  about: Omit<
    Capacity,
    | 'schema'
    | 'outcome'
    | 'why'
    | 'users'
    | 'lower'
    | 'upper'
    | 'binds'
    | 'signals'
    | 'responseMs'
    | 'requestsPerPass'
    | 'costs'
    | 'fingerprint'
  > & { fingerprint: string },
  machine: { cores: number, memoryBytes: number, descriptors: number, bytesPerPass?: number },
  journey: Journey,
): Capacity {
  const { passRate, signals } = found
  const requestsPerPass =
    journey.kind === 'http' ? stepsOf(journey, 'round').reduce((sum, s) => sum + requestsOf(s).length, 0) : 1
  const cpuPerUser = signals.cpuShare?.perUser ?? 0
  const cpuUsPerPass = passRate > 0 && cpuPerUser > 0 ? (cpuPerUser * machine.cores * 1e6) / passRate : undefined
  const memory = signals.memoryShare
  const sockets = signals.socketShare
  const claimed = SIGNAL_ORDER.flatMap((s) => {
    const seen = signals[s]
    if (!seen?.crossing || !seen.rises || found.outcome === 'inconclusive' || !Number.isFinite(seen.crossing.users))
      return []
    const { users, lower, upper } = seen.crossing
    // Beyond what was tried it is at least known to have been well there.
    const sure = users > BEYOND_TRIED * found.largest ? Math.max(lower, seen.within ?? 0) : lower
    const part: SignalCapacity = { users, lower: sure, ...(upper === undefined ? {} : { upper }), base: seen.base }
    return sure > 0 ? [[s, part] as const] : []
  })
  return {
    schema: 'vornak-capacity/1',
    ...about,
    outcome: found.outcome,
    ...(found.why ? { why: found.why } : {}),
    users: found.users,
    lower: found.lower,
    ...(found.upper !== undefined && found.outcome === 'measured' ? { upper: found.upper } : {}),
    ...(found.binds && found.outcome === 'measured' ? { binds: found.binds } : {}),
    signals: Object.fromEntries(claimed),
    // Interactive response time law: R = N ÷ X − Z (Denning & Buzen 1978).
    responseMs: passRate > 0 ? Math.max(0, 1000 / passRate - about.thinkMs) : 0,
    requestsPerPass,
    costs: {
      ...(cpuUsPerPass === undefined
        ? {}
        : { cpuUsPerPass, cpuUsPerRequest: cpuUsPerPass / Math.max(1, requestsPerPass) }),
      ...(machine.bytesPerPass === undefined ? {} : { bytesPerPass: machine.bytesPerPass }),
      ...(memory && memory.perUser > 0 ? { memoryKbPerUser: (memory.perUser * machine.memoryBytes) / 1024 } : {}),
      ...(sockets && sockets.perUser > 0 ? { socketsPerUser: sockets.perUser * machine.descriptors } : {}),
    },
  }
}

/** Capacity known by hand: nothing but a number of users. */
export function capacityByHand(
  users: number,
  about: Omit<
    Capacity,
    'schema' | 'origin' | 'outcome' | 'users' | 'lower' | 'signals' | 'requestsPerPass' | 'costs' | 'machines'
  >,
): Capacity {
  return {
    schema: 'vornak-capacity/1',
    origin: 'byHand',
    outcome: 'measured',
    users,
    lower: users,
    upper: users,
    signals: {},
    requestsPerPass: 1,
    costs: {},
    machines: 0,
    ...about,
  }
}

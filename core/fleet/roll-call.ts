/**
 * The roll call: what a generator reports of itself and its way to the target, and what that means beside its siblings.
 */
import { median } from '../values/median'

/** The way from a generator to one host, measured once each. Times in ms, −1 where that part did not happen. */
export interface ReachedHost {
  host: string
  ok: boolean
  /** Everything the name resolves to there. */
  addresses: string[]
  lookupMs: number
  /** Least of three connections. */
  connectMs: number
  tlsMs: number
  firstByteMs: number
  /** Of the answer to one GET; 0: none came. */
  status: number
  /** The answer looks like a test that only people pass. */
  challenge: boolean
  /** Address the connection left from. */
  from: string
  problem?: string
}

export interface RollCallReport {
  /** What it was sent, so that every machine has really answered now. */
  nonce: string
  /** Release of the generator program. */
  program: string
  /** Rounds of a fixed piece of work per ms of CPU, best of three: compares siblings, nothing else. */
  speed: number
  memoryFreeBytes: number
  descriptors: number
  /** Local ports connections may leave from. */
  ports: number
  /** Of the disk it works on; −1: not known. */
  diskFreeBytes: number
  reached: ReachedHost[]
  runtimes: { program: string, ok: boolean, said: string }[]
  /** Where nothing is calibrated. */
  selfTest?: SelfTest
}

/** What an exchange costs a machine, against a server of its own. */
export interface SelfTest {
  requests: number
  cpuUsPerRequest: number
  /** Requests/s at which its CPU would meet the limit. */
  mostPerS: number
}

/** A report with what the controller knows of the machine. */
export interface CalledMachine {
  id: string
  name: string
  location: string
  type: string
  /** Address it connects to the controller from; undefined: not over the network. */
  address: string | undefined
  clock: { offsetMs: number, uncertaintyMs: number } | undefined
  /** undefined: it has not answered. */
  report: RollCallReport | undefined
  nonce: string
  /** Requests/s planned for it at its heaviest moment, where a self-test was asked for. */
  plannedPerS?: number
}

export type RollCallCode =
  | 'silent'
  | 'nonce'
  | 'program'
  | 'clock'
  | 'clockOff'
  | 'unreached'
  | 'blocked'
  | 'runtime'
  | 'slow'
  | 'overSelfTest'
  | 'descriptors'
  | 'ports'
  | 'disk'
  | 'sharedAddress'

/** `unfit`: it cannot take part. `note`: it can, and somebody should know. */
export interface RollCallFinding {
  machine: string
  code: RollCallCode
  weight: 'unfit' | 'note'
  sentence: string
  means: string
}

/** A clock known no better than this makes a generator unfit, ms. */
export const WORST_CLOCK_MS = 300
/** A clock this far off is told, ms; it is corrected for. */
const FAR_OFF_MS = 1000
/** A sibling slower than this share of the median is told. Common practice, no source. */
const SLOW_SHARE = 0.8
/** Fewer than these are told. Common practice, no source. */
const FEW_DESCRIPTORS = 4096
const FEW_PORTS = 8192
const LITTLE_DISK_BYTES = 256 * 1024 * 1024

type Answered = CalledMachine & { report: RollCallReport }

/** @param program release the controller would start */
// eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
export function judgeRollCall(machines: readonly CalledMachine[], program: string): RollCallFinding[] {
  const found: RollCallFinding[] = []
  const tell = (
    m: CalledMachine,
    code: RollCallCode,
    weight: RollCallFinding['weight'],
    sentence: string,
    means: string,
  ) => found.push({ machine: m.id, code, weight, sentence, means })
  const answered = machines.flatMap(m => (m.report === undefined ? [] : [{ ...m, report: m.report }]))
  const blocked = blockedAt(answered)
  const usualSpeeds = new Map(
    [...grouped(answered, m => `${m.location} ${m.type}`)].map(([kind, siblings]) => [
      kind,
      { usual: median(siblings.map(m => m.report.speed)), siblings: siblings.length },
    ]),
  )
  const byAddress = grouped(
    answered.filter(m => m.address !== undefined),
    m => m.address ?? '',
  )
  for (const m of machines) {
    const { report: r } = m
    if (!r) {
      tell(
        m,
        'silent',
        'unfit',
        'did not answer the roll call',
        'Its generator is stuck or out of touch: read its log, or take another machine.',
      )
      continue
    }
    if (r.nonce !== m.nonce)
      tell(
        m,
        'nonce',
        'unfit',
        'answered another roll call than this one',
        'Something repeats its old answer: take another machine.',
      )
    if (r.program !== program)
      tell(
        m,
        'program',
        'note',
        `runs release ${r.program}, the controller ${program}`,
        'It speaks the same protocol; small differences in measuring are possible.',
      )
    if (m.clock && m.clock.uncertaintyMs > WORST_CLOCK_MS)
      tell(
        m,
        'clock',
        'unfit',
        `its clock is known to ± ${Math.round(m.clock.uncertaintyMs)} ms only`,
        'Its seconds cannot be laid over the others’: look at its connection to the controller.',
      )
    else if (m.clock && Math.abs(m.clock.offsetMs) > FAR_OFF_MS)
      tell(
        m,
        'clockOff',
        'note',
        `its clock is ${(m.clock.offsetMs / 1000).toFixed(1)} s off`,
        'It is corrected for; certificates and signed requests may still fail there.',
      )
    for (const reach of r.reached) {
      if (!reach.ok)
        tell(
          m,
          'unreached',
          'unfit',
          `does not reach ${reach.host}: ${reach.problem ?? 'no answer'}`,
          'A firewall, a route or the name is in the way between this location and the target.',
        )
      else if (blocked.has(`${m.location} ${reach.host}`))
        tell(
          m,
          'blocked',
          'note',
          `${reach.host} answers ${reach.status}${reach.challenge ? ' with a challenge' : ''} there, and there alone`,
          'The target or what stands before it turns this location away: what it measures is the refusal.',
        )
    }
    for (const runtime of r.runtimes)
      if (!runtime.ok)
        tell(
          m,
          'runtime',
          'unfit',
          `${runtime.program} ${runtime.said}`,
          'A journey of this plan needs the program: install it there, or place its group elsewhere.',
        )
    const { usual = r.speed, siblings = 1 } = usualSpeeds.get(`${m.location} ${m.type}`) ?? {}
    if (siblings > 1 && r.speed < SLOW_SHARE * usual)
      tell(
        m,
        'slow',
        'note',
        `${Math.round((1 - r.speed / usual) * 100)} % slower than its siblings`,
        'Its host is busy or older: it carries less than it was sized for.',
      )
    if (r.selfTest && m.plannedPerS !== undefined && m.plannedPerS > r.selfTest.mostPerS)
      tell(
        m,
        'overSelfTest',
        'note',
        `is to send ${Math.round(m.plannedPerS)} requests/s; its self-test bears about ${Math.round(r.selfTest.mostPerS)}`,
        'It will become the bottleneck: calibrate, or take more or larger machines.',
      )
    if (r.descriptors < FEW_DESCRIPTORS)
      tell(
        m,
        'descriptors',
        'note',
        `only ${r.descriptors} open descriptors are allowed`,
        'Each connection takes one: raise the limit where many users keep one each.',
      )
    if (r.ports < FEW_PORTS)
      tell(
        m,
        'ports',
        'note',
        `only ${r.ports} local ports`,
        'Short connections use them up for a minute each (RFC 6056 tells how they are chosen): widen the range.',
      )
    if (r.diskFreeBytes >= 0 && r.diskFreeBytes < LITTLE_DISK_BYTES)
      tell(
        m,
        'disk',
        'note',
        `only ${Math.round(r.diskFreeBytes / 1024 / 1024)} MB of disk are free`,
        'What it cannot send is kept there.',
      )
    const atAddress = m.address === undefined ? [] : (byAddress.get(m.address) ?? [])
    const sharing = atAddress.length - 1
    if (sharing > 0) {
      const some = atAddress
        .slice(0, 4)
        .filter(o => o.id !== m.id)
        .slice(0, 3)
        .map(o => o.name)
      tell(
        m,
        'sharedAddress',
        'note',
        `shares the address ${m.address} with ${some.join(', ')}${sharing > some.length ? ` and ${sharing - some.length} more` : ''}`,
        'The target sees them as one client: limits by address hit them together.',
      )
    }
  }
  return found
}

/** `LOC host` where every machine of the location is turned away and those of another are not. */
function blockedAt(machines: readonly Answered[]): Set<string> {
  const turnedAway = new Map<string, Map<string, boolean>>()
  for (const { location, report } of machines)
    for (const reach of report.reached) {
      if (!reach.ok || reach.status === 0) continue
      const byLocation = turnedAway.get(reach.host) ?? new Map<string, boolean>()
      turnedAway.set(reach.host, byLocation)
      byLocation.set(
        location,
        (byLocation.get(location) ?? true) && (reach.status === 403 || reach.status === 429 || reach.challenge),
      )
    }
  return new Set(
    [...turnedAway].flatMap(([host, byLocation]) =>
      [...byLocation.values()].includes(false)
        ? [...byLocation].filter(([, away]) => away).map(([location]) => `${location} ${host}`)
        : [],
    ),
  )
}

function grouped<T>(list: readonly T[], key: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const item of list) {
    const group = groups.get(key(item))
    if (group) group.push(item)
    else groups.set(key(item), [item])
  }
  return groups
}

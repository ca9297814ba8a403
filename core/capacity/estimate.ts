/**
 * What the seconds of a calibration say so far: each signal's fit, the capacity of one generator, what binds, and
 * whether any of it can be believed.
 */
import { fitSignal, type SignalFit } from './fit-signal'
import { NEIGHBOURS, SIGNAL_LIMITS, SIGNAL_ORDER, SIGNAL_PHRASES, saySignal, type Health, type Signal } from './signals'
import { median } from '../values/median'
import { meansOf, type LevelMean } from './steps-watched'
import { entriesIn } from '../values/written-out'
import { present } from '../values/present'

/** One settled second of one generator. */
export interface WatchedSecond {
  passes: number
  right: number
  failed: number
  bytes: number
  health: Health
}

/** A level that was held, of one generator. */
export interface HeldLevel {
  users: number
  /** Quiet ones: those in which neighbours took CPU are set aside. */
  seconds: readonly WatchedSecond[]
  /** How many were set aside. */
  aside?: number
  confirming?: boolean
}

/** A signal as it was seen and fitted. */
export interface SeenSignal extends SignalFit {
  levels: LevelMean[]
  /**
   * How much neighbouring seconds resemble one another, 0 to 1: the more, the fewer independent ones they are worth.
   * Evidence of earlier releases does not say.
   */
  resemblance?: number
}

export type Inconclusive = 'target' | 'wrongAnswers' | 'noise' | 'notQuiet' | 'stolen' | 'fewLevels' | 'broken'

export interface Estimate {
  outcome: 'measured' | 'atLeast' | 'inconclusive'
  why?: Inconclusive
  /** Users one generator carries; of `atLeast`: the largest level that was within every limit. */
  users: number
  lower: number
  /** Left out: nobody knows how much more. */
  upper?: number
  /** Also of one that only noise keeps from being known. */
  binds: Signal | undefined
  signals: Partial<Record<Signal, SeenSignal>>
  /** Largest level tried. */
  largest: number
  /** Passes per user and second while every signal was well. */
  passRate: number
  /** failed ÷ ended over everything. */
  failureShare: number
}

/** Nothing is claimed beyond this times the largest level tried. */
export const BEYOND_TRIED = 1.25
/** Signals that spike, and rise by factors: their medians are taken, and they are fitted as logarithms. */
const SPIKING: readonly Signal[] = ['loopDelayP99Ms', 'scheduleLagP99Ms', 'stolenShare', 'throttledShare']
/** Added before the logarithm, as a share of the limit: what is far below it is all the same. */
const LOG_FLOOR = 0.05
/** Nothing is read off more exactly: share of a limit, and of a value where logarithms are fitted. */
const FINEST = 0.002
const FINEST_LOG = 0.05
/** A user whose passes come this much more seldom than at low load waits for somebody. Common practice, no source. */
const FLAT_SHARE = 0.85
/** This many standard deviations are no chance, however many levels are looked at. */
const SURELY_Z = 3.3
/** Signals are well below this share of their limits. */
const WELL_SHARE = 0.9
/** More wrong answers than this, and it is not the journey that was measured. Common practice, no source. */
const WRONG_SHARE = 0.02
/** An interval wider than this share of its middle says nothing. */
const NOISE_SHARE = 0.6
/**
 * A second in which they took more than this tells of them and not of the load, unless they always take it: what was
 * stolen delays everything else and makes each request dearer.
 */
export const STOLEN_ASIDE_SHARE = 0.02
/** A level with fewer quiet seconds says nothing, when others had to be set aside. */
const FEWEST_QUIET = 4
/** A signal that does not move by this share of its limit over the levels is left out: it is not what binds. */
const MOVES_SHARE = 0.02

export function estimate(given: readonly HeldLevel[]): Estimate {
  const levels = mergeEqual(given)
  const signals: Partial<Record<Signal, SeenSignal>> = {}
  for (const signal of SIGNAL_ORDER) {
    const least = MOVES_SHARE * SIGNAL_LIMITS[signal]
    // Nothing is fitted to what never moves.
    if (!levels.some(l => l.seconds.some(s => s.health[signal] > least))) continue
    const seen = seenSignal(levels, signal)
    if (seen.levels.some(m => m.mean > least)) signals[signal] = seen
  }
  const largest = levels.at(-1)?.users ?? 0
  const own = ownSignals({ signals })
  const claimed = own
    .flatMap(([signal, { rises, crossing }]) =>
      rises && crossing && crossing.users <= BEYOND_TRIED * largest ? [{ signal, crossing }] : [],
    )
    .sort((a, b) => a.crossing.users - b.crossing.users)
  const [first] = claimed
  const binds = first?.signal
  const well = levels.filter(l => own.every(([, s]) => meanAt(s, l.users) <= WELL_SHARE * s.limit))
  const reference = well.length > 0 ? well.slice(0, Math.max(1, Math.ceil(well.length / 2))) : levels.slice(0, 1)
  const passRate = rateOf(reference)
  const ended = levels.reduce((sum, l) => sum + l.seconds.reduce((s, w) => s + w.right + w.failed, 0), 0)
  const failed = levels.reduce((sum, l) => sum + l.seconds.reduce((s, w) => s + w.failed, 0), 0)
  const found = { signals, largest, passRate, failureShare: ended > 0 ? failed / ended : 0 }
  const nothing = (why: Inconclusive): Estimate => ({
    ...found,
    outcome: 'inconclusive',
    why,
    users: 0,
    lower: 0,
    upper: 0,
    binds: why === 'noise' ? binds : undefined,
  })
  if (levels.length === 0) return nothing('fewLevels')
  if (found.failureShare > WRONG_SHARE) return nothing('wrongAnswers')
  if (isDisturbed(given)) return nothing('stolen')
  if (own.some(([, s]) => s.within === undefined && isSureBeyond(s))) return nothing('notQuiet')
  const flat = well.find(
    l => l.users < (first?.crossing.users ?? Number.POSITIVE_INFINITY) && isSurelySlower(l, reference, FLAT_SHARE),
  )
  if (flat) return nothing('target')
  if (levels.length < 3) return nothing('fewLevels')
  if (!first) {
    const within = Math.min(...own.flatMap(([, s]) => (s.rises && s.within !== undefined ? [s.within] : [])), largest)
    return {
      ...found,
      outcome: 'atLeast',
      users: within,
      lower: within,
      binds: undefined,
    }
  }
  const { users } = first.crossing
  const lower = Math.min(...claimed.map(c => c.crossing.lower))
  const upper = Math.max(users, Math.min(...claimed.map(c => c.crossing.upper ?? Number.POSITIVE_INFINITY)))
  if (upper - lower > NOISE_SHARE * users) return nothing('noise')
  return { ...found, outcome: 'measured', users, lower, upper, binds }
}

/** All but what neighbours do. */
export function ownSignals({ signals }: Pick<Estimate, 'signals'>): [Signal, SeenSignal][] {
  return entriesIn(signals).filter(([signal]) => signal !== NEIGHBOURS)
}

/** “CPU meets its limit of 75 % at 412 users”. */
export function sayBinds({
  outcome,
  binds,
  signals,
  users,
  largest,
}: Pick<Estimate, 'outcome' | 'binds' | 'signals' | 'users' | 'largest'>): string {
  if (outcome === 'atLeast')
    return `No signal came near its limit up to ${Math.floor(largest)} users: it carries at least ${Math.floor(users)}.`
  if (!binds) return ''
  return `${SIGNAL_PHRASES[binds].replace(/^./, c => c.toUpperCase())} binds: it meets its limit of ${saySignal(binds, signals[binds]!.limit)} at ${Math.round(users)} users.`
}

/** Whether the held level of a verification was borne: every signal within its limit. */
export function sayVerified({ levels }: { levels: readonly HeldLevel[] }): { held: boolean, sentence: string } {
  const last = levels.at(-1)
  if (last && isDisturbed([last])) return { held: false, sentence: WHY_INCONCLUSIVE.stolen.sentence }
  if (!last || last.seconds.length === 0) return { held: false, sentence: 'Nothing was seen.' }
  const middles = SIGNAL_ORDER.filter(signal => signal !== NEIGHBOURS).map(signal => ({
    signal,
    value: median(last.seconds.map(s => s.health[signal])),
    limit: SIGNAL_LIMITS[signal],
  }))
  const worst = present(middles.sort((a, b) => b.value / b.limit - a.value / a.limit)[0], 'one of the signals')
  const held = worst.value <= worst.limit
  return {
    held,
    sentence: `${held ? 'Borne' : 'Not borne'}: ${last.users} users in their mix bring ${SIGNAL_PHRASES[worst.signal]} to ${saySignal(worst.signal, worst.value)}, limit ${saySignal(worst.signal, worst.limit)}.`,
  }
}

export const WHY_INCONCLUSIVE: Record<Inconclusive, { sentence: string, next: string }> = {
  target: {
    sentence: 'The target gave out first: users waited longer while every signal of the generator was well.',
    next: 'Calibrate against the built-in sink, or raise the target’s own capacity.',
  },
  wrongAnswers: {
    sentence: 'Too many answers were wrong: it is not the journey that was measured.',
    next: 'Try the journey, fix what fails, and calibrate again.',
  },
  noise: {
    sentence: 'The signals scatter as much as they rise with the load.',
    next: 'Calibrate again when the machine and its neighbours are quieter, or take several machines.',
  },
  notQuiet: {
    sentence:
      'A signal was over its limit at the lowest load already, or fell with the load: something else is at work on the machine.',
    next: 'Look at the machine’s roll call, or take another machine.',
  },
  stolen: {
    sentence: 'Neighbours took so much of the machine’s CPU that too few seconds were quiet.',
    next: 'Calibrate again later, on another type of machine, or with fewer seconds set aside.',
  },
  fewLevels: { sentence: 'It ended before three levels were held.', next: 'Calibrate again.' },
  broken: {
    sentence: 'Its machine was lost, or the run was ended.',
    next: 'Calibrate again: what was seen until then is not used.',
  },
}

/** Beyond its limit at the lowest level, and not by chance. */
function isSureBeyond({ levels, limit }: SeenSignal): boolean {
  return levels[0]!.mean - 2 * levels[0]!.se > limit || levels.every(l => l.mean > limit)
}

/** Of one of the levels too little is left that was quiet. */
function isDisturbed(levels: readonly HeldLevel[]): boolean {
  return levels.some(l => (l.aside ?? 0) > 0 && l.seconds.length < FEWEST_QUIET)
}

function seenSignal(levels: readonly HeldLevel[], signal: Signal): SeenSignal {
  const limit = SIGNAL_LIMITS[signal]
  const watched = (of: (value: number) => number) =>
    levels.map(l => ({ users: l.users, values: l.seconds.map(s => of(s.health[signal])) }))
  if (!SPIKING.includes(signal)) {
    const { levels: means, resemblance } = meansOf(
      watched(v => v),
      FINEST * limit,
    )
    return { ...fitSignal(means, limit), levels: means, resemblance }
  }
  const floor = LOG_FLOOR * limit
  const back = (log: number) => Math.exp(log) - floor
  const { levels: logs, resemblance } = meansOf(
    watched(v => Math.log(v + floor)),
    FINEST_LOG,
    true,
  )
  const fit = fitSignal(logs, Math.log(limit + floor))
  return {
    ...fit,
    limit,
    base: back(logs[0]?.mean ?? Math.log(floor)),
    perUser: 0,
    points: fit.points.map(p => ({ users: p.users, value: back(p.value) })),
    levels: logs.map(l => ({ ...l, mean: back(l.mean), se: Math.exp(l.mean) * l.se })),
    resemblance,
  }
}

function meanAt(signal: SeenSignal, users: number): number {
  return signal.levels.find(l => l.users === users)?.mean ?? 0
}

/** Passes per user and second. */
function rateOf(levels: readonly HeldLevel[]): number {
  let [passes, userSeconds] = [0, 0]
  for (const { users, seconds } of levels)
    for (const s of seconds) {
      passes += s.passes
      userSeconds += users
    }
  return userSeconds > 0 ? passes / userSeconds : 0
}

/**
 * Passes come more seldom by this share, and not by chance: counts scatter, and few of them say little (logarithm of a
 * ratio of Poisson counts; its variance is 1/n + 1/m).
 */
function isSurelySlower(level: HeldLevel, reference: readonly HeldLevel[], share: number): boolean {
  const passesOf = (of: readonly HeldLevel[]) =>
    of.reduce((sum, l) => sum + l.seconds.reduce((n, s) => n + s.passes, 0), 0)
  const [here, there] = [passesOf([level]), passesOf(reference)]
  const ratio = rateOf([level]) / rateOf(reference)
  return (
    there > 0 &&
    ratio < share &&
    Math.log(Math.max(ratio, 1e-9)) + SURELY_Z * Math.sqrt(1 / Math.max(1, here) + 1 / there) < 0
  )
}

/** Levels held more than once, or by siblings, become one; rising in users. */
function mergeEqual(levels: readonly HeldLevel[]): HeldLevel[] {
  const byUsers = new Map<number, WatchedSecond[]>()
  for (const { users, seconds } of levels)
    if (seconds.length > 0) byUsers.set(users, [...(byUsers.get(users) ?? []), ...seconds])
  return [...byUsers].sort((a, b) => a[0] - b[0]).map(([users, seconds]) => ({ users, seconds }))
}

/** How the generators of a run were, second by second: users on them and their own signals, as their frames told. */
import { SIGNAL_LIMITS, SIGNAL_ORDER, worstOf, worstSignal, type Health, type Signal } from '../capacity/signals'
import { keyed } from '../values/written-out'

/** What one worker of a generator told of one second. */
export interface WorkerSecond {
  second: number
  /** Users present at its end. */
  users: number
  health: Health
}

/** One generator over a whole run. */
export interface MachineRecord {
  generator: number
  /** First and last second it told of. */
  firstS: number
  lastS: number
  /** Most users at once. */
  usersAtMost: number
  /** Seconds in which a signal was over its limit. */
  overS: number
  /** The signal that came furthest beyond its limit, or nearest to it, with its second. */
  worst: { signal: Signal, value: number, second: number }
}

/** One generator over a window, in bins of a given length: of users and of each signal the largest of a bin. */
export interface MachineCourse {
  fromS: number
  /** Seconds per bin. */
  binS: number
  /** Of bins nobody told of: null. */
  users: (number | null)[]
  signals: Record<Signal, (number | null)[]>
}

/** A generator in one second: the sum of its workers' users, the worst of their signals. */
interface MachineSecond {
  users: number
  health: Health
}

function secondsOf(told: Iterable<WorkerSecond>): Map<number, MachineSecond> {
  const seconds = new Map<number, MachineSecond>()
  for (const { second, users, health } of told) {
    const before = seconds.get(second)
    seconds.set(second, {
      users: (before?.users ?? 0) + users,
      health: before ? worstOf(before.health, health) : health,
    })
  }
  return seconds
}

/** @returns undefined of one that told nothing */
export function machineRecord(generator: number, told: Iterable<WorkerSecond>): MachineRecord | undefined {
  const seconds = secondsOf(told)
  return seconds.size === 0 ? undefined : recordOf(generator, seconds)
}

function recordOf(generator: number, seconds: ReadonlyMap<number, MachineSecond>): MachineRecord {
  let worst = { signal: SIGNAL_ORDER[0]!, value: 0, second: 0 }
  let worstRatio = -1
  let usersAtMost = 0
  let overS = 0
  for (const [second, { users, health }] of seconds) {
    usersAtMost = Math.max(usersAtMost, users)
    const { signal, ratio } = worstSignal(health)
    if (ratio > 1) overS++
    if (ratio <= worstRatio) continue
    worstRatio = ratio
    worst = { signal, value: ratio * SIGNAL_LIMITS[signal], second }
  }
  const at = [...seconds.keys()]
  return {
    generator,
    firstS: at.reduce((a, b) => Math.min(a, b), Infinity),
    lastS: at.reduce((a, b) => Math.max(a, b), -1),
    usersAtMost,
    overS,
    worst,
  }
}

/**
 * @param toS exclusive
 * @param mostBins a window of more seconds is told in bins of several
 */
export function machineCourse(
  told: Iterable<WorkerSecond>,
  { fromS, toS }: { fromS: number, toS: number },
  mostBins: number,
): MachineCourse {
  const binS = Math.max(1, Math.ceil((toS - fromS) / mostBins))
  const bins = Math.max(0, Math.ceil((toS - fromS) / binS))
  const none = () => new Array<number | null>(bins).fill(null)
  const users = none()
  const signals = keyed(SIGNAL_ORDER, none)
  for (const [second, { users: present, health }] of secondsOf(told)) {
    const bin = Math.floor((second - fromS) / binS)
    if (bin < 0 || bin >= bins) continue
    users[bin] = Math.max(users[bin] ?? 0, present)
    for (const signal of SIGNAL_ORDER) signals[signal][bin] = Math.max(signals[signal][bin] ?? 0, health[signal])
  }
  return { fromS, binS, users, signals }
}

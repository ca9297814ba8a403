/**
 * Turns a profile round: from "how many users at this moment" to "when does user i start and stop". Done once, in whole
 * milliseconds, so that no user is lost to rounding at a corner and every machine computes the same answer.
 *
 * User i (from 1) is present while the level is above i − ½. So the number present is the level rounded, at every
 * moment, and the users' stays add up to the area under the line exactly. Ramp-down takes the last-started first.
 */
import { lengthMs, type LoadProfile, peakOf, type Stay } from './profile'

/**
 * Stays of each user 1…N of the profile, N being its peak; entry 0 is user 1.
 * A user has several stays when the level falls and rises again. Stays shorter than 1 ms vanish.
 */
export function staysOf(profile: LoadProfile): Stay[][] {
  const users = peakOf(profile)
  const stays: Stay[][] = Array.from({ length: users }, () => [])
  const open = new Array<number>(users).fill(-1)
  let at = profile.startDelayMs
  let level = 0
  for (const { to, overMs } of profile.segments) {
    const crossing = (user: number) => Math.round(at + (overMs * (user - 0.5 - level)) / (to - level))
    // A level is a whole number, so the users between two levels are exactly those from one to the other.
    for (let user = level + 1; user <= to; user++) open[user - 1] = overMs === 0 ? at : crossing(user)
    for (let user = level; user > to; user--)
      close(stays[user - 1]!, open[user - 1]!, overMs === 0 ? at : crossing(user))
    at += overMs
    level = to
  }
  const end = lengthMs(profile)
  for (let user = 1; user <= level; user++) close(stays[user - 1]!, open[user - 1]!, end)
  return stays
}

/**
 * From when a user of the profile first comes until it has left for good, as {@link staysOf} has it; undefined: there
 * is no such user. @param user from 1
 */
export function spanOf(profile: LoadProfile, user: number): Stay | undefined {
  let at = profile.startDelayMs
  let level = 0
  let startMs: number | undefined
  let stopMs = 0
  for (const { to, overMs } of profile.segments) {
    const crossing = overMs === 0 ? at : Math.round(at + (overMs * (user - 0.5 - level)) / (to - level))
    if (level < user && to >= user) startMs ??= crossing
    if (level >= user && to < user) stopMs = crossing
    at += overMs
    level = to
  }
  if (level >= user) stopMs = at
  return startMs === undefined ? undefined : { startMs, stopMs }
}

function close(stays: Stay[], startMs: number, stopMs: number): void {
  if (stopMs > startMs) stays.push({ startMs, stopMs })
}

/**
 * Number of users present at the end of each run second 0…`seconds` − 1: just before second s + 1 begins, which is when
 * a generator counts them too.
 */
export function presentAtSecondEnds(stays: Iterable<Stay[]>, seconds: number): Int32Array {
  const change = new Int32Array(seconds + 1)
  const second = (ms: number) => Math.min(seconds, Math.floor(ms / 1000))
  for (const user of stays)
    for (const stay of user) {
      change[second(stay.startMs)]!++
      change[second(stay.stopMs)]!--
    }
  const present = new Int32Array(seconds)
  let now = 0
  for (let s = 0; s < seconds; s++) present[s] = now += change[s]!
  return present
}

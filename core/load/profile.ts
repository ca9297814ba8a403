/**
 * A load profile: a level over time: users, or passes or requests per second, as the group's drive has it. A start
 * delay, then segments that each go linearly from the level before (0 at first) to their own level; a duration of 0 is
 * a jump, equal levels are a hold.
 */

/** One stretch of a profile. */
export interface Segment {
  /** Level reached at its end: whole users, or a rate per second. */
  to: number
  /** How long it takes to get there, ms; 0 jumps. */
  overMs: number
  /** Shown but not judged. */
  warmUp?: boolean
}

export interface LoadProfile {
  /** Nothing happens before this, ms from the start of the run. */
  startDelayMs: number
  segments: Segment[]
}

/** A moment and the level at it. Two corners at the same moment are a jump. */
export interface Corner {
  atMs: number
  level: number
}

/** A hold: a stretch at one level above zero. */
export interface Hold {
  fromMs: number
  toMs: number
  level: number
  warmUp: boolean
}

/** A user's presence: from `startMs` (inclusive) to `stopMs` (exclusive), ms from the start of the run. */
export interface Stay {
  startMs: number
  stopMs: number
}

/** Corners of the profile's line, from (0, 0) to its end. */
export function cornersOf(profile: LoadProfile): Corner[] {
  const corners: Corner[] = [{ atMs: 0, level: 0 }]
  let at = profile.startDelayMs
  if (at > 0) corners.push({ atMs: at, level: 0 })
  for (const segment of profile.segments) {
    at += segment.overMs
    corners.push({ atMs: at, level: segment.to })
  }
  return corners
}

/** Moment at which the last segment ends, ms. Users still there then leave. */
export function lengthMs(profile: LoadProfile): number {
  return profile.segments.reduce((sum, s) => sum + s.overMs, profile.startDelayMs)
}

/** Level of the line at a moment (after any jump at it), not rounded. */
export function levelAt(profile: LoadProfile, atMs: number): number {
  let at = profile.startDelayMs
  let level = 0
  if (atMs < at) return 0
  for (const segment of profile.segments) {
    const end = at + segment.overMs
    if (atMs < end) return level + ((segment.to - level) * (atMs - at)) / segment.overMs
    at = end
    level = segment.to
  }
  return 0
}

/** Highest level the profile ever asks for. */
export function peakOf(profile: LoadProfile): number {
  return profile.segments.reduce((most, s) => Math.max(most, s.to), 0)
}

export function holdsOf(profile: LoadProfile): Hold[] {
  const holds: Hold[] = []
  let at = profile.startDelayMs
  let level = 0
  for (const segment of profile.segments) {
    const end = at + segment.overMs
    if (segment.to === level && level > 0 && segment.overMs > 0) {
      const last = holds[holds.length - 1]
      if (last && last.toMs === at && last.level === level && last.warmUp === !!segment.warmUp) last.toMs = end
      else holds.push({ fromMs: at, toMs: end, level, warmUp: !!segment.warmUp })
    }
    at = end
    level = segment.to
  }
  return holds
}

/** End of the part marked as warm-up at the beginning, ms; 0 if there is none. */
export function warmUpEndMs(profile: LoadProfile): number {
  let at = profile.startDelayMs
  let end = 0
  for (const segment of profile.segments) {
    at += segment.overMs
    if (!segment.warmUp) break
    end = at
  }
  return end
}

/** Area under the line, in user-hours. */
export function userHoursOf(profile: LoadProfile): number {
  let level = 0
  let area = 0
  for (const segment of profile.segments) {
    area += ((level + segment.to) / 2) * segment.overMs
    level = segment.to
  }
  return area / 3_600_000
}

/** Fastest planned start rate, users per second; Infinity when a jump starts more than one user at once. */
export function fastestStartRate(profile: LoadProfile): number {
  let level = 0
  let fastest = 0
  for (const segment of profile.segments) {
    const rise = segment.to - level
    if (rise > 0)
      fastest = Math.max(
        fastest,
        segment.overMs > 0 ? (rise / segment.overMs) * 1000 : rise > 1 ? Number.POSITIVE_INFINITY : 0,
      )
    level = segment.to
  }
  return fastest
}

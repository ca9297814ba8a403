/** What a group's load profile controls, and when its users have done enough. */

export type Drive =
  /** The level is users: each walks its journey pass after pass. */
  | { kind: 'users' }
  /** The level is pass starts per second; each pass is a user of its own who comes, walks the journey once and goes. */
  | {
    kind: 'arrivals'
    /** Evenly spaced, or as a Poisson process: exponential gaps (Kleinrock 1975). */
    spacing: 'even' | 'poisson'
    /** Most passes under way on one generator; a pass that is due then is not started, and counted. */
    mostInFlight: number
  }
  /** The level is requests per second; users are called and sent away to hold it. */
  | { kind: 'requests', fewestUsers: number, mostUsers: number }

export type DriveKind = Drive['kind']

export const BY_USERS: Drive = { kind: 'users' }

/** Whether a group's users come and go by the plan, and by nothing else. */
export function isByPlan({ drive = BY_USERS, passes }: { drive?: Drive, passes?: number }): boolean {
  return drive.kind === 'users' && passes === undefined
}

/** What a level is a number of. */
export const LEVEL_UNITS: Record<DriveKind, string> = { users: 'users', arrivals: 'passes/s', requests: 'requests/s' }

/** Why a pass that was due was not started. The order is the wire's: add at the end only. */
export const NOT_STARTED = ['ceiling', 'noRow', 'stopped'] as const
export type NotStarted = (typeof NOT_STARTED)[number]

export const NOT_STARTED_WORDS: Record<NotStarted, string> = {
  ceiling: 'too many passes under way',
  noRow: 'no row left in the feed',
  stopped: 'the run was stopped before',
}

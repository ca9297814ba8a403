/**
 * A statistic against the users who were there: levels that were held as points with an interval, every other second
 * as a dot (design: computation §14).
 */
import { meanInterval } from '../values/student-t'
import type { Window } from '../objectives/windows'

/** Blocks of a level whose spread gives its interval, s: seconds beside each other are alike, blocks hardly. */
export const BLOCK_S = 10
/** Fewer blocks say nothing of their spread. */
export const LEAST_BLOCKS = 4

export interface UsersDot {
  users: number
  value: number
}

export interface UsersPoint extends UsersDot, Window {
  /** 95 %, by the spread of its blocks; left out: there are too few of them. */
  halfWidth?: number
}

/** Values in bins of the same seconds as users. @param outside whether a bin is in no level */
export function dotsOf(
  users: readonly (number | null)[],
  values: readonly (number | null)[],
  outside: (bin: number) => boolean,
): UsersDot[] {
  return values.flatMap((value, bin) => {
    const there = users[bin]
    return value === null || there === null || there === undefined || !outside(bin) ? [] : [{ users: there, value }]
  })
}

/**
 * A level that was held: its own value, and how far off it may be.
 *
 * @param value over all of it
 * @param blocks of {@link BLOCK_S} each, within it
 */
export function pointOf(window: Window, users: number, value: number, blocks: readonly (number | null)[]): UsersPoint {
  const told = blocks.filter(v => v !== null)
  const interval = told.length >= LEAST_BLOCKS ? meanInterval(told) : undefined
  return { fromS: window.fromS, toS: window.toS, users, value, ...(interval ? { halfWidth: interval.halfWidth } : {}) }
}

/**
 * Where the staffs of the stave lie, px: shared by the chart, its headings and the machine map, so that one time axis
 * runs through all.
 */
import type { HouseStaff, StaffEntry, StaffHeight } from './stave-staffs'

export const LEFT = 140
export const RIGHT = 48
/** So that what stands in it and the first heading are apart enough to be hit (WCAG 2.2, 2.5.8). */
const AXIS_HEIGHT = 24
/** Gap between staffs. */
const GAP = 6

/** A part of the stave with an axis of its own: users are two, those there and those who should be. */
export type GridKey = HouseStaff | 'offBy' | (string & {})

export interface StavePlace {
  /** Of the entry it belongs to; `offBy` is part of `users`. */
  key: GridKey
  entry: StaffEntry
  top: number
  height: number
}

const WEIGHTS: Record<string, number> = { users: 1.1, offBy: 0.36, objective: 1.25, objectiveByLocation: 1.05 }
const HEIGHT_WEIGHTS: Record<StaffHeight, number> = { low: 0.55, usual: 1, tall: 1.8 }
/** A staff of usual height is no lower, px: its heading has three lines. */
const LEAST_PX = 72

/** Grids with their weights, in order. @param hasPlan somebody planned how many users there should be */
function gridsOf(
  entries: readonly StaffEntry[],
  hasPlan: boolean,
): { key: GridKey, entry: StaffEntry, weight: number }[] {
  return entries.flatMap((entry) => {
    const keys: GridKey[] = entry.house === 'users' && hasPlan ? ['users', 'offBy'] : [entry.house ?? entry.key]
    return keys.map(key => ({ key, entry, weight: (WEIGHTS[key] ?? 1) * HEIGHT_WEIGHTS[entry.height] }))
  })
}

/** Below this nothing can be read, px: the stave is made so tall, and its surroundings scroll. */
export function leastHeight(entries: readonly StaffEntry[], hasPlan = true): number {
  return gridsOf(entries, hasPlan).reduce((px, { weight }) => px + weight * LEAST_PX + GAP, AXIS_HEIGHT)
}

/** @param available px for all staffs @param hasPlan somebody planned how many users there should be */
export function placesIn(available: number, entries: readonly StaffEntry[], hasPlan = true): StavePlace[] {
  const grids = gridsOf(entries, hasPlan)
  const whole = grids.reduce((sum, { weight }) => sum + weight, 0)
  const room = available - AXIS_HEIGHT - GAP * (grids.length - 1)
  let top = AXIS_HEIGHT
  return grids.map(({ key, entry, weight }) => {
    const height = Math.max(1, Math.floor((room * weight) / whole))
    const place = { key, entry, top, height }
    top += height + (key === 'users' && hasPlan ? 0 : GAP)
    return place
  })
}

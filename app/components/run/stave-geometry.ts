/**
 * Where the staffs of the stave lie, px: shared by the chart, its headings and the machine map, so that one time axis
 * runs through all.
 */

export const LEFT = 140
export const RIGHT = 48
const AXIS_HEIGHT = 20
/** Gap between staffs. */
const GAP = 6

export interface Staff {
  key: 'users' | 'offBy' | 'answered' | 'byLocation' | 'sent'
  top: number
  height: number
}

/** @param available px for all staffs */
export function staffsIn(available: number, keys: Staff['key'][]): Staff[] {
  const weights: Record<Staff['key'], number> = { users: 1.1, offBy: 0.36, answered: 1.25, byLocation: 1.05, sent: 1 }
  const whole = keys.reduce((sum, k) => sum + weights[k], 0)
  const room = available - AXIS_HEIGHT - GAP * (keys.length - 1)
  let top = AXIS_HEIGHT
  return keys.map((key) => {
    const height = Math.floor((room * weights[key]) / whole)
    const staff = { key, top, height }
    top += height + (key === 'users' ? 0 : GAP)
    return staff
  })
}

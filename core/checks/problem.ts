/** A problem of a plan: what is wrong, how much it matters, what fixes it. */

/** How much a problem matters. */
export type Weight = 'inTheWay' | 'costsSoundness' | 'toKnow'

export interface Problem {
  code: string
  weight: Weight
  /** What is wrong, in one sentence. */
  sentence: string
  /** What to do about it. */
  remedy: string
  /** Group letter and location code of the cell it is about, where there is one. */
  group?: string
  location?: string
  /** A change that fixes it, for a button. */
  fix?: Fix
  /** Other changes that would do as well. */
  others?: Fix[]
  /** What the fix costs, in words: money, users or time. */
  price?: string
}

/** A change of the plan that fixes a problem. */
export type Fix =
  | { kind: 'giveShare', group: string, location: string, bp: number }
  | { kind: 'setMachines', location: string, machines: number | 'auto' }
  | { kind: 'rehearse' }
  /** Has the target's own figures read beside its runs. */
  | { kind: 'readTarget' }
  /** Turns the group's jump into a ramp. */
  | { kind: 'ramp', group: string, overMs: number }
  | { kind: 'clearNetwork', group: string, location: string }
  | { kind: 'clearClients', group: string }
  | { kind: 'dropPasses', group: string }
  | { kind: 'removeLocation', location: string }
  /** Gives every group's users to all locations in equal shares. */
  | { kind: 'spreadEvenly' }
  /** Half of what each group has at one location goes to another. */
  | { kind: 'takeFrom', from: string, to: string }
  | { kind: 'approve' }
  | { kind: 'openJourney', journey: string }
  | { kind: 'setSizing', spares?: number, headroom?: number, interruptibleShare?: number, allThrough?: boolean }
  /** Opens a calibration of these, in one batch. */
  | { kind: 'calibrate', journeys: string[], provider: string, types: string[], networks: string[] }

export function inTheWay(code: string, sentence: string, remedy: string, more: Partial<Problem> = {}): Problem {
  return { code, weight: 'inTheWay', sentence, remedy, ...more }
}

/** Where a plan stands at a second: on which of its levels, or on the way to which. */
import type { Plan } from '../plan/document'
import { levelsOf } from './windows'

/** A level from second `fromS` (inclusive) to `toS` (exclusive), the `number`-th of `of`, counted from 1. */
export interface Stair {
  /** On it, or on the way to it. */
  isOn: boolean
  users: number
  fromS: number
  toS: number
  number: number
  of: number
}

/** @returns undefined behind the last level, and of a plan that holds none */
export function stairAt(plan: Plan, second: number): Stair | undefined {
  const levels = levelsOf(plan)
  const at = levels.findIndex(l => second < l.toS)
  const level = levels[at]
  return level && { ...level, isOn: second >= level.fromS, number: at + 1, of: levels.length }
}

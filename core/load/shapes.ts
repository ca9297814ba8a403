/** Ready-made stretches of load: each writes plain segments, which can then be changed like any other. */
import type { Segment } from './profile'

/** A shape that cannot be, and why. */
export class ShapeError extends Error {
  override name = 'ShapeError'
}

/** Straight pieces a period of a wave is drawn with. */
const PIECES_OF_A_WAVE = 12

/** Equal steps from a level to another, each climbed in `rampMs` and held for the rest of `stepMs`. */
export function stairs(from: number, to: number, steps: number, stepMs: number, rampMs = 0): Segment[] {
  if (!(Number.isInteger(steps) && steps >= 1)) throw new ShapeError('Stairs need one step or more')
  if (rampMs >= stepMs) throw new ShapeError('The ramp of a step must be shorter than the step')
  return Array.from({ length: steps }, (_, i) => Math.round(from + ((to - from) * (i + 1)) / steps)).flatMap(level => [
    { to: level, overMs: rampMs },
    { to: level, overMs: stepMs - rampMs },
  ])
}

/** Up, for a while, and back to where it was. */
export function burst(from: number, to: number, holdMs: number, rampMs = 0): Segment[] {
  if (holdMs <= 0) throw new ShapeError('A burst of no length is none')
  return [
    { to, overMs: rampMs },
    { to, overMs: holdMs },
    { to: from, overMs: rampMs },
  ]
}

/** A sine around a level, in straight pieces; it begins and ends at the level. */
export function wave(middle: number, swing: number, periodMs: number, lengthMs: number): Segment[] {
  if (swing > middle)
    throw new ShapeError(`A wave of ± ${swing} around ${middle} dips below zero: raise the level or lower the swing`)
  if (swing <= 0) throw new ShapeError('A wave needs a swing above 0')
  if (periodMs < PIECES_OF_A_WAVE) throw new ShapeError('A wave’s period is too short')
  const pieces = Math.round((lengthMs / periodMs) * PIECES_OF_A_WAVE)
  if (pieces < 1) throw new ShapeError('A wave must last at least a twelfth of its period')
  let written = 0
  return Array.from({ length: pieces }, (_, i) => {
    const end = Math.round(((i + 1) * lengthMs) / pieces)
    const overMs = end - written
    written = end
    return { to: Math.round(middle + swing * Math.sin((2 * Math.PI * (i + 1)) / PIECES_OF_A_WAVE)), overMs }
  })
}

/** Up, held for a long time, and down to nothing. */
export function soak(to: number, holdMs: number, rampMs: number): Segment[] {
  if (holdMs <= 0) throw new ShapeError('A soak of no length is none')
  return [
    { to, overMs: rampMs },
    { to, overMs: holdMs },
    { to: 0, overMs: rampMs },
  ]
}

/**
 * Levels over time as an operator types them: `0 → 340 in 4 min, hold 14 min, → 0 in 2 min`. Parsed as one types,
 * printed back the same.
 *
 * Parts, between commas, each optionally behind `warm-up:`; `->` or `to` may be typed for the arrow, `over` for `in`:
 *   wait D · hold D · [from] → level in D · → level at once · +n in D · +n at once · −n in D · +n a minute for D
 *   stairs → level in n steps of D [with D ramps] · burst → level for D [with D ramps] · wave ± n every D for D · soak
 * level for D [with D ramps]
 * A duration is numbers with `h`, `min`, `s`, `ms`. Shapes write segments; what is printed back is what they wrote.
 */
import { burst, ShapeError, soak, stairs, wave } from './shapes'
import type { LoadProfile, Segment } from './profile'

/** What was understood, or where and why it was not. */
export type PhraseReading = { ok: true, profile: LoadProfile } | { ok: false, at: number, problem: string }

export interface PhraseOptions {
  /** The level is a rate per second: it may have decimals. Users are whole. */
  rate?: boolean
}

const UNIT_MS: Record<string, number> = { h: 3_600_000, min: 60_000, m: 60_000, s: 1000, ms: 1 }
/** Levels beyond this are taken for a slip of the finger. */
const MOST_LEVEL = 1_000_000
const MOST_SEGMENTS = 500
const MOST_LENGTH_MS = 7 * 86_400_000

/** Reads a duration such as `4 min 30 s` or `1h`; `undefined` when it is none. Result in whole ms. */
export function readDuration(text: string): number | undefined {
  let rest = text.trim()
  if (rest === '') return undefined
  let sum = 0
  while (rest !== '') {
    const part = /^(\d+(?:[.,]\d+)?)\s*(h|min|ms|m|s)(?![a-z])\s*/i.exec(rest)
    if (!part) return undefined
    sum += Number(part[1]!.replace(',', '.')) * UNIT_MS[part[2]!.toLowerCase()]!
    rest = rest.slice(part[0].length)
  }
  return Math.round(sum)
}

/** Prints whole ms as `4 min 30 s`. */
export function printDuration(ms: number): string {
  if (ms === 0) return '0 s'
  const parts: string[] = []
  let rest = ms
  for (const [unit, size] of [
    ['h', 3_600_000],
    ['min', 60_000],
  ] as const) {
    const n = Math.floor(rest / size)
    if (n > 0) parts.push(`${n} ${unit}`)
    rest -= n * size
  }
  if (rest > 0) parts.push(`${rest / 1000} s`)
  return parts.join(' ')
}

/** A part that was not understood: what is wrong, and how far into the part. */
class PartError extends Error {
  constructor(
    message: string,
    readonly offset = 0,
  ) {
    super(message)
  }
}

export function readPhrase(text: string, options: PhraseOptions = {}): PhraseReading {
  if (text.trim() === '')
    return {
      ok: false,
      at: 0,
      problem: 'Write a level over time, for example: 0 → 40 in 30 s, hold 1 min, → 0 in 15 s',
    }
  const profile: LoadProfile = { startDelayMs: 0, segments: [] }
  let at = 0
  // A comma between two digits is a decimal one.
  for (const raw of text.split(/,(?!\d)|(?<!\d),/)) {
    const here = at + (raw.length - raw.trimStart().length)
    at += raw.length + 1
    try {
      readPart(raw.trim(), profile, options.rate ?? false)
    }
    catch (error) {
      if (error instanceof PartError) return { ok: false, at: here + error.offset, problem: error.message }
      if (error instanceof ShapeError) return { ok: false, at: here, problem: error.message }
      throw error
    }
    if (profile.segments.length > MOST_SEGMENTS)
      return {
        ok: false,
        at: here,
        problem: `This would write ${profile.segments.length} segments; a profile takes ${MOST_SEGMENTS}. Make the wave longer or the stairs fewer`,
      }
    if (lengthOf(profile) > MOST_LENGTH_MS)
      return { ok: false, at: here, problem: 'Longer than a week: check the units' }
  }
  return { ok: true, profile }
}

const NUMBER = String.raw`\d[\d\s\u2009]*(?:[.,]\d+)?`
const UNIT = String.raw`(?:\s*\/\s*s)?`
const GO = new RegExp(
  String.raw`^(?:(${NUMBER})${UNIT}\s*)?(?:→|->|to)\s*(${NUMBER})${UNIT}\s*(?:(?:in|over)\s+(.+)|(at once))?$`,
  'i',
)
const BY = new RegExp(String.raw`^([+−-])\s*(${NUMBER})${UNIT}\s*(?:(?:in|over)\s+(.+)|(at once))$`, 'i')
const SLOPE = new RegExp(
  String.raw`^([+−-])\s*(${NUMBER})${UNIT}\s*(?:a|an|per)\s+(minute|min|second|s|hour|h)\s+for\s+(.+)$`,
  'i',
)
const STAIRS = new RegExp(
  String.raw`^stairs\s*(?:→|->|to)?\s*(${NUMBER})${UNIT}\s+in\s+(\d+)\s+steps?\s+of\s+(.+?)(?:\s+with\s+(.+?)\s+ramps?)?$`,
  'i',
)
const BURST = new RegExp(
  String.raw`^burst\s*(?:→|->|to)?\s*(${NUMBER})${UNIT}\s+for\s+(.+?)(?:\s+with\s+(.+?)\s+ramps?)?$`,
  'i',
)
const WAVE = new RegExp(
  String.raw`^wave\s*(?:(${NUMBER})${UNIT}\s*)?(?:±|\+-|\+\/-)\s*(${NUMBER})${UNIT}\s+every\s+(.+?)\s+for\s+(.+)$`,
  'i',
)
const SOAK = new RegExp(
  String.raw`^soak\s*(?:at\s+|→\s*|->\s*|to\s+)?(${NUMBER})${UNIT}\s+for\s+(.+?)(?:\s+with\s+(.+?)\s+ramps?)?$`,
  'i',
)
const SECONDS_OF: Record<string, number> = { minute: 60, min: 60, second: 1, s: 1, hour: 3600, h: 3600 }

// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
function readPart(whole: string, profile: LoadProfile, rate: boolean): void {
  const { segments } = profile
  if (whole === '') throw new PartError('Nothing between two commas: remove one, or write a part')
  const mark = /^warm-?up:?\s+/i.exec(whole)?.[0] ?? ''
  const part = whole.slice(mark.length)
  const before = segments.length
  const level = segments.at(-1)?.to ?? 0
  const offsetOf = (piece: string) => Math.max(0, whole.indexOf(piece, mark.length))
  const durationOf = (piece: string): number => {
    const ms = readDuration(piece)
    if (ms === undefined)
      throw new PartError(`“${piece}” is not a duration: write for example 4 min 30 s`, offsetOf(piece))
    return ms
  }
  const levelOf = (piece: string): number => {
    const n = Number(piece.replace(/[\s\u2009]/g, '').replace(',', '.'))
    if (!rate && !Number.isInteger(n)) throw new PartError(`${n} users: users are whole`, offsetOf(piece))
    return checkLevel(n, offsetOf(piece))
  }
  const checkLevel = (n: number, offset = 0): number => {
    if (n > MOST_LEVEL)
      throw new PartError(`${n} ${rate ? 'a second' : 'users'} is more than one plan takes (${MOST_LEVEL})`, offset)
    if (n < 0) throw new PartError(`This would fall below zero, to ${Number(n.toFixed(3))}`, offset)
    return n
  }
  const lengthOfHold = (piece: string): number => {
    const ms = durationOf(piece)
    if (ms === 0)
      throw new PartError('A hold of no length holds nothing: give it a duration, or take it out', offsetOf(piece))
    return ms
  }
  const rampOf = (piece: string | undefined, otherwise: number) => (piece === undefined ? otherwise : durationOf(piece))
  let match: RegExpExecArray | null

  if ((match = /^(wait|hold)\s+(.+)$/i.exec(part))) {
    const overMs = lengthOfHold(match[2]!)
    if (match[1]!.toLowerCase() === 'wait' && segments.length === 0) profile.startDelayMs += overMs
    else if (match[1]!.toLowerCase() === 'hold' && level === 0)
      throw new PartError('Nobody to hold yet: go to a level first')
    else segments.push({ to: level, overMs })
  }
  else if ((match = STAIRS.exec(part)))
    segments.push(...stairs(level, levelOf(match[1]!), Number(match[2]), lengthOfHold(match[3]!), rampOf(match[4], 0)))
  else if ((match = BURST.exec(part)))
    segments.push(...burst(level, levelOf(match[1]!), lengthOfHold(match[2]!), rampOf(match[3], 0)))
  else if ((match = WAVE.exec(part))) {
    const middle = match[1] === undefined ? level : levelOf(match[1])
    if (middle !== level) segments.push({ to: middle, overMs: 0 })
    segments.push(...wave(middle, levelOf(match[2]!), lengthOfHold(match[3]!), lengthOfHold(match[4]!)))
  }
  else if ((match = SOAK.exec(part))) {
    const holdMs = lengthOfHold(match[2]!)
    segments.push(...soak(levelOf(match[1]!), holdMs, rampOf(match[3], Math.min(600_000, Math.round(holdMs / 20)))))
  }
  else if ((match = SLOPE.exec(part))) {
    const overMs = lengthOfHold(match[4]!)
    const change = (levelOf(match[2]!) * overMs) / 1000 / SECONDS_OF[match[3]!.toLowerCase()]!
    const to = level + (match[1] === '+' ? change : -change)
    segments.push({ to: checkLevel(rate ? Number(to.toFixed(6)) : Math.round(to)), overMs })
  }
  else if ((match = BY.exec(part))) {
    const change = levelOf(match[2]!)
    segments.push({
      to: checkLevel(Number((level + (match[1] === '+' ? change : -change)).toFixed(6))),
      overMs: match[3] === undefined ? 0 : durationOf(match[3]),
    })
  }
  else if ((match = GO.exec(part))) {
    const from = match[1] === undefined ? undefined : levelOf(match[1])
    const to = levelOf(match[2]!)
    if (from !== undefined && from !== level) {
      if (segments.length > 0) throw new PartError(`The level here is ${level}, not ${from}`)
      segments.push({ to: from, overMs: 0 })
    }
    if (match[3] === undefined && !match[4]) throw new PartError('Say how fast: “in 30 s” or “at once”', whole.length)
    segments.push({ to, overMs: match[3] === undefined ? 0 : durationOf(match[3]) })
  }
  else
    throw new PartError(
      `“${part}” is not understood: write “→ 40 in 30 s”, “hold 1 min”, “wait 10 s”, “+5 a minute for 8 min”, “stairs → 80 in 4 steps of 1 min”`,
      mark.length,
    )
  if (mark) for (const segment of segments.slice(before)) segment.warmUp = true
}

const lengthOf = (profile: LoadProfile) =>
  profile.segments.reduce((sum: number, s: Segment) => sum + s.overMs, profile.startDelayMs)

export function printPhrase(profile: LoadProfile): string {
  const parts: string[] = []
  if (profile.startDelayMs > 0) parts.push(`wait ${printDuration(profile.startDelayMs)}`)
  let level = 0
  profile.segments.forEach((segment, i) => {
    const mark = segment.warmUp ? 'warm-up: ' : ''
    if (segment.to === level && segment.overMs > 0)
      parts.push(`${mark}${level === 0 ? 'wait' : 'hold'} ${printDuration(segment.overMs)}`)
    else if (segment.overMs === 0) parts.push(`${mark}→ ${segment.to} at once`)
    else parts.push(`${mark}${i === 0 ? '0 ' : ''}→ ${segment.to} in ${printDuration(segment.overMs)}`)
    level = segment.to
  })
  return parts.join(', ')
}

/**
 * Profiles as an operator types them: `0 → 340 in 4 min, hold 14 min, → 0 in 2 min`. Parsed as one types, printed back the same.
 *
 * The words: `wait D`, `hold D`, `[from] → level in D`, `→ level at once`, each optionally preceded by `warm-up:`. `->` and `to` may be typed
 * for the arrow. A duration is numbers with `h`, `min`, `s`, `ms`.
 */
import type { LoadProfile, Segment } from './profile'

/** What was understood, or where and why it was not. */
export type PhraseReading =
  | { ok: true, profile: LoadProfile }
  | { ok: false, at: number, problem: string }

const UNIT_MS: Record<string, number> = { h: 3_600_000, min: 60_000, m: 60_000, s: 1000, ms: 1 }
/** Levels beyond this are taken for a slip of the finger. */
const MOST_USERS = 1_000_000

/** Reads a duration such as `4 min 30 s` or `1h`; `undefined` when it is none. Result in whole ms. */
export function readDuration(text: string): number | undefined {
  let rest = text.trim()
  if (rest === '') return undefined
  let sum = 0
  while (rest !== '') {
    const part = /^(\d+(?:[.,]\d+)?)\s*(h|min|ms|m|s)\b\s*/i.exec(rest)
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
  for (const [unit, size] of [['h', 3_600_000], ['min', 60_000]] as const) {
    const n = Math.floor(rest / size)
    if (n > 0) parts.push(`${n} ${unit}`)
    rest -= n * size
  }
  if (rest > 0) parts.push(`${rest / 1000} s`)
  return parts.join(' ')
}

export function readPhrase(text: string): PhraseReading {
  const segments: Segment[] = []
  let startDelayMs = 0
  let level = 0
  let at = 0
  for (const raw of text.split(',')) {
    const here = at + (raw.length - raw.trimStart().length)
    at += raw.length + 1
    let part = raw.trim()
    const fail = (problem: string): PhraseReading => ({ ok: false, at: here, problem })
    if (part === '') {
      if (text.trim() === '') return fail('Write a level over time, for example: 0 → 40 in 30 s, hold 1 min, → 0 in 15 s')
      return fail('Nothing between two commas: remove one, or write a part')
    }
    const warmUp = /^warm-?up:?\s+/i.exec(part)
    if (warmUp) part = part.slice(warmUp[0].length)
    const word = /^(wait|hold)\s+(.+)$/i.exec(part)
    if (word) {
      const overMs = readDuration(word[2]!)
      if (overMs === undefined) return fail(`“${word[2]}” is not a duration: write for example 4 min 30 s`)
      if (word[1]!.toLowerCase() === 'wait') {
        if (segments.length > 0) segments.push({ to: level, overMs, ...(warmUp ? { warmUp: true } : {}) })
        else startDelayMs += overMs
        continue
      }
      if (level === 0) return fail('Nobody to hold yet: go to a level first')
      segments.push({ to: level, overMs, ...(warmUp ? { warmUp: true } : {}) })
      continue
    }
    const go = /^(\d[\d\s\u2009]*)?\s*(?:→|->|to)\s*(\d[\d\s\u2009]*?)\s*(?:(?:in|over)\s+(.+)|(at once))?$/i.exec(part)
    if (!go) return fail(`“${part}” is not understood: write “→ 40 in 30 s”, “hold 1 min” or “wait 10 s”`)
    const from = go[1] === undefined ? undefined : whole(go[1])
    const to = whole(go[2]!)
    if (to > MOST_USERS) return fail(`${to} users is more than one plan takes (${MOST_USERS})`)
    if (from !== undefined && from !== level) {
      if (segments.length > 0) return fail(`The level here is ${level}, not ${from}`)
      segments.push({ to: from, overMs: 0 })
    }
    const overMs = go[3] === undefined ? 0 : readDuration(go[3])
    if (go[3] === undefined && !go[4]) return fail('Say how fast: “in 30 s” or “at once”')
    if (overMs === undefined) return fail(`“${go[3]}” is not a duration: write for example 4 min 30 s`)
    segments.push({ to, overMs, ...(warmUp ? { warmUp: true } : {}) })
    level = to
  }
  return { ok: true, profile: { startDelayMs, segments } }
}

export function printPhrase(profile: LoadProfile): string {
  const parts: string[] = []
  if (profile.startDelayMs > 0) parts.push(`wait ${printDuration(profile.startDelayMs)}`)
  let level = 0
  profile.segments.forEach((segment, i) => {
    const mark = segment.warmUp ? 'warm-up: ' : ''
    if (segment.to === level) parts.push(`${mark}${level === 0 ? 'wait' : 'hold'} ${printDuration(segment.overMs)}`)
    else if (segment.overMs === 0) parts.push(`${mark}→ ${segment.to} at once`)
    else parts.push(`${mark}${i === 0 ? '0 ' : ''}→ ${segment.to} in ${printDuration(segment.overMs)}`)
    level = segment.to
  })
  return parts.join(', ')
}

const whole = (text: string) => Number(text.replace(/[\s\u2009]/g, ''))

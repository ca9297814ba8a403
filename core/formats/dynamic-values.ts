/**
 * Finds values that a browser was given and then sent back: tokens, ids, hidden fields. Each is proposed as a capture. One pass over the requests
 * for what was sent, one over the answers for where it came from: the time grows with the file, not with its square.
 */
import type { CaptureSource } from '../journey/journey'
import type { HarEntry } from './har'

export interface DynamicValue {
  /** Name for templates. */
  name: string
  value: string
  /** Index of the entry whose answer holds it first. */
  from: number
  source: CaptureSource
  /** Indices of the entries that send it. */
  sentIn: number[]
  /** Where it was sent, in words: `header x-token`. */
  sentAs: string
}

/** Shorter values turn up everywhere by chance. */
const LEAST_CHARACTERS = 6
const MOST_CHARACTERS = 4000
/** Headers that are the browser's own business, or the cookie jar's. */
const NOT_SENT_VALUES = /^(:|cookie$|host$|user-agent$|accept|referer$|origin$|sec-|content-|connection$|cache-control$|pragma$|if-|upgrade|priority$|te$|dnt$)/i
const TOKEN = /[A-Za-z0-9_\-.~+/=%]{6,4000}/g

interface Sent { sentIn: number[], name: string, sentAs: string }

export function findDynamicValues(entries: readonly HarEntry[]): DynamicValue[] {
  const sent = new Map<string, Sent>()
  for (const entry of entries) {
    for (const { value, name, as } of valuesSent(entry)) {
      if (!looksDynamic(value)) continue
      const before = sent.get(value)
      if (before) {
        if (before.sentIn[before.sentIn.length - 1] !== entry.index) before.sentIn.push(entry.index)
      }
      else sent.set(value, { sentIn: [entry.index], name, sentAs: as })
    }
  }
  const spaced = [...sent.keys()].some(v => /\s/.test(v))
  const found = new Map<string, { from: HarEntry, source: CaptureSource }>()
  for (const entry of entries) {
    for (const value of valuesAnswered(entry, sent, spaced)) {
      // A value the browser sent before it was answered is its own.
      if (found.has(value) || sent.get(value)!.sentIn[0]! <= entry.index) continue
      const source = sourceOf(entry, value)
      if (source) found.set(value, { from: entry, source })
    }
  }
  const names = new Set<string>()
  return [...found].map(([value, { from, source }]) => {
    const { sentIn, name, sentAs } = sent.get(value)!
    return { name: freeName(name, names), value, from: from.index, source, sentIn, sentAs }
  })
}

function* valuesSent({ url, headers, sent }: HarEntry): Generator<{ value: string, name: string, as: string }> {
  for (const [name, value] of url.searchParams) yield { value, name, as: `query ${name}` }
  const segments = url.pathname.split('/')
  for (let i = 1; i < segments.length; i++) yield { value: decoded(segments[i]!), name: segments[i - 1] || 'part', as: 'the path' }
  for (const [name, value] of headers) {
    if (NOT_SENT_VALUES.test(name)) continue
    const bearer = /^(?:Bearer|Token|Basic)\s+(.+)$/i.exec(value)
    yield { value: bearer ? bearer[1]! : value, name: bearer ? 'token' : name.replace(/^x-/i, ''), as: `header ${name}` }
  }
  if (!sent) return
  if (sent.type.includes('json')) {
    let body: unknown
    try { body = JSON.parse(sent.text) }
    catch { return }
    for (const [key, value] of leaves(body)) yield { value, name: key, as: `body ${key}` }
  }
  else if (sent.type.includes('urlencoded')) for (const [name, value] of sent.params.length > 0 ? sent.params.map(p => [p.name, decoded(p.value)] as const) : new URLSearchParams(sent.text)) yield { value, name, as: `field ${name}` }
  else for (const { name, value } of sent.params) yield { value, name, as: `field ${name}` }
}

/** Values of an answer that were sent somewhere. @param spaced whether any that was sent has a space in it */
function* valuesAnswered({ text, type, answerHeaders }: HarEntry, sent: ReadonlyMap<string, unknown>, spaced: boolean): Generator<string> {
  for (const [name, value] of answerHeaders) {
    if (/^set-cookie$/i.test(name)) continue
    if (sent.has(value)) yield value
    else for (const token of value.match(TOKEN) ?? []) if (sent.has(token)) yield token
  }
  if (text === undefined || /javascript|css|image|font/.test(type)) return
  // Any value that was sent and stands in an answer is one of its words, or, with spaces in it, a leaf of its JSON.
  TOKEN.lastIndex = 0
  for (let match = TOKEN.exec(text); match; match = TOKEN.exec(text)) if (sent.has(match[0])) yield match[0]
  if (spaced && type.includes('json')) {
    try { for (const [, value] of leaves(JSON.parse(text))) if (/\s/.test(value) && sent.has(value)) yield value }
    catch { /* no JSON after all */ }
  }
}

function sourceOf({ text, type, answerHeaders }: HarEntry, value: string): CaptureSource | undefined {
  const header = answerHeaders.find(([name, v]) => v === value && !/^set-cookie$/i.test(name))
  if (header) return { kind: 'header', name: header[0].toLowerCase() }
  if (text !== undefined) {
    if (type.includes('json')) {
      try {
        const path = pathTo(JSON.parse(text), value, '$')
        if (path) return { kind: 'json', path }
      }
      catch { /* no JSON after all */ }
    }
    const at = text.indexOf(value)
    if (at >= 0) return betweenAround(text, at, value)
  }
  const within = answerHeaders.find(([name, v]) => v.includes(value) && !/^set-cookie$/i.test(name))
  return within && { kind: 'header', name: within[0].toLowerCase() }
}

/** The shortest text before the value that stands nowhere earlier in the answer, and the character after it. */
function betweenAround(text: string, at: number, value: string): CaptureSource {
  const right = text[at + value.length] ?? ''
  for (let length = 12; length <= 80; length += 2) {
    let left = text.slice(Math.max(0, at - length), at)
    if (text.indexOf(left) !== at - left.length) continue
    // Not from the middle of a word.
    while (left.length < 80 && left.length < at && /\w/.test(left[0]!) && /\w/.test(text[at - left.length - 1]!)) left = text.slice(at - left.length - 1, at)
    return { kind: 'between', left, right }
  }
  return { kind: 'between', left: text.slice(Math.max(0, at - 80), at), right }
}

function pathTo(value: unknown, wanted: string, path: string, depth = 0): string | undefined {
  if (depth > 30) return undefined
  if (typeof value !== 'object' || value === null) return String(value) === wanted ? path : undefined
  for (const [key, inner] of Object.entries(value)) {
    const step = Array.isArray(value) ? `[${key}]` : /^[A-Za-z_][A-Za-z0-9_]*$/.test(key) ? `.${key}` : `['${key.replace(/['\\]/g, '\\$&')}']`
    const found = pathTo(inner, wanted, path + step, depth + 1)
    if (found) return found
  }
  return undefined
}

function* leaves(value: unknown, key = 'value', depth = 0): Generator<[key: string, value: string]> {
  if (depth > 30) return
  if (typeof value === 'object' && value !== null) for (const [k, inner] of Object.entries(value)) yield* leaves(inner, Array.isArray(value) ? key : k, depth + 1)
  else if (typeof value === 'string' || typeof value === 'number') yield [key, String(value)]
}

/** Long enough, and not a plain word or a date. */
function looksDynamic(value: string): boolean {
  if (value.length < LEAST_CHARACTERS || value.length > MOST_CHARACTERS) return false
  if (/^\d{4}-\d\d-\d\d(T|$)/.test(value) || /^(true|false|null|undefined)$/i.test(value)) return false
  return /\d/.test(value) || (value.length >= 16 && /[A-Z]/.test(value) && /[a-z]/.test(value))
}

function freeName(name: string, names: Set<string>): string {
  const base = name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^[^A-Za-z_]+|_+$/g, '') || 'value'
  let free = base
  for (let n = 2; names.has(free); n++) free = `${base}_${n}`
  names.add(free)
  return free
}

function decoded(text: string): string {
  try { return decodeURIComponent(text) }
  catch { return text }
}

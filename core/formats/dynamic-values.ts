/**
 * Finds values that a browser was given and then sent back: tokens, ids, hidden fields. Each is proposed as a capture,
 * where an answer has it in a way a capture can take. One pass over the requests for what was sent, one over the
 * answers for where it came from: the time grows with the file, not with its square.
 */
import { ownOf } from '../values/own'
import type { CaptureSource } from '../journey/journey'
import type { HarEntry } from './har'
import { present } from '../values/present'

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

/** One that was answered in a way no capture can take it: it is sent as it was. */
export interface KeptValue {
  value: string
  from: number
  sentIn: number[]
  sentAs: string
  why: string
}

/** Shorter values turn up everywhere by chance. */
const LEAST_CHARACTERS = 6
const MOST_CHARACTERS = 4000
/** Headers that are the browser's own business, or the cookie jar's. */
const NOT_SENT_VALUES =
  /^(:|cookie$|host$|user-agent$|accept|referer$|origin$|sec-|content-|connection$|cache-control$|pragma$|if-|upgrade|priority$|te$|dnt$)/i
/**
 * Words as they stand in addresses and scripts, and as they stand in any text: whatever is between marks, blanks and
 * brackets.
 */
const WORD = /[A-Za-z0-9_\-.~+/=%]{6,4000}/g
const LONG_WORD = /[^\s"'<>&;,(){}[\]\\`]{6,4000}/g
/** What an attribute holds: quoted either way, or not at all (HTML Living Standard, 13.1.2.3). */
const ATTRIBUTE = /[\w:-]+\s*=\s*(?:"([^"]{6,4000})"|'([^']{6,4000})'|([^\s"'=<>`]{6,4000}))/g

interface Sent {
  sentIn: number[]
  name: string
  sentAs: string
}

export function findDynamicValues(entries: readonly HarEntry[]): { values: DynamicValue[], kept: KeptValue[] } {
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
  const found = new Map<string, { from: HarEntry, source: CaptureSource | string }>()
  for (const entry of entries) {
    const answer = new AnsweredIn(entry)
    for (const value of answer.values(v => sent.has(v) && !found.has(v))) {
      // A value the browser sent before it was answered is its own.
      if (found.has(value) || (sent.get(value)?.sentIn[0] ?? -1) <= entry.index) continue
      const source = answer.sourceOf(value)
      if (source !== undefined) found.set(value, { from: entry, source })
    }
  }
  const names = new Map<string, number>()
  const values: DynamicValue[] = []
  const kept: KeptValue[] = []
  for (const [value, { from, source }] of found) {
    const { sentIn, name, sentAs } = present(sent.get(value), 'a value that was sent')
    if (typeof source === 'string') kept.push({ value, from: from.index, sentIn, sentAs, why: source })
    else values.push({ name: freeName(name, names), value, from: from.index, source, sentIn, sentAs })
  }
  return { values, kept }
}

function* valuesSent({ url, headers, sent }: HarEntry): Generator<{ value: string, name: string, as: string }> {
  for (const [name, value] of url.searchParams) yield { value, name, as: `query ${name}` }
  const segments = url.pathname.split('/')
  for (let i = 1; i < segments.length; i++)
    yield { value: decoded(segments[i]!), name: segments[i - 1] || 'part', as: 'the path' }
  for (const [name, value] of headers) {
    if (NOT_SENT_VALUES.test(name)) continue
    const bearer = /^(?:Bearer|Token|Basic)\s+(.+)$/i.exec(value)
    yield {
      value: bearer ? bearer[1]! : value,
      name: bearer ? 'token' : name.replace(/^x-/i, ''),
      as: `header ${name}`,
    }
  }
  if (!sent) return
  if (sent.type.includes('json')) {
    let body: unknown
    try {
      body = JSON.parse(sent.text)
    }
    catch {
      return
    }
    for (const [key, value] of leaves(body)) yield { value, name: key, as: `body ${key}` }
  }
  else for (const [name, value] of fieldsOf(sent)) yield { value, name, as: `field ${name}` }
}

/** Fields of a form. What was sent is what its text says; a list of them says what they mean, already decoded. */
export function fieldsOf({ type, text, params }: NonNullable<HarEntry['sent']>): [name: string, value: string][] {
  if (type.includes('urlencoded') && text !== '') return [...new URLSearchParams(text)]
  return params.filter(p => p.fileName === undefined).map(p => [p.name, p.value])
}

/** One answer, looked through once: where each value that somebody asks for stands in it. */
class AnsweredIn {
  /** JSON leaves by their values, with the path of the first. */
  private leafPaths: Map<string, string> | undefined
  /** Values that stand escaped in the text: a capture would take the escaped form. */
  private readonly escaped = new Set<string>()

  constructor(private readonly entry: HarEntry) {}

  /** Values of the answer that are wanted; one may come more than once. */
  * values(isWanted: (value: string) => boolean): Generator<string> {
    const { text, type, answerHeaders } = this.entry
    for (const [name, value] of answerHeaders) {
      if (/^set-cookie$/i.test(name)) {
        const cookie = value
          .slice(value.indexOf('=') + 1)
          .split(';')[0]!
          .trim()
        for (const v of [cookie, decoded(cookie)]) if (isWanted(v)) yield v
        continue
      }
      if (isWanted(value)) yield value
      for (const part of partsOfText(value)) if (isWanted(part)) yield part
      if (/^(content-)?location$/i.test(name)) for (const part of partsOfAddress(value)) if (isWanted(part)) yield part
    }
    if (text === undefined || /javascript|css|image|font/.test(type)) return
    if (type.includes('json')) {
      for (const value of this.paths.keys()) {
        if (isWanted(value)) yield value
        else if (/[/?=&]/.test(value))
          for (const part of [...partsOfText(value), ...partsOfAddress(value)]) if (isWanted(part)) yield part
      }
      return
    }
    for (const match of text.matchAll(ATTRIBUTE)) {
      const written = match[1] ?? match[2] ?? match[3]!
      const value = unescaped(written)
      const told = function* (of: string) {
        if (isWanted(of)) yield of
      }
      for (const v of [...told(value), ...(/[?/]/.test(value) ? partsOfAddress(value).filter(isWanted) : [])]) {
        if (!text.includes(v)) this.escaped.add(v)
        yield v
      }
    }
    for (const pattern of [WORD, LONG_WORD]) for (const [word] of text.matchAll(pattern)) if (isWanted(word)) yield word
  }

  /** How a capture takes a value from this answer; words say why none can; undefined: it is not there. */
  sourceOf(value: string): CaptureSource | string | undefined {
    const { text, type, answerHeaders } = this.entry
    const header = answerHeaders.find(([name, v]) => v === value && !/^set-cookie$/i.test(name))
    if (header) return { kind: 'header', name: header[0].toLowerCase() }
    for (const [name, line] of answerHeaders) {
      if (!/^set-cookie$/i.test(name)) continue
      const at = line.indexOf('=')
      const cookie = line
        .slice(at + 1)
        .split(';')[0]!
        .trim()
      if (cookie === value) return { kind: 'cookie', name: line.slice(0, at).trim() }
      if (decoded(cookie) === value) return `the cookie ${line.slice(0, at).trim()} holds it percent-encoded`
    }
    if (text !== undefined && type.includes('json')) {
      const path = this.paths.get(value)
      if (path !== undefined) return { kind: 'json', path }
    }
    if (text !== undefined) {
      const at = text.indexOf(value)
      if (at >= 0) return betweenAround(text, at, value)
      if (this.escaped.has(value)) return 'the page holds it escaped'
    }
    const within = answerHeaders.find(([name, v]) => v.includes(value) && !/^set-cookie$/i.test(name))
    if (within)
      return {
        ...betweenAround(within[1], within[1].indexOf(value), value),
        kind: 'header',
        name: within[0].toLowerCase(),
      }
    // An address in a header or a text may hold it percent-encoded.
    return text?.includes(encodeURIComponent(value)) ||
      answerHeaders.some(([, v]) => v.includes(encodeURIComponent(value)))
      ? 'it is answered percent-encoded'
      : undefined
  }

  private get paths(): Map<string, string> {
    if (this.leafPaths) return this.leafPaths
    const paths = (this.leafPaths = new Map<string, string>())
    const walk = (value: unknown, path: string, depth: number) => {
      if (depth > 30) return
      if (typeof value !== 'object' || value === null) {
        const key = String(value)
        if (!paths.has(key)) paths.set(key, path)
        return
      }
      for (const [key, inner] of Object.entries(value))
        walk(
          inner,
          path +
            (Array.isArray(value)
              ? `[${key}]`
              : /^[A-Za-z_][A-Za-z0-9_]*$/.test(key)
                ? `.${key}`
                : `['${key.replace(/['\\]/g, '\\$&')}']`),
          depth + 1,
        )
    }
    try {
      walk(JSON.parse(this.entry.text ?? ''), '$', 0)
    }
    catch {
      /* no JSON after all */
    }
    return paths
  }
}

/** The shortest text before the value that stands nowhere earlier in the answer, and the character after it. */
function betweenAround(text: string, at: number, value: string): Extract<CaptureSource, { kind: 'between' }> {
  const right = text[at + value.length] ?? ''
  for (const length of [12, 20, 32, 50, 80]) {
    let left = text.slice(Math.max(0, at - length), at)
    if (text.indexOf(left) !== at - left.length) continue
    // Not from the middle of a word.
    while (left.length < 80 && left.length < at && /\w/.test(left[0]!) && /\w/.test(text[at - left.length - 1]!))
      left = text.slice(at - left.length - 1, at)
    return { kind: 'between', left, right }
  }
  return { kind: 'between', left: text.slice(Math.max(0, at - 80), at), right }
}

/** Words of a text, by both readings of what a word is. */
function partsOfText(text: string): string[] {
  return [...text.matchAll(WORD), ...text.matchAll(LONG_WORD)].map(m => m[0])
}

/** Segments and query values of an address, decoded: `/orders/4711?token=a%2Bb` has two. */
function partsOfAddress(address: string): string[] {
  const [path = '', rest = ''] = address.split('#')[0]!.split(/\?(.*)/s)
  return [...path.split('/').map(decoded), ...[...new URLSearchParams(rest)].map(([, value]) => value)].filter(
    part => part.length >= LEAST_CHARACTERS,
  )
}

const ENTITIES: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: '\'', nbsp: '\u00a0' }

/** Character references as they stand in attributes: the five of XML, and numbers. */
export function unescaped(text: string): string {
  return text.includes('&')
    ? text.replace(
        /&(?:#(\d{1,7})|#x([0-9a-f]{1,6})|([a-z]+));/gi,
        (all, dec: string | undefined, hex: string | undefined, name: string | undefined) => {
          const code = dec !== undefined ? Number(dec) : hex !== undefined ? Number.parseInt(hex, 16) : undefined
          if (code !== undefined) return code <= 0x10ffff ? String.fromCodePoint(code) : all
          return ownOf(ENTITIES, (name ?? '').toLowerCase()) ?? all
        },
      )
    : text
}

function* leaves(value: unknown, key = 'value', depth = 0): Generator<[key: string, value: string]> {
  if (depth > 30) return
  if (typeof value === 'object' && value !== null)
    for (const [k, inner] of Object.entries(value)) yield* leaves(inner, Array.isArray(value) ? key : k, depth + 1)
  else if (typeof value === 'string' || typeof value === 'number') yield [key, String(value)]
}

/** Long enough, and not a plain word or a date. */
function looksDynamic(value: string): boolean {
  if (value.length < LEAST_CHARACTERS || value.length > MOST_CHARACTERS) return false
  if (/^\d{4}-\d\d-\d\d(T|$)/.test(value) || /^(true|false|null|undefined)$/i.test(value)) return false
  return (
    /\d/.test(value) ||
    (value.length >= 16 && /[A-Z]/.test(value) && /[a-z]/.test(value)) ||
    /[\u0080-\uffff]/.test(value)
  )
}

/**
 * A name texts can say, that is free. @param names those given, with the number each was last given with: ten thousand
 * ids are not counted up ten thousand times
 */
export function freeName(name: string, names: Map<string, number>, otherwise = 'value'): string {
  const base = name.replace(/[^A-Za-z0-9_]+/g, '_').replace(/^[^A-Za-z_]+|_+$/g, '') || otherwise
  let n = names.get(base) ?? 0
  let free = base
  while (names.has(free)) free = `${base}_${(n = Math.max(2, n + 1))}`
  names.set(free, 1)
  if (free !== base) names.set(base, n)
  return free
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text)
  }
  catch {
    return text
  }
}

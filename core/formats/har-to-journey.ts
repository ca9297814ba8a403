/**
 * Turns a capture into a journey: first a review of what would be kept and what not, then, with what was chosen, the
 * journey itself.
 */
import type {
  Body,
  Capture as ValueCapture,
  Expectation,
  HttpJourney,
  Method,
  Pair,
  RequestPart,
  Step,
  ThinkTime,
} from '../journey/journey'
import { getDomain } from 'tldts'
import { findCredentials, type Credential } from './credentials'
import { fieldsOf, findDynamicValues, unescaped, type DynamicValue, type KeptValue } from './dynamic-values'
import type { RecordedVisit, HarEntry } from './har'
import { isObject } from '../values/untyped'

export interface HarReview {
  browser: string
  title: string
  requests: number
  /** From the first request to the end of the last, ms. */
  lengthMs: number
  hosts: { host: string, requests: number, bytes: number, statics: number }[]
  statics: number
  /** Request headers seen, and whether they are best stripped. */
  headers: { name: string, requests: number, strip: boolean }[]
  values: (Omit<DynamicValue, 'value'> & { value: string, fromUrl: string })[]
  /** Keys and passwords that are in the capture: proposed as secrets of the target. Their values are not shown. */
  credentials: { name: string, sentAs: string, requests: number }[]
  left: RecordedVisit['left']
  /** What is not sent as it was, and what the capture lacks, in words. */
  changes: string[]
  /** What the conversion would do with the present choices. */
  steps: { name: string, requests: number, think: string }[]
}

export type Statics = 'keep' | 'drop' | 'bundle'

export interface HarChoices {
  name: string
  /** Hosts whose requests are kept. */
  hosts: string[]
  statics: Statics
  /** Header names that are left out. */
  strip: string[]
  /** Longest pause, ms. */
  thinkCapMs: number
  /** Names of values that become captures. */
  captures: string[]
  /** Names of credentials that become secrets of the target; left out: all. */
  secrets?: string[]
}

/** Pauses are cut at this unless something else is chosen, ms. */
const USUAL_THINK_CAP_MS = 60_000
/** Shorter gaps are the browser's, not the user's, ms. */
const LEAST_THINK_MS = 300
/** Requests of a page that browsers send at once to one host. Common practice, no source. */
const PARALLEL = 6
const TIMEOUT_MS = 30_000
/** Redirects a browser would follow. */
const REDIRECTS = 10

const STRIPPED =
  /^(:|cookie$|host$|content-length$|connection$|keep-alive$|transfer-encoding$|sec-|priority$|if-|cache-control$|pragma$|upgrade|te$|dnt$|proxy-|expect$)/i
const STATIC_TYPE = /^(image|font|audio|video)\/|javascript|ecmascript|\/css|font|wasm/i
const STATIC_NAME = /\.(css|m?js|map|png|jpe?g|gif|svg|webp|avif|ico|woff2?|ttf|otf|eot|mp[34]|webm|wasm)$/i

function isStatic({ method, type, url }: Pick<HarEntry, 'method' | 'type' | 'url'>): boolean {
  return method === 'GET' && !/html|json/.test(type) && (STATIC_TYPE.test(type) || STATIC_NAME.test(url.pathname))
}

/**
 * What is chosen before anybody chooses: the hosts of the pages, files bundled, everything that looks dynamic captured.
 */
export function usualChoices(capture: RecordedVisit): HarChoices {
  const { hosts, values, credentials } = reviewParts(capture)
  const first = capture.entries.find(e => e.type.includes('html'))
  const main = first?.url.host ?? hosts[0]?.host ?? ''
  return {
    name:
      (first && titleOf(first, capture)) ||
      capture.pages.find(p => p.title && !/^https?:/.test(p.title))?.title ||
      `Capture of ${main}`,
    hosts: hosts.filter(h => h.host === main || siteOf(h.host) === siteOf(main)).map(h => h.host),
    statics: 'bundle',
    strip: headersOf(capture)
      .filter(h => h.strip)
      .map(h => h.name),
    thinkCapMs: USUAL_THINK_CAP_MS,
    captures: values.map(v => v.name),
    secrets: credentials.map(c => c.name),
  }
}

/**
 * What belongs together, by the public suffix list: `a.shop.co.uk` and `b.shop.co.uk`, but not two shops of one
 * country.
 */
function siteOf(host: string): string {
  return getDomain(host, { allowPrivateDomains: true }) ?? host.split(':')[0]!
}

export function reviewHar(capture: RecordedVisit, choices: HarChoices): HarReview {
  const { hosts, values, credentials } = reviewParts(capture)
  const { entries } = capture
  const { journey, remarks } = harToJourney(capture, choices)
  const byIndex = new Map(entries.map(e => [e.index, e]))
  return {
    browser: capture.browser,
    title: choices.name,
    requests: entries.length,
    lengthMs: Math.max(...entries.map(e => e.endedMs)),
    hosts,
    statics: entries.filter(isStatic).length,
    headers: headersOf(capture),
    left: capture.left,
    credentials: credentials.map(({ name, sentAs, requests }) => ({ name, sentAs, requests })),
    changes: remarks.slice(capture.left.length),
    values: values.map(v => ({
      ...v,
      value: v.value.length > 60 ? `${v.value.slice(0, 59)}…` : v.value,
      fromUrl: byIndex.get(v.from)?.url.pathname ?? '',
    })),
    steps: journey.round.map(s => ({
      name: s.name,
      requests: 'requests' in s ? s.requests.length : 1,
      think: s.think.kind === 'fixed' ? `${s.think.ms / 1000} s` : 'none',
    })),
  }
}

interface Parts {
  hosts: HarReview['hosts']
  values: DynamicValue[]
  kept: KeptValue[]
  credentials: Credential[]
}

const parts = new WeakMap<RecordedVisit, Parts>()

function reviewParts(capture: RecordedVisit): Parts {
  let known = parts.get(capture)
  if (!known) {
    const hosts = new Map<string, HarReview['hosts'][number]>()
    for (const e of capture.entries) {
      const host = hosts.get(e.url.host) ?? { host: e.url.host, requests: 0, bytes: 0, statics: 0 }
      host.requests++
      host.bytes += e.bytes
      if (isStatic(e)) host.statics++
      hosts.set(e.url.host, host)
    }
    const { values, kept } = findDynamicValues(capture.entries)
    parts.set(
      capture,
      (known = {
        hosts: [...hosts.values()].sort((a, b) => b.requests - a.requests),
        values,
        kept,
        credentials: findCredentials(capture.entries, new Set(values.map(v => v.value))),
      }),
    )
  }
  return known
}

function headersOf(capture: RecordedVisit): HarReview['headers'] {
  const counts = new Map<string, number>()
  for (const e of capture.entries)
    for (const name of new Set(e.headers.map(([n]) => n.toLowerCase()))) counts.set(name, (counts.get(name) ?? 0) + 1)
  return [...counts]
    .map(([name, requests]) => ({ name, requests, strip: STRIPPED.test(name) }))
    .sort((a, b) => Number(a.strip) - Number(b.strip) || b.requests - a.requests)
}

export interface HarJourney {
  /** Without an id. */
  journey: HttpJourney
  /** Of its main host. */
  baseUrl: string
  hosts: string[]
  /** What could not be converted, what the capture lacks, and what is not sent as it was. */
  remarks: string[]
  /** Values of the credentials that became secrets, by the names texts call them. */
  secrets: Record<string, string>
}

// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export function harToJourney(capture: RecordedVisit, choices: HarChoices): HarJourney {
  const kept = new Set(choices.hosts)
  const strip = new Set(choices.strip.map(n => n.toLowerCase()))
  const entries = capture.entries.filter(e => kept.has(e.url.host) && !(choices.statics === 'drop' && isStatic(e)))
  const base = new Map<string, number>()
  for (const e of entries) base.set(e.url.origin, (base.get(e.url.origin) ?? 0) + (e.type.includes('html') ? 1000 : 1))
  const baseUrl = [...base].sort((a, b) => b[1] - a[1])[0]?.[0] ?? ''
  const all = reviewParts(capture)
  const here = new Set(entries.map(e => e.index))
  const values = all.values.filter(v => choices.captures.includes(v.name) && here.has(v.from))
  const credentials = all.credentials.filter(
    c => (choices.secrets ?? [c.name]).includes(c.name) && c.sentIn.some(i => here.has(i)),
  )
  // A value in the head of an answer that redirects is only to be had where the redirect is not followed.
  const stops = new Set(values.filter(v => v.source.kind === 'header' || v.source.kind === 'cookie').map(v => v.from))
  const { firsts, chains } = followRedirects(entries, stops)
  const maker = new RequestMaker(baseUrl, strip, values, credentials, chains, stops)
  const steps: Step[] = []
  const names = new Set<string>()
  let last: { step: Step, endedMs: number } | undefined
  let pageFiles: HarEntry[] = []
  let pageName = ''

  const endBundle = () => {
    if (pageFiles.length === 0) return
    const name = freeName(`${pageName || 'Page'}: files`, names)
    const step: Step = {
      name,
      think: { kind: 'none' },
      parallel: PARALLEL,
      requests: pageFiles.map(e => ({ ...maker.make(e), name: freeName(fileName(e), names) })),
    }
    steps.push(step)
    last = { step, endedMs: Math.max(last?.endedMs ?? 0, ...pageFiles.map(e => e.endedMs)) }
    pageFiles = []
  }
  for (const entry of firsts) {
    if (choices.statics === 'bundle' && isStatic(entry) && steps.length > 0) {
      pageFiles.push(entry)
      continue
    }
    endBundle()
    if (last) last.step.think = pause(entry.beganMs - last.endedMs, choices.thinkCapMs)
    const end = chains.get(entry.index) ?? entry
    const name = freeName(stepName(entry, end, capture), names)
    if (end.type.includes('html') || steps.length === 0) pageName = name
    const step: Step = { name, think: { kind: 'none' }, ...maker.make(entry) }
    steps.push(step)
    last = { step, endedMs: chains.get(entry.index)?.endedMs ?? entry.endedMs }
  }
  endBundle()
  if (last && last.step.think.kind === 'none') last.step.think = { kind: 'fixed', ms: 1000 }
  const overlapping = firsts.filter(
    (e, i) =>
      i > 0 && !isStatic(e) && e.beganMs < (chains.get(firsts[i - 1]!.index)?.endedMs ?? firsts[i - 1]!.endedMs),
  ).length
  const unsaid = all.kept
    .filter(k => here.has(k.from))
    .map(k => `${shown(k.value)}, sent as ${k.sentAs}, was answered before, but ${k.why}: it is sent as it was`)
  const remarks = [
    ...capture.left.map(l => `${l.what}: ${l.why}`),
    ...capture.lacks,
    ...maker.remarks,
    ...unsaid,
    ...(overlapping > 0
      ? [
          `${overlapping} requests overlapped in the browser and go one after the other here: bundle those that belong together`,
        ]
      : []),
  ]
  return {
    journey: {
      schema: 'vornak-journey/1',
      kind: 'http',
      id: 'capture',
      name: choices.name.slice(0, 80),
      identity: 'fresh',
      tags: ['captured'],
      opening: [],
      round: steps,
      closing: [],
    },
    baseUrl,
    hosts: [...new Set(entries.map(e => e.url.host))],
    remarks,
    secrets: Object.fromEntries(credentials.map(c => [c.name, c.value])),
  }
}

/**
 * Redirects are the client's business: the first request stands for the chain. @param stops entries whose own answer is
 * needed
 */
function followRedirects(
  entries: readonly HarEntry[],
  stops: ReadonlySet<number>,
): { firsts: HarEntry[], chains: Map<number, HarEntry> } {
  const followed = new Set<number>()
  const chains = new Map<number, HarEntry>()
  for (const entry of entries) {
    if (followed.has(entry.index)) continue
    let at = entry
    for (
      let hops = 0;
      isRedirect(at) && !stops.has(at.index) && at.redirectsTo !== undefined && hops < REDIRECTS;
      hops++
    ) {
      const to = absolute(at.redirectsTo, at.url)
      const next = entries.find(e => !followed.has(e.index) && e !== at && e.beganMs >= at.beganMs && e.url.href === to)
      if (!next) break
      followed.add(next.index)
      chains.set(entry.index, next)
      at = next
    }
  }
  return { firsts: entries.filter(e => !followed.has(e.index)), chains }
}

function isRedirect({ status }: HarEntry): boolean {
  return status >= 300 && status < 400 && status !== 304
}

/** A letter of a word: where one stands beside a value, the value is only a part of something longer. */
const WORD_CHARACTER = /[\p{L}\p{N}_]/u

/** Makes requests of entries, and says what of them is not sent as it was. */
class RequestMaker {
  /** Each in words, once. */
  private readonly said = new Set<string>()

  constructor(
    private readonly baseUrl: string,
    private readonly strip: ReadonlySet<string>,
    private readonly values: readonly DynamicValue[],
    private readonly credentials: readonly Credential[],
    private readonly chains: ReadonlyMap<number, HarEntry>,
    private readonly stops: ReadonlySet<number>,
  ) {}

  get remarks(): string[] {
    return [...this.said]
  }

  make(entry: HarEntry): RequestPart {
    const end = this.chains.get(entry.index) ?? entry
    const what = `${entry.method} ${entry.url.pathname.slice(0, 80)}`
    const mine = [
      ...this.values
        .filter(v => v.from < entry.index && v.sentIn.includes(entry.index))
        .map(v => ({ value: v.value, text: `{{${v.name}}}` })),
      ...this.credentials
        .filter(c => c.sentIn.includes(entry.index))
        .map(c => ({ value: c.value, text: `{{target.${c.name}}}` })),
    ].sort((a, b) => b.value.length - a.value.length)
    /**
     * Only whole words are values: 1234 in 512349 is none. What the site itself writes in double braces is no value of
     * ours.
     */
    const put = (text: string, escape: (v: string) => string = v => v): string =>
      pieces(text, mine, escape)
        .map(p => (typeof p === 'string' ? literal(p) : p.text))
        .join('')
    const { url } = entry
    const path = put(url.pathname, encodeURIComponent)
    const query = [...url.searchParams].map(([n, v]): Pair => [put(n), put(v)])
    const body = this.body(entry, what, put)
    const headers = entry.headers
      .filter(([n]) => this.isSent(n, body, what))
      .map(([n, v]): Pair => {
        if (!/^accept-encoding$/i.test(n)) return [n, put(v)]
        const readable = readableEncodings(v)
        if (readable !== v)
          this.said.add(
            `the header accept-encoding is “${readable}” instead of “${v}”: what generators cannot unpack is not asked for`,
          )
        return [n, readable]
      })
    const capture = this.values
      .filter(v => v.from === end.index || v.from === entry.index)
      .map((v): ValueCapture => ({ name: v.name, from: v.source }))
    const expect: Expectation[] =
      end.status > 0 ? [{ kind: 'status', allow: end.status === 304 ? '200, 304' : String(end.status) }] : []
    const redirects = this.stops.has(entry.index) && isRedirect(entry) ? 0 : REDIRECTS
    return {
      // Other methods were left out when the capture was read.
      method: entry.method as Method,
      url: url.origin === this.baseUrl ? path : url.origin + path,
      ...(query.length > 0 ? { query } : {}),
      ...(headers.length > 0 ? { headers } : {}),
      ...(body ? { body } : {}),
      timeoutMs: TIMEOUT_MS,
      redirects,
      ...(expect.length > 0 ? { expect } : {}),
      ...(capture.length > 0 ? { capture } : {}),
      ...(end.status > 0 ? { seen: { status: end.status, type: end.type, bytes: end.bytes, ...keysOf(end) } } : {}),
    }
  }

  private isSent(name: string, body: Body | undefined, what: string): boolean {
    if (this.strip.has(name.toLowerCase()) || name.startsWith(':')) return false
    // The form is made anew, and so is what keeps its parts apart.
    if (/^content-type$/i.test(name) && body?.kind === 'multipart') {
      this.said.add(`${what}: the boundary of its form is made anew`)
      return false
    }
    return true
  }

  private body(
    { sent, type: _ }: HarEntry,
    what: string,
    put: (text: string, escape?: (v: string) => string) => string,
  ): Body | undefined {
    if (!sent) return undefined
    const inJson = (v: string) => JSON.stringify(v).slice(1, -1)
    if (sent.type.includes('json')) return { kind: 'json', text: put(sent.text, inJson) }
    if (sent.type.includes('urlencoded'))
      return { kind: 'form', fields: fieldsOf(sent).map(([n, v]): Pair => [put(n), put(v)]) }
    if (sent.type.includes('multipart')) {
      if (sent.params.length === 0)
        this.said.add(`${what}: the parts of its form are not in the capture; give them by hand`)
      for (const f of sent.params.filter(p => p.fileName))
        this.said.add(`${what}: the file ${f.fileName} is not taken from the capture; choose one by hand`)
      return {
        kind: 'multipart',
        parts: sent.params.filter(p => !p.fileName).map(p => ({ name: p.name, text: put(p.value) })),
      }
    }
    return { kind: 'raw', text: put(sent.text), type: sent.type || 'text/plain' }
  }
}

/** Cuts a text where values stand in it as words of their own, in the given form or as they are. */
function pieces(
  text: string,
  values: readonly { value: string, text: string }[],
  escape: (v: string) => string,
): (string | { text: string })[] {
  let cut: (string | { text: string })[] = [text]
  for (const of of values) {
    for (const form of new Set([escape(of.value), of.value]))
      cut = cut.flatMap(piece => (typeof piece === 'string' ? cutAt(piece, form, of.text) : [piece]))
  }
  return cut
}

function cutAt(text: string, value: string, put: string): (string | { text: string })[] {
  const cut: (string | { text: string })[] = []
  let from = 0
  for (let at = text.indexOf(value); at >= 0 && value !== ''; at = text.indexOf(value, at + value.length)) {
    const isWord =
      !(WORD_CHARACTER.test(text[at - 1] ?? '') && WORD_CHARACTER.test(value[0]!)) &&
      !(WORD_CHARACTER.test(text[at + value.length] ?? '') && WORD_CHARACTER.test(value.at(-1) ?? ''))
    if (!isWord) continue
    cut.push(text.slice(from, at), { text: put })
    from = at + value.length
  }
  cut.push(text.slice(from))
  return cut.filter(p => p !== '')
}

/**
 * Text of the site's own as a template that says just that: its double braces are no values (Mustache's other
 * delimiters, mustache(5)).
 */
function literal(text: string): string {
  return text.includes('{{') ? text.replaceAll('{{', '{{=<% %>=}}{{<%={{ }}=%>') : text
}

/** Answers are unpacked to be examined: what generators cannot unpack is not asked for. */
function readableEncodings(value: string): string {
  return (
    value
      .split(',')
      .map(e => e.trim())
      .filter(e => /^(gzip|deflate|br|identity|\*)\b/i.test(e))
      .join(', ') || 'identity'
  )
}

function keysOf({ type, text }: HarEntry): { keys?: string[] } {
  if (!type.includes('json') || text === undefined) return {}
  try {
    const value: unknown = JSON.parse(text)
    return isObject(value)
      ? { keys: Object.keys(value).slice(0, 50) }
      : {}
  }
  catch {
    return {}
  }
}

function pause(gapMs: number, capMs: number): ThinkTime {
  if (gapMs < LEAST_THINK_MS) return { kind: 'none' }
  return { kind: 'fixed', ms: Math.min(capMs, Math.round(gapMs / 100) * 100) }
}

/** A page's own title, as it stands in it; else what the capture calls the page it was the first of. */
function titleOf({ text, page, index, type }: HarEntry, { pages, entries }: RecordedVisit): string | undefined {
  const own = /<title[^>]*>([^<]{1,300})<\/title>/i
    .exec(text ?? '')?.[1]
    ?.replace(/\s+/g, ' ')
    .trim()
  if (own) return unescaped(own)
  const first = entries.find(e => e.page === page && e.type.includes('html') && !isRedirect(e))
  const title = type.includes('html') && first?.index === index ? pages.find(p => p.id === page)?.title : undefined
  return title && !/^https?:/.test(title) ? title : undefined
}

function shown(value: string): string {
  return `“${value.length > 40 ? `${value.slice(0, 39)}…` : value}”`
}

function stepName(entry: HarEntry, end: HarEntry, capture: RecordedVisit): string {
  const title = entry.method === 'GET' && end.type.includes('html') ? titleOf(end, capture) : undefined
  if (title) return title.slice(0, 50)
  const last = entry.url.pathname.split('/').filter(Boolean).pop() ?? 'start'
  return `${entry.method === 'GET' ? '' : `${entry.method} `}${decoded(last)}`.slice(0, 50)
}

function fileName({ url }: HarEntry): string {
  return decoded(url.pathname.split('/').filter(Boolean).pop() ?? url.host).slice(0, 60)
}

function freeName(name: string, names: Set<string>): string {
  let free = name
  for (let n = 2; names.has(free); n++) free = `${name} ${n}`
  names.add(free)
  return free
}

function absolute(to: string, from: URL): string {
  try {
    return new URL(to, from).href
  }
  catch {
    return to
  }
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text.replace(/\+/g, ' '))
  }
  catch {
    return text
  }
}

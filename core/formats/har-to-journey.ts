/** Turns a capture into a journey: first a review of what would be kept and what not, then, with what was chosen, the journey itself. */
import type { Body, Capture as ValueCapture, Expectation, HttpJourney, Method, Pair, RequestPart, Step, ThinkTime } from '../journey/journey'
import { findDynamicValues, type DynamicValue } from './dynamic-values'
import type { Capture, HarEntry } from './har'

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
  left: Capture['left']
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
}

/** Pauses are cut at this unless something else is chosen, ms. */
export const USUAL_THINK_CAP_MS = 60_000
/** Shorter gaps are the browser's, not the user's, ms. */
const LEAST_THINK_MS = 300
/** Requests of a page that browsers send at once to one host. Common practice, no source. */
const PARALLEL = 6
const TIMEOUT_MS = 30_000
/** Redirects a browser would follow. */
const REDIRECTS = 10

const STRIPPED = /^(:|cookie$|host$|content-length$|connection$|keep-alive$|transfer-encoding$|sec-|priority$|if-|cache-control$|pragma$|upgrade|te$|dnt$|proxy-|expect$)/i
const STATIC_TYPE = /^(image|font|audio|video)\/|javascript|ecmascript|\/css|font|wasm/i
const STATIC_NAME = /\.(css|m?js|map|png|jpe?g|gif|svg|webp|avif|ico|woff2?|ttf|otf|eot|mp[34]|webm|wasm)$/i

export function isStatic({ method, type, url }: Pick<HarEntry, 'method' | 'type' | 'url'>): boolean {
  return method === 'GET' && !/html|json/.test(type) && (STATIC_TYPE.test(type) || STATIC_NAME.test(url.pathname))
}

/** What is chosen before anybody chooses: the hosts of the pages, files bundled, everything that looks dynamic captured. */
export function usualChoices(capture: Capture): HarChoices {
  const { hosts, values } = reviewParts(capture)
  const main = capture.entries.find(e => e.type.includes('html'))?.url.host ?? hosts[0]?.host ?? ''
  const site = main.split(':')[0]!.split('.').slice(-2).join('.')
  return {
    name: capture.pages.find(p => p.title && !/^https?:/.test(p.title))?.title || `Capture of ${main}`,
    hosts: hosts.filter(h => h.host === main || h.host.split(':')[0]!.endsWith(`.${site}`)).map(h => h.host),
    statics: 'bundle', strip: headersOf(capture).filter(h => h.strip).map(h => h.name), thinkCapMs: USUAL_THINK_CAP_MS, captures: values.map(v => v.name),
  }
}

export function reviewHar(capture: Capture, choices: HarChoices): HarReview {
  const { hosts, values } = reviewParts(capture)
  const { entries } = capture
  const journey = harToJourney(capture, choices).journey
  const byIndex = new Map(entries.map(e => [e.index, e]))
  return {
    browser: capture.browser, title: choices.name, requests: entries.length, lengthMs: Math.max(...entries.map(e => e.endedMs)), hosts, statics: entries.filter(isStatic).length,
    headers: headersOf(capture), left: capture.left,
    values: values.map(v => ({ ...v, value: v.value.length > 60 ? `${v.value.slice(0, 59)}…` : v.value, fromUrl: byIndex.get(v.from)!.url.pathname })),
    steps: journey.round.map(s => ({ name: s.name, requests: 'requests' in s ? s.requests.length : 1, think: s.think.kind === 'fixed' ? `${s.think.ms / 1000} s` : 'none' })),
  }
}

const parts = new WeakMap<Capture, { hosts: HarReview['hosts'], values: DynamicValue[] }>()

function reviewParts(capture: Capture): { hosts: HarReview['hosts'], values: DynamicValue[] } {
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
    parts.set(capture, known = { hosts: [...hosts.values()].sort((a, b) => b.requests - a.requests), values: findDynamicValues(capture.entries) })
  }
  return known
}

function headersOf(capture: Capture): HarReview['headers'] {
  const counts = new Map<string, number>()
  for (const e of capture.entries) for (const name of new Set(e.headers.map(([n]) => n.toLowerCase()))) counts.set(name, (counts.get(name) ?? 0) + 1)
  return [...counts].map(([name, requests]) => ({ name, requests, strip: STRIPPED.test(name) })).sort((a, b) => Number(a.strip) - Number(b.strip) || b.requests - a.requests)
}

/** @returns the journey without an id, the base address of its main host, all its hosts, and what could not be converted */
export function harToJourney(capture: Capture, choices: HarChoices): { journey: HttpJourney, baseUrl: string, hosts: string[], remarks: string[] } {
  const kept = new Set(choices.hosts)
  const strip = new Set(choices.strip.map(n => n.toLowerCase()))
  const remarks = capture.left.map(l => `${l.what}: ${l.why}`)
  const entries = capture.entries.filter(e => kept.has(e.url.host) && !(choices.statics === 'drop' && isStatic(e)))
  const base = new Map<string, number>()
  for (const e of entries) base.set(e.url.origin, (base.get(e.url.origin) ?? 0) + (e.type.includes('html') ? 1000 : 1))
  const baseUrl = [...base].sort((a, b) => b[1] - a[1])[0]?.[0] ?? ''
  const values = reviewParts(capture).values.filter(v => choices.captures.includes(v.name) && entries.some(e => e.index === v.from))
  const { firsts, chains } = followRedirects(entries)
  const maker = new RequestMaker(baseUrl, strip, values, chains, remarks)
  const steps: Step[] = []
  const names = new Set<string>()
  let last: { step: Step, endedMs: number } | undefined
  let pageFiles: HarEntry[] = []
  let pageName = ''

  const endBundle = () => {
    if (pageFiles.length === 0) return
    const name = freeName(`${pageName || 'Page'}: files`, names)
    const step: Step = { name, think: { kind: 'none' }, parallel: PARALLEL, requests: pageFiles.map(e => ({ ...maker.make(e), name: freeName(fileName(e), names) })) }
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
    const name = freeName(stepName(entry, capture), names)
    if ((chains.get(entry.index) ?? entry).type.includes('html') || steps.length === 0) pageName = name
    const step: Step = { name, think: { kind: 'none' }, ...maker.make(entry) }
    steps.push(step)
    last = { step, endedMs: chains.get(entry.index)?.endedMs ?? entry.endedMs }
  }
  endBundle()
  if (last && last.step.think.kind === 'none') last.step.think = { kind: 'fixed', ms: 1000 }
  const overlapping = firsts.filter((e, i) => i > 0 && !isStatic(e) && e.beganMs < (chains.get(firsts[i - 1]!.index)?.endedMs ?? firsts[i - 1]!.endedMs)).length
  if (overlapping > 0) remarks.push(`${overlapping} requests overlapped in the browser and go one after the other here: bundle those that belong together`)
  return {
    journey: { schema: 'vornak-journey/1', kind: 'http', id: 'capture', name: choices.name.slice(0, 80), identity: 'fresh', tags: ['captured'], opening: [], round: steps, closing: [] },
    baseUrl, hosts: [...new Set(entries.map(e => e.url.host))], remarks,
  }
}

/** Redirects are the client's business: the first request stands for the chain. */
function followRedirects(entries: readonly HarEntry[]): { firsts: HarEntry[], chains: Map<number, HarEntry> } {
  const followed = new Set<number>()
  const chains = new Map<number, HarEntry>()
  for (const entry of entries) {
    if (followed.has(entry.index)) continue
    let at = entry
    for (let hops = 0; at.status >= 300 && at.status < 400 && at.status !== 304 && at.redirectsTo !== undefined && hops < REDIRECTS; hops++) {
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

class RequestMaker {
  constructor(private readonly baseUrl: string, private readonly strip: ReadonlySet<string>, private readonly values: readonly DynamicValue[], private readonly chains: ReadonlyMap<number, HarEntry>, private readonly remarks: string[]) {}

  make(entry: HarEntry): RequestPart {
    const end = this.chains.get(entry.index) ?? entry
    const mine = this.values.filter(v => v.from < entry.index && v.sentIn.includes(entry.index))
    const put = (text: string, escape: (v: string) => string = v => v) => mine.reduce((t, v) => t.replaceAll(escape(v.value), `{{${v.name}}}`).replaceAll(v.value, `{{${v.name}}}`), text)
    const { url } = entry
    const path = put(url.pathname, encodeURIComponent)
    const query = [...url.searchParams].map(([n, v]): Pair => [n, put(v)])
    const headers = entry.headers.filter(([n]) => !this.strip.has(n.toLowerCase()) && !n.startsWith(':')).map(([n, v]): Pair => [n, /^accept-encoding$/i.test(n) ? readableEncodings(v) : put(v)])
    const body = this.body(entry, put)
    const capture = this.values.filter(v => v.from === end.index || v.from === entry.index).map((v): ValueCapture => ({ name: v.name, from: v.source }))
    const expect: Expectation[] = end.status > 0 ? [{ kind: 'status', allow: end.status === 304 ? '200, 304' : String(end.status) }] : []
    return {
      method: entry.method as Method, url: url.origin === this.baseUrl ? path : url.origin + path, ...(query.length > 0 ? { query } : {}), ...(headers.length > 0 ? { headers } : {}), ...(body ? { body } : {}),
      timeoutMs: TIMEOUT_MS, redirects: REDIRECTS, ...(expect.length > 0 ? { expect } : {}), ...(capture.length > 0 ? { capture } : {}),
      ...(end.status > 0 ? { seen: { status: end.status, type: end.type, bytes: end.bytes, ...keysOf(end) } } : {}),
    }
  }

  private body({ sent, method, url }: HarEntry, put: (text: string, escape?: (v: string) => string) => string): Body | undefined {
    if (!sent) return undefined
    const inJson = (v: string) => JSON.stringify(v).slice(1, -1)
    if (sent.type.includes('json')) return { kind: 'json', text: put(sent.text, inJson) }
    if (sent.type.includes('urlencoded')) return { kind: 'form', fields: (sent.params.length > 0 ? sent.params.map((p): Pair => [decoded(p.name), decoded(p.value)]) : [...new URLSearchParams(sent.text)]).map(([n, v]): Pair => [n, put(v)]) }
    if (sent.type.includes('multipart')) {
      if (sent.params.length === 0) {
        this.remarks.push(`${method} ${url.pathname}: the parts of its form are not in the capture; give them by hand`)
        return { kind: 'multipart', parts: [] }
      }
      const files = sent.params.filter(p => p.fileName)
      for (const f of files) this.remarks.push(`${method} ${url.pathname}: the file ${f.fileName} is not in the capture; choose one by hand`)
      return { kind: 'multipart', parts: sent.params.filter(p => !p.fileName).map(p => ({ name: p.name, text: put(p.value) })) }
    }
    return { kind: 'raw', text: put(sent.text), type: sent.type || 'text/plain' }
  }
}

/** Answers are unpacked to be examined: what generators cannot unpack is not asked for. */
function readableEncodings(value: string): string {
  return value.split(',').map(e => e.trim()).filter(e => /^(gzip|deflate|br|identity|\*)\b/i.test(e)).join(', ') || 'identity'
}

function keysOf({ type, text }: HarEntry): { keys?: string[] } {
  if (!type.includes('json') || text === undefined) return {}
  try {
    const value: unknown = JSON.parse(text)
    return typeof value === 'object' && value !== null && !Array.isArray(value) ? { keys: Object.keys(value).slice(0, 50) } : {}
  }
  catch { return {} }
}

function pause(gapMs: number, capMs: number): ThinkTime {
  if (gapMs < LEAST_THINK_MS) return { kind: 'none' }
  return { kind: 'fixed', ms: Math.min(capMs, Math.round(gapMs / 100) * 100) }
}

function stepName(entry: HarEntry, capture: Capture): string {
  const title = entry.type.includes('html') && entry.method === 'GET' ? capture.pages.find(p => p.id === entry.page)?.title : undefined
  if (title && !/^https?:/.test(title)) return title.slice(0, 50)
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
  try { return new URL(to, from).href }
  catch { return to }
}

function decoded(text: string): string {
  try { return decodeURIComponent(text.replace(/\+/g, ' ')) }
  catch { return text }
}

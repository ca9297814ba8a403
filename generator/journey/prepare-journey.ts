/**
 * Compiles a journey against a target: templates, checks, captures, spans. What cannot be compiled is said before
 * anything is sent.
 */
import {
  compileCatch,
  compileCheck,
  expectationsOf,
  missNamesOf,
  needsText,
  readStatuses,
} from '../../core/journey/answers'
import {
  isBundle,
  meanRoundThinkMs,
  requestsOf,
  scaleThink,
  stepsOf,
  type HttpJourney,
  type RequestPart,
  type Stage,
  type Step,
} from '../../core/journey/journey'
import type { Client } from '../../core/client/client'
import { measuresOf } from '../../core/journey/measures'
import { addressOf, targetValues, type Target } from '../../core/journey/target'
import { compileTemplate, ESCAPES, TemplateError, type Template } from '../../core/values/template'
import { resolveValue, type ValueNames, type ValueScope } from '../../core/values/scope'
import { MOST_EXAMINED_BYTES, type PreparedRequest } from '../exchange/exchange'
import { prepareBody } from './bodies'
import type { PreparedFeed, PreparedJourney, PreparedPart, PreparedStep } from './prepared'
import { newTraceParent } from './trace'

/** Marks by which a target's owner recognises a run's requests, and by which its counts can be held against ours. */
export interface Marking {
  runId: string
  /** Requests outside the load: a rehearsal or a try. */
  rehearsal?: boolean
  /** Each begins a trace of its own. */
  traces?: boolean
}

export interface PreparedFor {
  target: Target
  secrets: Readonly<Record<string, string>>
  marking: Marking
  /** In the order of the journey's feeds. */
  feeds: readonly (PreparedFeed & { as: string, columns: readonly string[] })[]
  /** Contents of the library's files by content id. */
  files: ReadonlyMap<string, Uint8Array>
  /** Bytes of every answer's body kept for exemplars; 0 where none are kept. */
  exemplarBytes: number
  /** Its headers go with every request that does not write them itself; left out: none do. */
  client?: Client
  /** Pauses are this many times as long; left out: as the journey says. */
  thinkScale?: number
}

/** @throws TemplateError, ExpressionError, PathError, StatusError, TypeError */
export function prepareJourney(journey: HttpJourney, around: PreparedFor): PreparedJourney {
  const measures = measuresOf(journey)
  const place = (name: string, kind: string) => measures.findIndex(m => m.name === name && m.kind === kind)
  const captures = capturedNames(journey)
  const names: ValueNames = {
    feeds: around.feeds,
    captures,
    target: targetValues(around.target, around.secrets),
    runId: around.marking.runId,
  }
  const spans = journey.spans ?? []
  const scale = around.thinkScale ?? 1
  const stage = (which: Stage) =>
    stepsOf(journey, which).map((step): PreparedStep => ({
      name: step.name,
      think: scale === 1 ? step.think : scaleThink(step.think, scale),
      bundle: isBundle(step)
        ? { measure: place(step.name, 'bundle'), parallel: Math.max(1, step.parallel) }
        : undefined,
      parts: requestsOf(step).map(part => preparePart(part, place(part.name, 'request'), captures, names, around)),
      spansBegin: spans.flatMap((s, i) => (s.from === step.name ? [i] : [])),
      spansEnd: spans.flatMap((s, i) => (s.to === step.name ? [i] : [])),
    }))
  return {
    journey,
    client: around.client?.id,
    opening: stage('opening'),
    round: stage('round'),
    closing: stage('closing'),
    fresh: journey.identity === 'fresh',
    http2: journey.http2 ?? false,
    newPassAfterFailure: journey.afterFailure === 'newPass',
    pacingMs: journey.pacingMs ?? 0,
    meanThinkMs: meanRoundThinkMs(journey) * scale,
    spans: spans.map(s => ({ measure: place(s.name, 'span'), withThink: s.withThink })),
    roundMeasure: measures.findIndex(m => m.kind === 'round'),
    passMeasure: Math.max(
      0,
      measures.findIndex(m => m.kind === 'request'),
    ),
    feeds: around.feeds,
    captures: captures.length,
  }
}

/**
 * Names of all values a journey captures, each once: a later capture of the same name takes the place of the earlier.
 */
export function capturedNames(journey: HttpJourney): string[] {
  const steps: Step[] = (['opening', 'round', 'closing'] as const).flatMap(s => stepsOf(journey, s))
  return [...new Set(steps.flatMap(s => requestsOf(s).flatMap(r => (r.capture ?? []).map(c => c.name))))]
}

function preparePart(
  part: RequestPart & { name: string },
  measure: number,
  captures: readonly string[],
  names: ValueNames,
  around: PreparedFor,
): PreparedPart {
  const expectations = expectationsOf(part)
  const missNames = missNamesOf(part)
  const catches = (part.capture ?? []).map((c) => {
    const caught = compileCatch(c)
    return { ...caught, slot: captures.indexOf(c.name), missNumber: missNames.indexOf(`has ${c.name}`) }
  })
  const onlyStatus =
    expectations.length === 1 &&
    catches.length === 0 &&
    !expectations[0]!.onlyCount &&
    expectations[0]!.kind === 'status'
      ? readStatuses(expectations[0]!.allow)
      : undefined
  const builder = requestBuilder(part, names, around)
  return {
    name: part.name,
    measure,
    ...builder,
    onlyStatus,
    checks: expectations.map(compileCheck),
    catches,
    redirects: part.redirects ?? 0,
    timeoutMs: part.timeoutMs,
  }
}

// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
function requestBuilder(
  part: RequestPart & { name: string },
  names: ValueNames,
  { target, marking, files, exemplarBytes, client }: PreparedFor,
): Pick<PreparedPart, 'fixed' | 'build'> {
  const compile = (text: string, escape: (value: string) => string) =>
    compileTemplate<ValueScope>(text, name => resolveValue(name, names), escape)
  const query = (part.query ?? []).map(
    ([name, value]) => [compile(name, ESCAPES.none), compile(value, ESCAPES.none)] as const,
  )
  const url = compile(part.url, ESCAPES.url)
  const headers = (part.headers ?? []).map(([name, value]) => [name, compile(value, ESCAPES.header)] as const)
  const body = part.body && prepareBody(part.body, name => resolveValue(name, names), files)
  const own = new Set(headers.map(([name]) => name.toLowerCase()))
  const clients: [string, string][] = client?.headers ?? []
  const saysItself = clients.some(([name]) => name.toLowerCase() === 'user-agent')
  const usual: [string, string][] = [
    ...clients,
    ...(saysItself ? [] : [['user-agent', 'Vornak'] satisfies [string, string]]),
    ['vornak-run', marking.runId],
    ['vornak-step', encodeURIComponent(part.name)],
  ]
  if (marking.rehearsal) usual.push(['vornak-rehearsal', '1'])
  if (body && !own.has('content-type')) usual.push(['content-type', body.type])
  const added = usual.filter(([name]) => !own.has(name.toLowerCase())).flat()
  const needsWhole = needsText(part)
  const keepBytes = needsWhole ? MOST_EXAMINED_BYTES : exemplarBytes
  const { method, timeoutMs } = part
  const templates: Template<ValueScope>[] = [url, ...query.flat(), ...headers.map(([, value]) => value)]
  const origin = fixedOrigin(url, target)
  const base = new URL(target.baseUrl).pathname.replace(/\/+$/, '')
  /** Written with scheme and host, not as a path below the base address. */
  const whole = /^https?:\/\//i.test(url.fixed ?? url.lead)

  const build = (scope: ValueScope): PreparedRequest | string => {
    const missing = () =>
      templates.map(t => t.missing(scope)).find(m => m !== undefined) ?? body?.missing(scope) ?? 'a value'
    const text = url.render(scope)
    if (text === undefined) return missing()
    let to = origin
    let path: string
    if (to === undefined) {
      const parsed = addressOf(target, text)
      to = parsed.origin
      path = parsed.pathname + parsed.search
    }
    else if (whole) path = text.slice(to.length) || '/'
    else
      path =
        text.charCodeAt(0) === SLASH && text.charCodeAt(1) !== SLASH
          ? base + text
          : `${base}/${text.replace(/^\/+/, '')}`
    if (query.length > 0) {
      const search = new URLSearchParams()
      for (const [name, value] of query) {
        const [n, v] = [name.render(scope), value.render(scope)]
        if (n === undefined || v === undefined) return missing()
        search.append(n, v)
      }
      path += (path.includes('?') ? '&' : '?') + search.toString()
    }
    let lines = added
    let saysHost: string | undefined
    if (headers.length > 0) {
      lines = []
      for (const [name, value] of headers) {
        const v = value.render(scope)
        if (v === undefined) return missing()
        lines.push(name, v)
        if (name.toLowerCase() === 'host') saysHost = v
      }
      lines.push(...added)
    }
    const sent = body?.build(scope)
    if (body && sent === undefined) return missing()
    return { origin: to, path, method, headers: lines, body: sent, timeoutMs, keepBytes, needsWhole, saysHost }
  }
  const traces = marking.traces === true && !own.has('traceparent')
  const fixed = templates.every(t => t.fixed !== undefined) && (!body || body.fixed !== undefined)
  if (!fixed) return { fixed: undefined, build: traces ? scope => traced(build(scope)) : build }
  const built = build(NOBODY)
  if (typeof built === 'string') throw new TemplateError(`“${built}” has no value`)
  // Parsed now, so that what is no address is found before the run.
  const address = new URL(built.origin + built.path)
  const request = { ...built, origin: address.origin, path: address.pathname + address.search }
  return traces ? { fixed: undefined, build: () => traced(request) } : { fixed: request, build: () => request }
}

/** @param request to be sent, or the name of a value that it lacks */
function traced(request: PreparedRequest | string): PreparedRequest | string {
  if (typeof request === 'string') return request
  return { ...request, headers: [...request.headers, 'traceparent', newTraceParent()] }
}

/** Scheme, host and port, where no value of the moment can change them. */
function fixedOrigin(url: Template<ValueScope>, target: Target): string | undefined {
  const text = url.fixed ?? url.lead
  if (/^https?:\/\//i.test(text)) {
    // The host must be over before the first value begins.
    if (url.fixed === undefined && !/^https?:\/\/[^/?#]+[/?#]/i.test(text)) return undefined
    const { origin } = new URL(text)
    // An address that is written otherwise than it is normalised is parsed each time.
    return text.startsWith(origin) ? origin : undefined
  }
  if (text === '' && url.fixed === undefined) return undefined
  return new URL(target.baseUrl).origin
}

const SLASH = 47

/** The scope of texts in which nothing depends on the moment. */
const NOBODY: ValueScope = {
  rows: [],
  captured: [],
  userNumber: 0,
  passNumber: 0,
  next: () => 0,
  random: () => 0,
  now: () => 0,
}

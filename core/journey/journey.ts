/**
 * What one user does: an opening once, a round again and again, a closing once; each made of steps. The journey
 * document of docs/journey-file.md.
 */

/** Pause after a step, ms. All but `fixed` and `none` draw anew each time; `normal` is cut at zero. */
export type ThinkTime =
  | { kind: 'none' }
  | { kind: 'fixed', ms: number }
  | { kind: 'uniform', fromMs: number, toMs: number }
  | { kind: 'normal', meanMs: number, deviationMs: number }

export const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'] as const
export type Method = (typeof METHODS)[number]

/** A name and its value, where order and repetition matter. */
export type Pair = [name: string, value: string]

/** What is sent along. All texts are templates but a file's content. */
export type Body =
  | { kind: 'json', text: string }
  | { kind: 'form', fields: Pair[] }
  | { kind: 'multipart', parts: MultipartPart[] }
  | { kind: 'raw', text: string, type: string }

/** One part of a multipart body: a text, or a file from the library by its content id. */
export type MultipartPart =
  { name: string, text: string } | { name: string, file: string, fileName: string, type: string }

/** How text is held against what was expected. */
export type TextRule = 'contains' | 'lacks' | 'equals' | 'matches'
/** How a value inside a JSON answer is held against what was expected. */
export type JsonRule = 'exists' | 'equals' | 'differs' | 'atLeast' | 'atMost' | 'contains' | 'matches'

/** What an answer must show to count as right. `onlyCount`: a miss is counted, and the step is right all the same. */
export type Expectation = { onlyCount?: boolean } &
  /** Codes and ranges: `200`, `200, 204`, `2xx`, `200-299`. */
  (
    | { kind: 'status', allow: string }
    | { kind: 'header', name: string, rule: TextRule | 'present', value?: string }
    | { kind: 'body', rule: TextRule, value: string }
    /** RFC 9535. */
    | { kind: 'json', path: string, rule: JsonRule, value?: string }
    /** Length of the body as sent over the wire, bytes. */
    | { kind: 'size', atLeast?: number, atMost?: number }
    | { kind: 'duration', atMostMs: number }
  )

/** Where in an answer a value is found. */
export type CaptureSource =
  | { kind: 'json', path: string }
  /** The whole value, or what stands in it between two texts. */
  | { kind: 'header', name: string, left?: string, right?: string }
  | { kind: 'cookie', name: string }
  | { kind: 'between', left: string, right: string }
  /** The first group in brackets; without one the whole match. */
  | { kind: 'expression', pattern: string }

/** A value taken from an answer, for later templates to name. */
export interface Capture {
  name: string
  from: CaptureSource
  /** Used when the answer has no such value; without it the step fails. */
  otherwise?: string
}

/** One request as a user sends it. Texts are templates. */
export interface RequestPart {
  method: Method
  /** A path below the target's base address, or a whole URL. */
  url: string
  query?: Pair[]
  headers?: Pair[]
  body?: Body
  /** The whole exchange, redirects included, must be over by then, ms; else it counts as a timeout of at least this. */
  timeoutMs: number
  /** Redirects followed at most; 0 shows the redirect itself. */
  redirects?: number
  expect?: Expectation[]
  capture?: Capture[]
  /** What a capture saw in its place: a try says where the answer differs. */
  seen?: SeenAnswer
}

/** An answer as it was captured, in outline. */
export interface SeenAnswer {
  status: number
  type: string
  bytes: number
  /** Names at the top of a JSON object. */
  keys?: string[]
}

/** One request, filed under the step's own name. */
export interface RequestStep extends RequestPart {
  /** Unique within the journey; what results are filed under. */
  name: string
  think: ThinkTime
  off?: boolean
}

/** Requests a page fires together: timed as one, and each by itself. */
export interface BundleStep {
  name: string
  think: ThinkTime
  off?: boolean
  /** Requests under way at once, each on a connection of its own. */
  parallel: number
  requests: (RequestPart & { name: string, off?: boolean })[]
}

export type Step = RequestStep | BundleStep

/** A named stretch of consecutive steps of one stage, timed as one. */
export interface Span {
  name: string
  /** Names of its first and last step. */
  from: string
  to: string
  /** Whether the pauses inside count. */
  withThink: boolean
}

export type Deal = 'inOrder' | 'atRandom' | 'once'

/** A feed's rows, handed to users. Columns are named in templates as `as.column`. */
export interface FeedUse {
  feed: string
  as: string
  deal: Deal
  per: 'user' | 'pass'
  /**
   * When the rows run out: from the first again (not with `once`), the user leaves, or the pass's requests fail unsent.
   */
  atEnd: 'again' | 'leave' | 'fail'
}

export const STAGES = ['opening', 'round', 'closing'] as const
export type Stage = (typeof STAGES)[number]

/** What every journey has. */
interface JourneyHead {
  schema: 'vornak-journey/1'
  id: string
  name: string
  notes?: string
  tags?: string[]
}

/** A journey of HTTP steps. */
export interface HttpJourney extends JourneyHead {
  kind: 'http'
  /**
   * `kept`: cookies, connections and TLS session stay from pass to pass. `fresh`: each pass is somebody new, opening
   * and closing included.
   */
  identity: 'kept' | 'fresh'
  /** HTTP/2 where a target offers it over TLS; otherwise HTTP/1.1. */
  http2?: boolean
  /** Passes begin at least this far apart, ms; none: as soon as the last pause is over. */
  pacingMs?: number
  /** What a user does after a step that failed. */
  afterFailure?: 'goOn' | 'newPass'
  opening: Step[]
  round: Step[]
  closing: Step[]
  spans?: Span[]
  feeds?: FeedUse[]
}

/** A program a command journey needs on its machine: asked for its version at roll call. */
export interface Runtime {
  program: string
  arguments: string[]
}

/**
 * A journey that a program runs, for load that is not HTTP steps. docs/command-journeys.md says what the program is
 * told and must write.
 */
export interface CommandJourney extends JourneyHead {
  kind: 'command'
  /** Content id of the kit: a tar archive, plain or gzipped. */
  kit: string
  runtimes: Runtime[]
  /** Run once after unpacking, when given. */
  prepare?: string[]
  run: string[]
  /** Step names the program writes samples for; others are filed under `other`. */
  steps: string[]
  /** Files below the kit's folder that are brought back at the end. */
  bringBack: string[]
  feeds?: FeedUse[]
}

export type Journey = HttpJourney | CommandJourney

export function isBundle(step: Step): step is BundleStep {
  return 'requests' in step
}

/** A step's requests that are on, each with the name its results are filed under. */
export function requestsOf(step: Step): (RequestPart & { name: string })[] {
  if (step.off) return []
  return isBundle(step) ? step.requests.filter(r => !r.off) : [step]
}

/** Steps of a stage that are on. */
export function stepsOf(journey: HttpJourney, stage: Stage): Step[] {
  return journey[stage].filter(s => requestsOf(s).length > 0)
}

/** Average pause, ms. The mean of a normal cut at zero is a little above its middle; the middle is told. */
export function meanThinkMs(think: ThinkTime): number {
  switch (think.kind) {
    case 'none':
      return 0
    case 'fixed':
      return think.ms
    case 'uniform':
      return (think.fromMs + think.toMs) / 2
    case 'normal':
      return think.meanMs
  }
}

/** The same pause, times a factor. */
export function scaleThink(think: ThinkTime, scale: number): ThinkTime {
  switch (think.kind) {
    case 'none':
      return think
    case 'fixed':
      return { kind: 'fixed', ms: think.ms * scale }
    case 'uniform':
      return { kind: 'uniform', fromMs: think.fromMs * scale, toMs: think.toMs * scale }
    case 'normal':
      return { kind: 'normal', meanMs: think.meanMs * scale, deviationMs: think.deviationMs * scale }
  }
}

/** Draws one pause, ms. @param random numbers in [0, 1) */
export function drawThinkMs(think: ThinkTime, random: () => number): number {
  switch (think.kind) {
    case 'none':
      return 0
    case 'fixed':
      return think.ms
    case 'uniform':
      return think.fromMs + random() * (think.toMs - think.fromMs)
    // Box–Muller.
    case 'normal':
      return Math.max(
        0,
        think.meanMs + think.deviationMs * Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random()),
      )
  }
}

/** Pauses of one round on average, ms; 0 for a command journey, which keeps its own. */
export function meanRoundThinkMs(journey: Journey): number {
  return journey.kind === 'http' ? stepsOf(journey, 'round').reduce((sum, s) => sum + meanThinkMs(s.think), 0) : 0
}

/** A journey as its users walk it: everything compiled, every name resolved to a place. */
import type { Catch, Check } from '../../core/journey/answers'
import type { HttpJourney, ThinkTime } from '../../core/journey/journey'
import type { ValueScope } from '../../core/values/scope'
import type { PreparedRequest } from '../exchange/exchange'
import type { FeedDealer } from './feed-dealer'

/** One request of a step. */
export interface PreparedPart {
  name: string
  /** Place of its series among the journey's. */
  measure: number
  /** The request, where nothing in it depends on the moment. */
  fixed: PreparedRequest | undefined
  /** Makes the request for this moment; a missing value's name comes back instead. */
  build: (scope: ValueScope) => PreparedRequest | string
  /** Statuses that are right, when nothing else is expected and nothing is taken: the quick way. */
  onlyStatus: ReadonlySet<number> | undefined
  checks: readonly Check[]
  catches: readonly PreparedCatch[]
  redirects: number
  timeoutMs: number
}

export interface PreparedCatch extends Catch {
  /** Place among the journey's captured values. */
  slot: number
  /** Its number in frames. */
  missNumber: number
}

export interface PreparedStep {
  name: string
  think: ThinkTime
  /** A bundle's own measure and how many of its requests go at once. */
  bundle: { measure: number, parallel: number } | undefined
  parts: readonly PreparedPart[]
  /** Places of spans that begin, and that end, with this step. */
  spansBegin: readonly number[]
  spansEnd: readonly number[]
}

export interface PreparedSpan {
  measure: number
  withThink: boolean
}

export interface PreparedFeed {
  dealer: FeedDealer
  per: 'user' | 'pass'
  atEnd: 'leave' | 'fail'
}

export interface PreparedJourney {
  journey: HttpJourney
  /** Id of the client by which it is walked; undefined: it says nothing. */
  client: string | undefined
  opening: readonly PreparedStep[]
  round: readonly PreparedStep[]
  closing: readonly PreparedStep[]
  fresh: boolean
  http2: boolean
  newPassAfterFailure: boolean
  pacingMs: number
  meanThinkMs: number
  spans: readonly PreparedSpan[]
  /** Measure of the whole round; −1 where it has none. */
  roundMeasure: number
  /** Measure under which passes are counted: the first request. */
  passMeasure: number
  feeds: readonly PreparedFeed[]
  /** How many values are captured. */
  captures: number
}

/** Writes an exchange down as it is kept: what was sent, what came, what each check saw. */
import type { ExchangeRecord, KeptFor } from '../../core/journey/exchange-record'
import type { Pair } from '../../core/journey/journey'
import type { FailureKind } from '../../core/journey/failure-kinds'
import { bodyBytes, type Outcome, type PreparedRequest } from '../exchange/exchange'
import { EXEMPLAR_BODY_BYTES } from './exemplar-keeper'
import type { LoadedAnswer } from './loaded-answer'
import { maskedHeader, type Mask } from './masking'
import type { PreparedPart } from './prepared'

/** How an exchange ended for its step. */
export interface JudgedExchange {
  failure: FailureKind | undefined
  problem: string
  /** Values taken, by their place among the step's captures. */
  caught: readonly (string | undefined)[]
}

export interface RecordOf {
  keptFor: KeptFor
  group: string
  journeyId: string
  user: number
  pass: number
  /** Monotonic moments, ms. */
  startedAt: number
  beganAt: number
  part: PreparedPart
  request: PreparedRequest
  outcome: Outcome
  answer: LoadedAnswer
  hops: readonly { status: number, url: string, to: string }[]
  handshake: Outcome['handshake']
  /** What the target says it took inside, ms; −1 when it does not say. */
  insideMs: number
  judged: JudgedExchange
  mask: Mask
}

// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export function recordOf({
  keptFor,
  group,
  journeyId,
  user,
  pass,
  startedAt,
  beganAt,
  part,
  request,
  outcome,
  answer,
  hops,
  handshake,
  insideMs,
  judged,
  mask,
}: RecordOf): ExchangeRecord {
  const came = outcome.status > 0
  const sentBody =
    request.body === undefined ? '' : typeof request.body === 'string' ? request.body : request.body.toString('latin1')
  const content = came ? shown(answer) : ''
  return {
    keptFor,
    group,
    journeyId,
    step: part.name,
    user,
    pass,
    beganAtMs: beganAt - startedAt,
    endedAtMs: outcome.endedAt - startedAt,
    request: {
      method: request.method,
      url: mask(request.origin + request.path),
      headers: paired(request.headers, mask),
      body: maskedStart(sentBody, mask),
      bodyBytes: bodyBytes(request),
    },
    answer: came
      ? {
          status: outcome.status,
          headers: paired(
            outcome.rawHeaders.map(h => h.toString('latin1')),
            mask,
          ),
          body: maskedStart(content, mask),
          bytes: outcome.bytes,
          whole: content.length <= EXEMPLAR_BODY_BYTES && outcome.failure === undefined,
        }
      : undefined,
    hops: hops.map(h => ({ status: h.status, url: mask(h.url), to: mask(h.to) })),
    timings: {
      lookupMs: handshake?.lookupMs ?? -1,
      connectMs: handshake?.connectMs ?? -1,
      tlsMs: handshake?.tlsMs ?? -1,
      firstByteMs: came ? outcome.firstByteAt - beganAt : -1,
      wholeMs: outcome.endedAt - beganAt,
      ...(insideMs >= 0 ? { insideMs } : {}),
    },
    failure: judged.failure,
    problem: mask(judged.problem),
    checks:
      outcome.failure === undefined
        ? part.checks.map(c => ({
            name: mask(c.name),
            held: c.holds(answer),
            onlyCount: c.onlyCount,
            saw: mask(c.saw(answer)),
          }))
        : [],
    captured: part.catches.map((c, i) => ({
      name: c.name,
      value: judged.caught[i] === undefined ? undefined : mask(judged.caught[i]),
    })),
  }
}

/** What is kept of a body: masked first, so that nothing is cut in two and no longer known. */
function maskedStart(text: string, mask: Mask): string {
  return mask(text.slice(0, EXEMPLAR_BODY_BYTES + MOST_MASKED)).slice(0, EXEMPLAR_BODY_BYTES)
}

/** Longer than any secret in any form, characters. */
const MOST_MASKED = 16_384

/** A body as text; of one that is none, only its length. */
function shown(answer: LoadedAnswer): string {
  const type = answer.header('content-type') ?? ''
  if (/^(image|audio|video|font)\/|octet-stream|zip|pdf|wasm/.test(type) && !type.includes('svg'))
    return `(${type}, ${answer.bytes} bytes)`
  return answer.text()
}

function paired(flat: readonly string[], mask: Mask): Pair[] {
  const pairs: Pair[] = []
  for (let i = 0; i < flat.length; i += 2) pairs.push([flat[i]!, maskedHeader(flat[i]!, mask(flat[i + 1] ?? ''))])
  return pairs
}

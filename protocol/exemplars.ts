/**
 * Exemplars as they come from a generator: each is read on its own, so that one that is not as agreed costs neither its
 * batch nor the one who reads it.
 */
import Ajv from 'ajv/dist/2020.js'
import { FAILURE_KINDS } from '../core/journey/failure-kinds'
import type { ExchangeRecord } from '../core/journey/exchange-record'
import { MOST_PASS_EXCHANGES, PASS_KEPT_FOR, type PassRecord } from '../core/journey/pass-record'

const text = (most: number) => ({ type: 'string', maxLength: most })
const name = text(200)
const body = text(1_000_000)
const url = text(20_000)
const count = { type: 'integer', minimum: 0 }
const ms = { type: 'number' }
const status = { type: 'integer', minimum: 0, maximum: 999 }
const pairs = {
  type: 'array',
  maxItems: 1000,
  items: { type: 'array', minItems: 2, maxItems: 2, items: text(100_000) },
}
const object = (properties: Record<string, object>, optional: string[] = []) => ({
  type: 'object',
  additionalProperties: false,
  required: Object.keys(properties).filter(k => !optional.includes(k)),
  properties,
})
const list = (items: object) => ({ type: 'array', maxItems: 1000, items })

const RECORD = object(
  {
    keptFor: { enum: ['try', 'rehearsal', 'failure', 'slowest', 'pass'] },
    group: name,
    journeyId: name,
    step: name,
    user: count,
    pass: count,
    beganAtMs: ms,
    endedAtMs: ms,
    request: object({ method: name, url, headers: pairs, body, bodyBytes: count }),
    answer: object({ status, headers: pairs, body, bytes: count, whole: { type: 'boolean' } }),
    hops: list(object({ status, url, to: url })),
    timings: object({ lookupMs: ms, connectMs: ms, tlsMs: ms, firstByteMs: ms, wholeMs: ms, insideMs: ms }, ['insideMs']),
    failure: { enum: [...FAILURE_KINDS] },
    problem: text(20_000),
    checks: list(
      object({ name: text(10_000), held: { type: 'boolean' }, onlyCount: { type: 'boolean' }, saw: text(100_000) }),
    ),
    captured: list(object({ name, value: text(1_000_000) }, ['value'])),
  },
  ['answer', 'failure'],
)

const PASS = object(
  {
    keptFor: { enum: [...PASS_KEPT_FOR] },
    failure: { enum: [...FAILURE_KINDS] },
    group: name,
    journeyId: name,
    network: name,
    client: name,
    user: count,
    pass: count,
    beganAtMs: ms,
    endedAtMs: ms,
    busyMs: ms,
    cut: { type: 'boolean' },
    exchanges: {
      type: 'array',
      maxItems: MOST_PASS_EXCHANGES,
      items: object(
        {
          step: name,
          beganAtMs: ms,
          endedAtMs: ms,
          status,
          failure: { enum: [...FAILURE_KINDS] },
          lookupMs: ms,
          connectMs: ms,
          tlsMs: ms,
          firstByteMs: ms,
          bytes: count,
          bytesSent: count,
          insideMs: ms,
        },
        ['failure', 'insideMs'],
      ),
    },
  },
  ['failure', 'client'],
)

const ajv = new Ajv({
  allErrors: false,
  strict: true,
  strictRequired: false,
  strictTypes: false,
  validateSchema: false,
})

/** Those that are as agreed, how many are not, and what is wrong with the first of these. */
export interface ReadExemplars<T> {
  good: T[]
  bad: number
  problem: string
}

export function readExemplars(records: readonly unknown[]): ReadExemplars<ExchangeRecord> {
  return readAll(records, RECORD)
}

export function readPasses(passes: readonly unknown[]): ReadExemplars<PassRecord> {
  return readAll(passes, PASS)
}

function readAll<T>(all: readonly unknown[], schema: object): ReadExemplars<T> {
  if (all.length === 0) return { good: [], bad: 0, problem: '' }
  // Compiled when the first one comes; Ajv keeps it by the schema itself.
  const isOne = ajv.compile<T>(schema)
  const good: T[] = []
  let problem = ''
  for (const one of all) {
    if (isOne(one)) good.push(one)
    else if (problem === '') problem = ajv.errorsText(isOne.errors, { dataVar: 'it' })
  }
  return { good, bad: all.length - good.length, problem }
}

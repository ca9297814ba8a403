/**
 * JSON Schemas (2020-12) of journeys and targets. `schemas/` holds them as files for others; meaning is checked in
 * problems.ts, here only the form.
 */
import { TIMING_NAME } from './server-timing'
import { SERIES_KINDS, SOURCE_KINDS, STANDS_FOR } from '../target/source'
import { kinds, object } from '../values/json-schema'
import { METHODS } from './journey'
import { ENVIRONMENTS } from './target'

const text = (most: number, least = 1) => ({ type: 'string', minLength: least, maxLength: most })
const template = text(100_000, 0)
const name = text(80)
const count = (most: number) => ({ type: 'integer', minimum: 0, maximum: most })
const flag = { type: 'boolean' }
const ms = { type: 'number', minimum: 0, maximum: 86_400_000 }
const list = (items: unknown, maxItems: number) => ({ type: 'array', maxItems, items })
const ref = (name: string) => ({ $ref: `#/$defs/${name}` })
const pairs = list({ type: 'array', minItems: 2, maxItems: 2, items: template }, 200)
const file = { type: 'string', pattern: '^[0-9a-f]{64}$' }
const think = kinds({
  none: { required: {} },
  fixed: { required: { ms } },
  uniform: { required: { fromMs: ms, toMs: ms } },
  normal: { required: { meanMs: ms, deviationMs: ms } },
})
const textRule = { enum: ['contains', 'lacks', 'equals', 'matches'] }
const expectation = kinds(
  {
    status: { required: { allow: text(200) } },
    header: {
      required: { name: text(200), rule: { enum: ['present', ...textRule.enum] } },
      optional: { value: text(10_000, 0) },
    },
    body: { required: { rule: textRule, value: text(10_000, 0) } },
    json: {
      required: {
        path: text(1000),
        rule: { enum: ['exists', 'equals', 'differs', 'atLeast', 'atMost', 'contains', 'matches'] },
      },
      optional: { value: text(10_000, 0) },
    },
    size: { required: {}, optional: { atLeast: count(1e12), atMost: count(1e12) } },
    duration: { required: { atMostMs: ms } },
  },
  { onlyCount: flag },
)
const capture = object(
  {
    name: text(80),
    from: kinds({
      json: { required: { path: text(1000) } },
      header: { required: { name: text(200) }, optional: { left: text(1000), right: text(1000, 0) } },
      cookie: { required: { name: text(200) } },
      between: { required: { left: text(1000), right: text(1000, 0) } },
      expression: { required: { pattern: text(1000) } },
    }),
  },
  { otherwise: text(10_000, 0) },
)
const body = kinds({
  json: { required: { text: text(1_000_000, 0) } },
  form: { required: { fields: ref('pairs') } },
  multipart: {
    required: {
      parts: list(
        {
          anyOf: [
            object({ name: text(200), text: template }),
            object({ name: text(200), file, fileName: text(200), type: text(200) }),
          ],
        },
        50,
      ),
    },
  },
  raw: { required: { text: text(1_000_000, 0), type: text(200) } },
})
const part = {
  method: { enum: METHODS },
  url: text(8000, 0),
  timeoutMs: { type: 'integer', minimum: 1, maximum: 3_600_000 },
}
const partOptional = {
  query: ref('pairs'),
  headers: ref('pairs'),
  body: ref('body'),
  redirects: count(20),
  expect: list(ref('expectation'), 50),
  capture: list(ref('capture'), 50),
  seen: object({ status: count(999), type: text(200, 0), bytes: count(1e12) }, { keys: list(text(500, 0), 50) }),
}
const step = {
  if: { required: ['requests'] },
  then: object(
    {
      name,
      think: ref('think'),
      parallel: { type: 'integer', minimum: 1, maximum: 64 },
      requests: list(object({ name, ...part }, { ...partOptional, off: flag }), 500),
    },
    { off: flag },
  ),
  else: object({ name, think: ref('think'), ...part }, { ...partOptional, off: flag }),
}
const steps = list(ref('step'), 500)
const feeds = list(
  object({
    feed: text(80),
    as: { type: 'string', pattern: '^[A-Za-z_][A-Za-z0-9_-]{0,39}$' },
    deal: { enum: ['inOrder', 'atRandom', 'once'] },
    per: { enum: ['user', 'pass'] },
    atEnd: { enum: ['again', 'leave', 'fail'] },
  }),
  10,
)
const head = {
  schema: { const: 'vornak-journey/1' },
  id: { type: 'string', pattern: '^[a-z0-9][a-z0-9-]{0,79}$' },
  name,
}
const headOptional = { notes: text(10_000, 0), tags: list(text(40), 20), feeds }
const argument = text(4000, 0)

export const JOURNEY_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'urn:vornak:schema:journey-1',
  title: 'Vornak journey',
  $defs: { pairs, think, expectation, capture, body, step },
  ...kinds({
    http: {
      required: { ...head, identity: { enum: ['kept', 'fresh'] }, opening: steps, round: steps, closing: steps },
      optional: {
        ...headOptional,
        http2: flag,
        pacingMs: ms,
        afterFailure: { enum: ['goOn', 'newPass'] },
        spans: list(object({ name, from: name, to: name, withThink: flag }), 50),
      },
    },
    command: {
      required: {
        ...head,
        kit: text(64, 0),
        runtimes: list(object({ program: text(200), arguments: list(argument, 20) }), 20),
        run: list(argument, 100),
        steps: list(name, 100),
        bringBack: list(text(500), 50),
      },
      optional: { ...headOptional, prepare: list(argument, 100) },
    },
  }),
}

const host = { type: 'string', pattern: '^(\\[[0-9a-fA-F:.]+\\]|[A-Za-z0-9._-]+):[0-9]{1,5}$' }
/** An address, or a network in CIDR notation (RFC 4632, RFC 4291): read as one where it is used. */
const range = { type: 'string', pattern: '^[0-9A-Fa-f:.]+(/[0-9]{1,3})?$' }
const clock = { type: 'string', pattern: '^([01][0-9]|2[0-3]):[0-5][0-9]$' }

export const APPROVAL_SCHEMA = object(
  {
    hosts: { ...list(host, 50), minItems: 1 },
    mostUsers: { type: 'integer', minimum: 1, maximum: 1_000_000 },
    until: { type: 'string', format: 'date-time' },
    contact: text(200),
  },
  {
    window: object({ from: clock, to: clock, zone: text(60) }),
    addressRanges: list(range, 50),
    readFrom: list(host, 50),
  },
)

/** Names templates can write after `target.`. */
const names = { type: 'string', pattern: '^[A-Za-z_][A-Za-z0-9_-]{0,59}$' }
/** Addresses, variables and secrets a target has, of each. */
export const MOST_NAMED = 100
const byName = (values: object) => ({
  type: 'object',
  propertyNames: names,
  additionalProperties: values,
  maxProperties: MOST_NAMED,
})
export const SECRETS_SCHEMA = byName(text(10_000, 0))

/** Labels may have dots in their names: what programs send does. */
const labelName = { type: 'string', pattern: '^[A-Za-z_][A-Za-z0-9_.-]{0,59}$' }

/** Words that an address and a line of words may hold without quotation marks. */
const plain = (longest: number) => ({ type: 'string', pattern: `^[^\\s,;"·{}][^,;"·{}]{0,${longest - 1}}$` })

const SERIES_CHOICE_SCHEMA = object(
  { name: plain(40), of: text(1000), kind: { enum: [...SERIES_KINDS] } },
  {
    labels: { type: 'object', propertyNames: labelName, additionalProperties: text(200, 0) },
    by: labelName,
    unit: text(12),
    factor: { type: 'number', exclusiveMinimum: 0 },
    standsFor: { enum: [...STANDS_FOR] },
    limit: { type: 'number' },
  },
)

const price = { type: 'number', minimum: 0, maximum: 1_000_000 }

/** Where a target's own figures are read. */
export const SOURCE_SCHEMA = object(
  {
    name: plain(40),
    kind: { enum: [...SOURCE_KINDS] },
    address: text(2000, 0),
    everyS: { type: 'integer', minimum: 1, maximum: 300 },
    series: list(SERIES_CHOICE_SCHEMA, 100),
  },
  {
    authorization: text(2000),
    stamp: text(300),
    command: text(2000),
    runsOn: { type: 'boolean' },
    byPattern: { type: 'boolean' },
  },
)

export const TARGET_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'urn:vornak:schema:target-1',
  title: 'Vornak target',
  ...object(
    {
      id: { type: 'string', pattern: '^[a-z0-9][a-z0-9-]{0,79}$' },
      name,
      environment: { enum: [...ENVIRONMENTS] },
      baseUrl: text(2000),
    },
    {
      addresses: byName(text(2000)),
      variables: byName(text(10_000, 0)),
      secretNames: list(names, MOST_NAMED),
      trust: text(100_000, 0),
      insideName: { type: 'string', pattern: TIMING_NAME },
      sources: list(SOURCE_SCHEMA, 20),
      prices: object({}, { perReplicaHour: price, perCall: price, perGbSecond: price }),
      approval: APPROVAL_SCHEMA,
    },
  ),
}

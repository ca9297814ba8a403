/** JSON Schema (2020-12) of the plan document. Meaning is checked in problems.ts; here only the form. */
import { MAIL_ADDRESS, MOST_MAILED } from './mailed'
import { kinds, object } from '../values/json-schema'
import { PLAN_SCHEMA_NAME } from './upgrade'

const text = (most: number) => ({ type: 'string', minLength: 1, maxLength: most })
const letter = { type: 'string', pattern: '^[A-Z]$' }
const code = { type: 'string', pattern: '^[A-Z]{3}$' }
const basisPoints = { type: 'integer', minimum: 0, maximum: 10_000 }
const shortName = { type: 'string', pattern: '^[a-z0-9][a-z0-9-]{0,39}$' }
const ms = { type: 'integer', minimum: 0, maximum: 604_800_000 }
const profile = object({
  startDelayMs: ms,
  segments: {
    type: 'array',
    maxItems: 500,
    items: object(
      { to: { type: 'number', minimum: 0, maximum: 1_000_000 }, overMs: ms },
      { warmUp: { type: 'boolean' } },
    ),
  },
})

const drive = kinds({
  users: { required: {} },
  arrivals: {
    required: {
      spacing: { enum: ['even', 'poisson'] },
      mostInFlight: { type: 'integer', minimum: 1, maximum: 1_000_000 },
    },
  },
  requests: {
    required: {
      fewestUsers: { type: 'integer', minimum: 0, maximum: 1_000_000 },
      mostUsers: { type: 'integer', minimum: 1, maximum: 1_000_000 },
    },
  },
})

const objective = object(
  { metric: { enum: ['p50', 'p90', 'p95', 'p99', 'mean', 'failures', 'throughput', 'users', 'target'] } },
  {
    target: object(
      { series: text(40) },
      {
        split: text(200),
        extreme: { enum: ['highest', 'lowest'] },
        ofUsers: { type: 'boolean' },
        unit: text(12),
      },
    ),
    step: text(80),
    journeyId: text(80),
    group: letter,
    location: code,
    withFailures: { type: 'boolean' },
    atMost: { type: 'number', minimum: 0 },
    atLeast: { type: 'number', minimum: 0 },
    window: {
      anyOf: [{ enum: ['holds', 'whole'] }, object({ everyS: { type: 'integer', minimum: 1, maximum: 86_400 } })],
    },
  },
)

export const PLAN_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: PLAN_SCHEMA_NAME,
  title: 'Vornak plan',
  type: 'object',
  additionalProperties: false,
  required: [
    'schema',
    'name',
    'question',
    'targetId',
    'groups',
    'locations',
    'placement',
    'objectives',
    'assumedUsersPerVcpu',
    'rehearse',
    'keepMachinesMin',
    'seed',
  ],
  properties: {
    schema: { const: PLAN_SCHEMA_NAME },
    name: text(80),
    question: text(300),
    tags: { type: 'array', maxItems: 20, uniqueItems: true, items: text(40) },
    notes: { type: 'string', maxLength: 10_000 },
    targetId: { type: 'string', maxLength: 80 },
    groups: {
      type: 'array',
      maxItems: 26,
      items: object(
        { letter, name: text(60), journeyId: { type: 'string', maxLength: 80 }, profile },
        {
          drive,
          passes: { type: 'integer', minimum: 1, maximum: 1_000_000 },
          thinkScale: { type: 'number', minimum: 0, maximum: 100 },
          clients: { type: 'object', propertyNames: shortName, additionalProperties: basisPoints },
        },
      ),
    },
    locations: {
      type: 'array',
      maxItems: 100,
      items: object(
        {
          code,
          provider: text(80),
          region: text(80),
          machineType: text(80),
          machines: { anyOf: [{ const: 'auto' }, { type: 'integer', minimum: 0, maximum: 1000 }] },
        },
        {
          choose: { const: 'cheapest' },
          interruptible: { type: 'boolean' },
          elsewhere: { type: 'array', maxItems: 20, uniqueItems: true, items: text(80) },
          attached: {
            type: 'object',
            maxProperties: 40,
            propertyNames: { type: 'string', pattern: '^[A-Za-z][A-Za-z0-9_-]{0,39}$' },
            additionalProperties: {
              anyOf: [{ type: 'string', maxLength: 500 }, { type: 'number' }, { type: 'boolean' }],
            },
          },
        },
      ),
    },
    placement: {
      type: 'object',
      propertyNames: letter,
      additionalProperties: {
        type: 'object',
        propertyNames: code,
        additionalProperties: { anyOf: [{ const: 'rest' }, basisPoints] },
      },
    },
    networks: {
      type: 'object',
      propertyNames: letter,
      additionalProperties: {
        type: 'object',
        propertyNames: code,
        additionalProperties: { type: 'object', propertyNames: shortName, additionalProperties: basisPoints },
      },
    },
    objectives: {
      type: 'array',
      maxItems: 40,
      items: {
        ...objective,
        oneOf: [
          { required: ['atMost'], properties: { atMost: {} } },
          { required: ['atLeast'], properties: { atLeast: {} } },
        ],
        if: { properties: { metric: { const: 'target' } } },
        then: { required: ['target'], properties: { target: {} } },
      },
    },
    assumedUsersPerVcpu: { type: 'integer', minimum: 1, maximum: 100_000 },
    sizing: object(
      {},
      {
        spares: { type: 'integer', minimum: 0, maximum: 20 },
        headroom: { type: 'number', minimum: 0, maximum: 0.9 },
        interruptibleShare: { type: 'number', minimum: 0, maximum: 1 },
        allThrough: { type: 'boolean' },
      },
    ),
    rehearse: { type: 'boolean' },
    traces: { type: 'boolean' },
    mailTo: { type: 'array', maxItems: MOST_MAILED, items: MAIL_ADDRESS },
    targetFigures: object({ beforeS: { type: 'integer', minimum: 0, maximum: 600 } }),
    keepMachinesMin: { type: 'integer', minimum: 0, maximum: 240 },
    waitForMachinesMin: { type: 'integer', minimum: 0, maximum: 1440 },
    mostCost: { type: 'number', minimum: 0, maximum: 1_000_000 },
    exemplars: {
      type: 'object',
      additionalProperties: false,
      required: ['failuresPerSecond', 'slowest', 'oneInPasses', 'mostMb'],
      properties: {
        failuresPerSecond: { type: 'integer', minimum: 0, maximum: 1000 },
        slowest: { type: 'boolean' },
        oneInPasses: { type: 'integer', minimum: 0, maximum: 1_000_000 },
        mostMb: { type: 'integer', minimum: 0, maximum: 256 },
      },
    },
    seed: { type: 'integer', minimum: 0, maximum: 4_294_967_295 },
  },
} as const

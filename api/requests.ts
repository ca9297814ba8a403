/**
 * What may be asked of the server: a schema per request body, and its type from the schema. Documents (plans, journeys
 * …) have schemas of their own in core/, named here by their ids.
 */
import { Type, type Static, type TProperties } from '@sinclair/typebox'
import type { Capacity } from '../core/capacity/capacity'
import { DURATION_UNITS, RESULT_FIELDS, RESULT_FORMS, TIME_UNITS, type FileReading } from '../core/elsewhere/reading'
import { CAPACITY_SCHEMA } from '../core/capacity/schema'
import { SITE_SCHEMA, type Site } from '../core/fleet/site'
import type { Journey } from '../core/journey/journey'
import { APPROVAL_SCHEMA, JOURNEY_SCHEMA, SECRETS_SCHEMA, SOURCE_SCHEMA, TARGET_SCHEMA } from '../core/journey/schema'
import type { Source } from '../core/target/source'
import type { Approval, Target } from '../core/journey/target'
import type { Client } from '../core/client/client'
import { CLIENT_SCHEMA } from '../core/client/schema'
import type { NetworkProfile } from '../core/network/profile'
import { NETWORK_SCHEMA } from '../core/network/schema'
import type { Plan } from '../core/plan/document'
import { PLAN_SCHEMA } from '../core/plan/schema'
import { REPORT_WISH_SCHEMA, type ReportWish } from '../core/report/wish'
import { DIMENSIONS } from '../core/result/slices'
import { MEASURES, SPLITS, STATISTICS } from '../core/result/staff'
import { MOST_TAG, MOST_TAGS } from '../core/values/tags'
import { TELLS } from '../core/dispatch/run-event'
import { MAIL_ADDRESS, MOST_MAILED } from '../core/plan/mailed'
import { MOST_COMPARED } from '../core/compare/rows'
import { ROLES } from './roles'

/** Schemas of documents, which others name by their ids. */
export const DOCUMENT_SCHEMAS = {
  Journey: JOURNEY_SCHEMA,
  Target: TARGET_SCHEMA,
  Plan: PLAN_SCHEMA,
  NetworkProfile: NETWORK_SCHEMA,
  Client: CLIENT_SCHEMA,
  Site: SITE_SCHEMA,
  Capacity: CAPACITY_SCHEMA,
} as const

const document = <T>(schema: { readonly $id: string }) => Type.Unsafe<T>({ $ref: schema.$id })
const plan = document<Plan>(PLAN_SCHEMA)
const journey = document<Journey>(JOURNEY_SCHEMA)

const body = <T extends TProperties>(properties: T) => Type.Object(properties, { additionalProperties: false })
const { Optional: optional } = Type
const text = (maxLength: number, minLength = 0) =>
  Type.String({ maxLength, ...(minLength > 0 ? { minLength } : {}) })
const oneOf = <const T extends string>(...values: T[]) => Type.Unsafe<T>({ enum: values })
const whole = (minimum: number, maximum?: number) =>
  Type.Integer({ minimum, ...(maximum === undefined ? {} : { maximum }) })

const id = text(80, 1)
const onVersion = whole(0)
const file = Type.String({ pattern: '^[0-9a-f]{64}$', description: 'the content id of an uploaded file' })
const texts = Type.Array(text(2000), { maxItems: 5000 })
const location = Type.String({ pattern: '^[A-Z]{3}$', description: 'three letters' })
const share = Type.Number({ exclusiveMinimum: 0, maximum: 1 })

/** How a file of results is read. */
const reading = Type.Unsafe<FileReading>(
  body({
    form: oneOf(...RESULT_FORMS),
    separator: optional(text(1, 1)),
    header: optional(Type.Boolean()),
    columns: body(Object.fromEntries(RESULT_FIELDS.map(f => [f, optional(text(500, 1))]))),
    timeUnit: optional(oneOf(...TIME_UNITS)),
    durationUnit: optional(oneOf(...DURATION_UNITS)),
    timeIs: optional(oneOf('start', 'end')),
    right: optional(text(200, 1)),
    step: optional(text(200, 1)),
  }),
)
const resultFiles = Type.Array(
  body({ file, name: text(300, 1), reading, place: text(80, 1), shiftMs: Type.Number() }),
  { minItems: 1, maxItems: 50 },
)
const runName = text(200, 1)
export const UPLOADED = body({ file })
export const SCAN_RESULTS = body({ files: resultFiles, mark: optional(text(200, 1)) })
export const IMPORT_RESULTS = body({
  name: runName,
  files: resultFiles,
  mark: optional(text(200, 1)),
  unnamedDoubles: optional(oneOf('keep', 'leaveOut')),
  joins: optional(Type.Integer({ minimum: 1, description: 'the number of a run of this house that they join' })),
  objectives: optional(Type.Array(text(500, 1), { maxItems: 50 })),
  build: optional(text(100)),
})
export const READING_TEMPLATE = body({ name: text(80, 1), reading })
export const NAMED = body({ name: text(200, 1) })
export const OPEN_STREAMS = body({
  name: runName,
  places: Type.Array(text(80, 1), { minItems: 1, maxItems: 100 }),
  build: optional(text(100)),
})

export const NOTHING = body({})
export type Nothing = Static<typeof NOTHING>
export const REASON = body({ reason: optional(text(300)) })
export const MARK = body({ text: text(300, 1) })
export const PASTED_TEXT = body({ text: text(2_000_000) })

export const SAVE_PLAN = body({ onVersion, plan })
export const CHECK_PLAN = body({ plan })
/** A plan read from a file, or the beginnings of one. */
export const NEW_PLAN = body({
  plan: optional(plan),
  name: optional(text(80, 1)),
  question: optional(text(300, 1)),
  targetId: optional(text(80)),
})
/** What a first plan asks: left out, ten users for a minute from the first location that is offered. */
export const PASTED_ADDRESSES = body({
  text: text(200_000),
  users: optional(whole(1, 1_000_000)),
  /** Of the hold at that many users, s. */
  holdS: optional(whole(1, 86_400)),
  places: optional(Type.Array(body({ provider: text(100, 1), region: text(100, 1) }), { maxItems: 50 })),
  /** What the target’s owner has agreed to, where it is not recorded yet. */
  approval: optional(Type.Unsafe<Approval>(APPROVAL_SCHEMA)),
})
export const CLONE_PLAN = body({ version: optional(whole(1)) })
export const ARCHIVE_PLAN = body({ archived: Type.Boolean() })
export const SAVE_NETWORK = body({ profile: document<NetworkProfile>(NETWORK_SCHEMA) })
export const SAVE_CLIENT = body({ client: document<Client>(CLIENT_SCHEMA) })

export const SAVE_JOURNEY = body({ onVersion, journey })
export const NEW_JOURNEY = body({ journey })
export const CHECK_JOURNEY = body({ journey, targetId: optional(id) })
export const TRY_JOURNEY = body({ journey, targetId: id, machineId: optional(id) })

export const SET_APPROVAL = body({ approval: Type.Unsafe<Approval>(APPROVAL_SCHEMA) })
export const SAVE_TARGET = body({
  target: document<Target>(TARGET_SCHEMA),
  secrets: optional(Type.Unsafe<Record<string, string>>(SECRETS_SCHEMA)),
})

export const comparedMetric = oneOf('p50', 'p90', 'p95', 'p99', 'mean', 'failures', 'throughput')

const mailAddress = Type.String(MAIL_ADDRESS)
export const MAIL_TO = body({ to: Type.Array(mailAddress, { minItems: 1, maxItems: MOST_MAILED }) })
export const MAIL_TO_ONE = body({ to: mailAddress })
export const MAIL_SERVER = body({
  host: text(253, 1),
  port: whole(1, 65_535),
  security: oneOf('tls', 'starttls', 'none'),
  user: optional(text(200, 1)),
  password: optional(text(1000, 1)),
  from: mailAddress,
})
export const FIGURE_GOAL = body({
  address: text(2000, 1),
  everyS: whole(1, 300),
  authorization: optional(text(4000, 1)),
})
export const NEW_HOOK = body({
  name: Type.String({ pattern: '^[A-Za-z0-9][A-Za-z0-9 _.-]{0,59}$', description: 'letters, digits, spaces and - _ .' }),
  address: text(2000, 1),
  tells: Type.Array(oneOf(...TELLS), { minItems: 1, maxItems: TELLS.length, uniqueItems: true }),
})

export const SHARE = body({
  opens: body({
    kind: oneOf('run', 'report', 'comparison'),
    runs: Type.Array(whole(1), { minItems: 1, maxItems: MOST_COMPARED }),
    users: optional(whole(1)),
    metric: optional(comparedMetric),
    showsMachines: Type.Boolean(),
    showsExchanges: Type.Boolean(),
  }),
  days: whole(1, 365),
})
export const OF_SOURCE = body({ source: text(40, 1) })
export const TRY_SOURCE = body({ source: Type.Unsafe<Source>(SOURCE_SCHEMA) })

export const NEW_FEED = body({
  file,
  name: text(80, 1),
  encoding: optional(text(40)),
  separator: optional(text(1, 1)),
  header: optional(Type.Boolean()),
  ragged: optional(oneOf('refuse', 'fill')),
})
const choices = body({
  name: text(200),
  hosts: texts,
  statics: oneOf('keep', 'drop', 'bundle'),
  strip: texts,
  thinkCapMs: whole(0, 86_400_000),
  captures: texts,
  secrets: optional(texts),
})
export const IMPORT_HAR = body({ file, choices: optional(choices) })
export const IMPORT_HAR_JOURNEY = body({ file, choices })
export const IMPORT_OPENAPI = body({ file, ids: optional(texts), baseUrl: optional(text(2000)) })

export const EXTEND_LEASE = body({ minutes: whole(1, 1440) })
export const CALL_ROLL = body({
  machines: optional(Type.Array(text(200), { maxItems: 2000 })),
  targetId: optional(id),
})
export const SAVE_ACCOUNT = body({
  account: body({
    id: Type.String({ pattern: '^[a-z0-9][a-z0-9-]{0,39}$' }),
    name: text(60, 1),
    address: Type.String({ pattern: '^https?://[^/\\s]+(/.*)?$', maxLength: 300 }),
    ownEnd: oneOf('natively', 'by powering off', 'not'),
  }),
  key: optional(text(1000)),
})
export const SAVE_SITE = body({ site: document<Site>(SITE_SCHEMA) })
export const SAVE_KEY = body({ name: text(80, 1), key: text(20_000, 1), passphrase: optional(text(1000)) })
const hosts = Type.Array(text(200), { minItems: 1, maxItems: 500 })
export const HOST_REFS = body({ hosts })
export const ACCEPT_HOST_KEYS = body({
  keys: Type.Array(body({ host: text(200), fingerprint: text(100) }), { minItems: 1, maxItems: 500 }),
})
export const HOST_COMMAND = body({ hosts, command: text(10_000, 1) })
export const INVITE_MACHINES = body({
  location,
  machines: whole(1, 50),
  expiresMin: whole(1, 10_080),
  leaseMin: whole(5, 10_080),
  proxy: optional(Type.String({ pattern: '^https?://\\S+$', maxLength: 300 })),
  caFile: optional(Type.String({ pattern: '^/[\\w./-]+$', maxLength: 300 })),
})
const amount = Type.Number({ minimum: 0, maximum: 1_000_000 })
export const SAVE_RAILS = body({
  rails: body({
    mostMachines: whole(0, 100_000),
    mostUsers: whole(0, 10_000_000),
    longestRunMin: whole(1, 10_080),
    budgetPerRun: amount,
    budgetPerDay: amount,
    currency: Type.String({ pattern: '^[A-Z]{3}$' }),
  }),
})

const days = optional(Type.Integer({ minimum: 1, maximum: 36_500 }))
export const SAVE_KEEPING = body({
  rules: body({ foldHours: days, runDays: days, exchangeDays: days, uploadDays: days }),
})
export const DESCRIBE_RUN = body({
  name: text(80),
  notes: text(10_000),
  tags: Type.Array(text(MOST_TAG, 1), { maxItems: MOST_TAGS }),
  pinned: Type.Boolean(),
  build: optional(text(80)),
})
export const paper = oneOf('A4', 'letter')
const reportWish = Type.Unsafe<ReportWish>(REPORT_WISH_SCHEMA)
export const SET_REPORT = body({ wish: optional(reportWish) })
export const SAVE_REPORT_TEMPLATE = body({ wish: reportWish, isUsual: Type.Boolean() })
export const SET_BASELINE = body({ isBaseline: Type.Boolean() })
export const KEEP_RUN = body({ kept: Type.Boolean() })

export const dimension = oneOf(...DIMENSIONS)
const values = optional(Type.Array(text(400), { maxItems: 1000 }))
const counts = {
  fromS: Type.Integer({ minimum: 0, description: 'the first second of the run that counts' }),
  toS: Type.Integer({ minimum: 1, description: 'the second of the run before which it ends' }),
  only: optional(
    Type.Object(
      {
        step: values,
        group: values,
        journey: values,
        location: values,
        network: values,
        client: values,
        machine: values,
      },
      {
        additionalProperties: false,
        description:
          'what counts, by the key of a step (journey id/name), the letter of a group, the id of a journey, the code of a location, the id of a network, the id of a client, the name of a machine; left out: everything',
      },
    ),
  ),
}
export const SLICES = body({
  ...counts,
  rows: Type.Array(dimension, {
    minItems: 1,
    maxItems: 2,
    uniqueItems: true,
    description: 'what rows are, and what they unfold into',
  }),
})
export const FAILURES = body(counts)
export const DISTRIBUTIONS = body({
  of: Type.Array(body(counts), { minItems: 1, maxItems: 4, description: 'slices, each over a window of its own' }),
  limitsMs: Type.Array(Type.Number({ exclusiveMinimum: 0, maximum: 3_600_000 }), {
    maxItems: 10,
    description: 'limits of bands, ms',
  }),
})

export const COURSES = body({
  fromS: counts.fromS,
  toS: counts.toS,
  most: optional(Type.Integer({ minimum: 1, maximum: 5000, description: 'bins at most: of 1, 10, 100 or 1,000 s' })),
  binS: optional(Type.Integer({ minimum: 1, maximum: 604_800, description: 'length of a bin, s, instead' })),
  staffs: Type.Array(
    body({
      statistics: Type.Array(oneOf(...STATISTICS), { minItems: 1, maxItems: STATISTICS.length, uniqueItems: true }),
      measure: oneOf(...MEASURES),
      only: counts.only,
      split: optional(oneOf(...SPLITS)),
    }),
    { minItems: 1, maxItems: 20, description: 'what is drawn: statistics of a measure, of what, in lines by what' },
  ),
})

const few = (minItems: number) => Type.Array(text(80), { minItems, maxItems: 40, uniqueItems: true })
export const CALIBRATE = body({
  journeys: few(0),
  networks: few(0),
  provider: text(80),
  region: text(80),
  types: few(1),
  machines: whole(1, 10),
  targetId: id,
  sink: Type.Boolean(),
  mostStolenShare: optional(share),
  verify: optional(body({ planId: id, location })),
})
export const SET_CAPACITY = body({
  journeyId: id,
  network: id,
  provider: id,
  machineType: id,
  vcpu: Type.Number({ exclusiveMinimum: 0, maximum: 1024 }),
  users: whole(0, 1_000_000),
  note: optional(text(300)),
})
export const REFINE_CAPACITY = body({
  capacityId: id,
  users: Type.Number({ exclusiveMinimum: 0, maximum: 1_000_000 }),
  runId: whole(1, 1e9),
})
export const TAKE_CAPACITIES = body({
  capacities: Type.Array(document<Capacity>(CAPACITY_SCHEMA), { minItems: 1, maxItems: 1000 }),
})

const role = oneOf(...ROLES)
const password = text(200, 1)
const personName = Type.String({
  minLength: 1,
  maxLength: 80,
  pattern: '^\\S(.*\\S)?$',
  description: 'a name without spaces around it',
})
export const SIGN_IN = body({ name: text(80, 1), password })
export const SET_PASSWORD = body({ now: password, next: password })
export const RESET_PASSWORD = body({ password })
export const ADD_PERSON = body({ name: personName, role, password })
/** `isIn`: whether they are let in. */
export const CHANGE_PERSON = body({ role, isIn: Type.Boolean() })
export const MAKE_TOKEN = body({ name: text(80, 1), role, days: whole(1, 366) })

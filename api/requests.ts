/** What the app may ask of the server: a schema per request body. */
import type { AccountView, GuardRailsView } from './views'
import type { Capacity } from '../core/capacity/capacity'
import { CAPACITY_SCHEMA } from '../core/capacity/schema'
import { PLAN_SCHEMA } from '../core/plan/schema'
import type { HarChoices } from '../core/formats/har-to-journey'
import type { Journey } from '../core/journey/journey'
import { APPROVAL_SCHEMA, JOURNEY_SCHEMA, TARGET_SCHEMA } from '../core/journey/schema'
import type { Approval, Target } from '../core/journey/target'
import { SITE_SCHEMA, type Site } from '../core/fleet/site'
import { NETWORK_SCHEMA } from '../core/network/schema'
import type { NetworkProfile } from '../core/network/profile'
import type { Plan } from '../core/plan/document'

export type { CalibrationWish } from '../core/capacity/batch'

export interface SavePlan {
  onVersion: number
  plan: Plan
}
export interface CheckPlan {
  plan: Plan
}
/** A plan read from a file, or the beginnings of one. */
export interface NewPlan {
  plan?: Plan
  name?: string
  question?: string
  targetId?: string
}
export interface ClonePlan {
  version?: number
}
export interface ArchivePlan {
  archived: boolean
}
export interface SaveNetwork {
  profile: NetworkProfile
}
export interface SetApproval {
  approval: Approval
}
export interface Reason {
  reason?: string
}
export interface Mark {
  text: string
}
export interface SaveJourney {
  onVersion: number
  journey: Journey
}
export interface NewJourney {
  journey: Journey
}
export interface CheckJourney {
  journey: Journey
  targetId?: string
}
export interface TryJourney {
  journey: Journey
  targetId: string
  machineId?: string
}
export interface SaveTarget {
  target: Target
  secrets?: Record<string, string>
}
export interface NewFeed {
  file: string
  name: string
  encoding?: string
  separator?: string
  header?: boolean
  ragged?: 'refuse' | 'fill'
}
export interface PastedText {
  text: string
}
export interface ImportHar {
  file: string
  choices?: HarChoices
}
export interface ImportHarJourney {
  file: string
  choices: HarChoices
}
export interface ImportOpenApi {
  file: string
  ids?: string[]
  baseUrl?: string
}
export interface ExtendLease {
  minutes: number
}
export interface CallRoll {
  machines?: string[]
  targetId?: string
}
export interface SaveAccount {
  account: AccountView
  key?: string
}
export interface SaveSite {
  site: Site
}
export interface SaveKey {
  name: string
  key: string
  passphrase?: string
}
export interface HostRefs {
  hosts: string[]
}
export interface HostCommandWish {
  hosts: string[]
  command: string
}
export interface InviteMachines {
  location: string
  machines: number
  expiresMin: number
  leaseMin: number
  proxy?: string
  caFile?: string
}
export interface SaveRails {
  rails: GuardRailsView
}
export interface CapacitySetByHand {
  journeyId: string
  network: string
  provider: string
  machineType: string
  vcpu: number
  users: number
  note?: string
}
export interface RefineCapacity {
  capacityId: string
  users: number
  runId: number
}
export interface TakeCapacities {
  capacities: Capacity[]
}
export type Nothing = Record<string, never>

const plan = { $ref: PLAN_SCHEMA.$id }

export const SAVE_PLAN = {
  type: 'object',
  additionalProperties: false,
  required: ['onVersion', 'plan'],
  properties: { onVersion: { type: 'integer', minimum: 0 }, plan },
}
export const CHECK_PLAN = { type: 'object', additionalProperties: false, required: ['plan'], properties: { plan } }
export const SET_APPROVAL = {
  type: 'object',
  additionalProperties: false,
  required: ['approval'],
  properties: { approval: APPROVAL_SCHEMA },
}
export const REASON = {
  type: 'object',
  additionalProperties: false,
  properties: { reason: { type: 'string', maxLength: 300 } },
}
export const MARK = {
  type: 'object',
  additionalProperties: false,
  required: ['text'],
  properties: { text: { type: 'string', minLength: 1, maxLength: 300 } },
}

/** Schemas that others name by their ids. */
export const SHARED_SCHEMAS = [JOURNEY_SCHEMA, TARGET_SCHEMA, PLAN_SCHEMA, NETWORK_SCHEMA, SITE_SCHEMA, CAPACITY_SCHEMA]

const journey = { $ref: JOURNEY_SCHEMA.$id }
const id = { type: 'string', minLength: 1, maxLength: 80 }
const text = (maxLength: number) => ({ type: 'string', maxLength })
const file = { type: 'string', pattern: '^[0-9a-f]{64}$' }
const object = (required: Record<string, unknown>, optional: Record<string, unknown> = {}) => ({
  type: 'object',
  additionalProperties: false,
  required: Object.keys(required),
  properties: { ...required, ...optional },
})
const texts = { type: 'array', maxItems: 5000, items: text(2000) }
const choices = object({
  name: text(200),
  hosts: texts,
  statics: { enum: ['keep', 'drop', 'bundle'] },
  strip: texts,
  thinkCapMs: { type: 'integer', minimum: 0, maximum: 86_400_000 },
  captures: texts,
  secrets: texts,
})

export const SAVE_JOURNEY = object({ onVersion: { type: 'integer', minimum: 0 }, journey })
export const NEW_JOURNEY = object({ journey })
export const CHECK_JOURNEY = object({ journey }, { targetId: id })
export const TRY_JOURNEY = object({ journey, targetId: id }, { machineId: id })
export const SAVE_TARGET = object(
  { target: { $ref: TARGET_SCHEMA.$id } },
  {
    secrets: {
      type: 'object',
      propertyNames: { pattern: '^[A-Za-z_][A-Za-z0-9_-]{0,59}$' },
      additionalProperties: text(10_000),
    },
  },
)
export const NEW_FEED = object(
  { file, name: { type: 'string', minLength: 1, maxLength: 80 } },
  {
    encoding: text(40),
    separator: { type: 'string', minLength: 1, maxLength: 1 },
    header: { type: 'boolean' },
    ragged: { enum: ['refuse', 'fill'] },
  },
)
export const PASTED_TEXT = object({ text: text(2_000_000) })
export const IMPORT_HAR = object({ file }, { choices })
export const IMPORT_HAR_JOURNEY = object({ file, choices })
export const IMPORT_OPENAPI = object({ file }, { ids: texts, baseUrl: text(2000) })
export const NEW_PLAN = object(
  {},
  {
    plan,
    name: { type: 'string', minLength: 1, maxLength: 80 },
    question: { type: 'string', minLength: 1, maxLength: 300 },
    targetId: text(80),
  },
)
export const CLONE_PLAN = object({}, { version: { type: 'integer', minimum: 1 } })
export const ARCHIVE_PLAN = object({ archived: { type: 'boolean' } })
export const SAVE_NETWORK = object({ profile: { $ref: NETWORK_SCHEMA.$id } })
export const NOTHING = object({})

const whole = (minimum: number, maximum: number) => ({ type: 'integer', minimum, maximum })
const amount = { type: 'number', minimum: 0, maximum: 1_000_000 }
const hosts = { type: 'array', minItems: 1, maxItems: 500, items: text(200) }
export const EXTEND_LEASE = object({ minutes: whole(1, 1440) })
export const CALL_ROLL = object({}, { machines: { type: 'array', maxItems: 2000, items: text(200) }, targetId: id })
export const SAVE_ACCOUNT = object(
  {
    account: object({
      id: { type: 'string', pattern: '^[a-z0-9][a-z0-9-]{0,39}$' },
      name: { type: 'string', minLength: 1, maxLength: 60 },
      address: { type: 'string', pattern: '^https?://[^/\\s]+(/.*)?$', maxLength: 300 },
      ownEnd: { enum: ['natively', 'by powering off', 'not'] },
    }),
  },
  { key: text(1000) },
)
export const SAVE_SITE = object({ site: { $ref: SITE_SCHEMA.$id } })
export const SAVE_KEY = object(
  { name: { type: 'string', minLength: 1, maxLength: 80 }, key: { type: 'string', minLength: 1, maxLength: 20_000 } },
  { passphrase: text(1000) },
)
export const HOST_REFS = object({ hosts })
export const HOST_COMMAND = object({ hosts, command: { type: 'string', minLength: 1, maxLength: 10_000 } })
export const INVITE_MACHINES = object(
  {
    location: { type: 'string', pattern: '^[A-Z]{3}$', description: 'three letters' },
    machines: whole(1, 50),
    expiresMin: whole(1, 10_080),
    leaseMin: whole(5, 10_080),
  },
  {
    proxy: { type: 'string', pattern: '^https?://\\S+$', maxLength: 300 },
    caFile: { type: 'string', pattern: '^/[\\w./-]+$', maxLength: 300 },
  },
)
export const SAVE_RAILS = object({
  rails: object({
    mostMachines: whole(0, 100_000),
    mostUsers: whole(0, 10_000_000),
    longestRunMin: whole(1, 10_080),
    budgetPerRun: amount,
    budgetPerDay: amount,
    currency: { type: 'string', pattern: '^[A-Z]{3}$' },
  }),
})

const few = { type: 'array', maxItems: 40, uniqueItems: true, items: text(80) }
export const CALIBRATE = object(
  {
    journeys: few,
    networks: few,
    provider: text(80),
    region: text(80),
    types: { ...few, minItems: 1 },
    machines: whole(1, 10),
    targetId: id,
    sink: { type: 'boolean' },
  },
  {
    mostStolenShare: { type: 'number', exclusiveMinimum: 0, maximum: 1 },
    verify: object({ planId: id, location: { type: 'string', pattern: '^[A-Z]{3}$', description: 'three letters' } }),
  },
)
export const SET_CAPACITY = object(
  {
    journeyId: id,
    network: id,
    provider: id,
    machineType: id,
    vcpu: { type: 'number', exclusiveMinimum: 0, maximum: 1024 },
    users: whole(0, 1_000_000),
  },
  { note: text(300) },
)
export const REFINE_CAPACITY = object({
  capacityId: id,
  users: { type: 'number', exclusiveMinimum: 0, maximum: 1_000_000 },
  runId: whole(1, 1e9),
})
export const TAKE_CAPACITIES = object({
  capacities: { type: 'array', minItems: 1, maxItems: 1000, items: { $ref: CAPACITY_SCHEMA.$id } },
})

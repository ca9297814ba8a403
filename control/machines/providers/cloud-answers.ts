/** What a cloud's API answers, as agreed in docs/nimbral-cloud.md: held against before anything is made of it. */
import { Type, type Static, type TSchema } from '@sinclair/typebox'
import Ajv from 'ajv/dist/2020.js'
import type { AttachmentSchema } from '../../../core/offers/machine-type'

const { Array: list, Boolean: flag, Object: object, Optional: optional, String: text } = Type
const words = (...of: string[]) => text({ enum: of })
const name = text({ minLength: 1, maxLength: 200 })
const sentence = text({ maxLength: 2000 })
const amount = Type.Number({ minimum: 0, maximum: 1e6 })
const count = Type.Integer({ minimum: 0, maximum: 1e9 })
/** More of anything than a cloud is asked for here. */
const MOST = { maxItems: 20_000 }

const MACHINE = object({
  id: name,
  name: text({ maxLength: 200 }),
  region: text({ maxLength: 200 }),
  type: text({ maxLength: 200 }),
  state: Type.Unsafe<'pending' | 'booting' | 'running' | 'stopped' | 'failed' | 'stopping' | 'gone'>(
    words('pending', 'booting', 'running', 'stopped', 'failed', 'stopping', 'gone'),
  ),
  kind: optional(Type.Unsafe<'machine' | 'disk' | 'address'>(words('machine', 'disk', 'address'))),
  reclaimAt: optional(text({ maxLength: 40, pattern: String.raw`^\d{4}-\d\d-\d\dT` })),
  message: optional(sentence),
})
const MACHINE_TYPE = object({
  name,
  vcpu: Type.Number({ exclusiveMinimum: 0, maximum: 4096 }),
  memoryMb: count,
  pricePerHour: amount,
  billingGrainS: Type.Number({ exclusiveMinimum: 0, maximum: 1e6 }),
  minimumS: optional(count),
  interruptiblePerHour: optional(amount),
})

export const CLOUD_ANSWERS = {
  terms: object({
    currency: text({ pattern: '^[A-Z]{3}$' }),
    pricesAsOf: text({ maxLength: 40 }),
    otherBills: list(
      object({
        name,
        per: Type.Unsafe<'hour' | 'GB out'>(words('hour', 'GB out')),
        price: amount,
        each: optional(name),
      }),
      MOST,
    ),
    attachments: optional(
      Type.Unsafe<AttachmentSchema>(object({ type: Type.Literal('object'), properties: Type.Record(text(), object({})) })),
    ),
  }),
  regions: list(
    object({
      name,
      bootSeconds: Type.Number({ minimum: 0, maximum: 1e5 }),
      quota: object({ machines: count, used: count }),
      outOfStock: optional(list(name, MOST)),
    }),
    MOST,
  ),
  types: list(MACHINE_TYPE, MOST),
  machines: list(MACHINE, MOST),
  created: object({ id: name }),
  refused: object({ error: name, message: sentence }),
  bills: list(object({ machine: name, amount, currency: text({ maxLength: 3 }), final: flag() }), MOST),
} as const satisfies Record<string, TSchema>

export type CloudAnswer<K extends keyof typeof CLOUD_ANSWERS> = Static<(typeof CLOUD_ANSWERS)[K]>

const ajv = new Ajv({ strict: false, allowUnionTypes: true, validateSchema: false })

/** @returns what is wrong with an answer of a kind; undefined: it is as agreed */
export function faultOfAnswer(kind: keyof typeof CLOUD_ANSWERS, body: unknown): string | undefined {
  // Compiled when one of its kind first comes; Ajv keeps it by the schema itself.
  const validate = ajv.compile(CLOUD_ANSWERS[kind])
  return validate(body) ? undefined : ajv.errorsText(validate.errors, { dataVar: kind }).slice(0, 300)
}

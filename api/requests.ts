/** What the app may ask of the server: a schema per request body. */
import { PLAN_SCHEMA } from '../core/plan/schema'
import type { Approval } from '../core/journey/journey'
import type { Plan } from '../core/plan/document'

export interface SavePlan { onVersion: number, plan: Plan }
export interface CheckPlan { plan: Plan }
export interface SetApproval { approval: Approval }
export interface Reason { reason?: string }
export interface Mark { text: string }

const { $schema: _, ...plan } = PLAN_SCHEMA

export const SAVE_PLAN = { type: 'object', additionalProperties: false, required: ['onVersion', 'plan'], properties: { onVersion: { type: 'integer', minimum: 0 }, plan } }
export const CHECK_PLAN = { type: 'object', additionalProperties: false, required: ['plan'], properties: { plan } }
export const SET_APPROVAL = {
  type: 'object', additionalProperties: false, required: ['approval'],
  properties: {
    approval: {
      type: 'object', additionalProperties: false, required: ['hosts', 'mostUsers', 'until', 'contact'],
      properties: {
        hosts: { type: 'array', minItems: 1, maxItems: 50, items: { type: 'string', pattern: '^(\\[[0-9a-fA-F:.]+\\]|[A-Za-z0-9._-]+):[0-9]{1,5}$' } },
        mostUsers: { type: 'integer', minimum: 1, maximum: 1_000_000 },
        until: { type: 'string', format: 'date-time' },
        contact: { type: 'string', minLength: 1, maxLength: 200 },
      },
    },
  },
}
export const REASON = { type: 'object', additionalProperties: false, properties: { reason: { type: 'string', maxLength: 300 } } }
export const MARK = { type: 'object', additionalProperties: false, required: ['text'], properties: { text: { type: 'string', minLength: 1, maxLength: 300 } } }

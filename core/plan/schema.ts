/** JSON Schema (2020-12) of the plan document. Meaning is checked in problems.ts; here only the form. */

const text = (most: number) => ({ type: 'string', minLength: 1, maxLength: most })
const letter = { type: 'string', pattern: '^[A-H]$' }
const code = { type: 'string', pattern: '^[A-Z]{3}$' }

export const PLAN_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Vornak plan',
  type: 'object',
  additionalProperties: false,
  required: ['schema', 'name', 'question', 'targetId', 'groups', 'locations', 'placement', 'objectives', 'assumedUsersPerVcpu', 'rehearse', 'keepMachinesMin', 'seed'],
  properties: {
    schema: { const: 'vornak-plan/1' },
    name: text(80),
    question: text(300),
    targetId: text(80),
    groups: {
      type: 'array', minItems: 1, maxItems: 8,
      items: {
        type: 'object', additionalProperties: false, required: ['letter', 'name', 'journeyId', 'profile'],
        properties: {
          letter, name: text(60), journeyId: text(80),
          profile: {
            type: 'object', additionalProperties: false, required: ['startDelayMs', 'segments'],
            properties: {
              startDelayMs: { type: 'integer', minimum: 0, maximum: 86_400_000 },
              segments: {
                type: 'array', maxItems: 100,
                items: {
                  type: 'object', additionalProperties: false, required: ['to', 'overMs'],
                  properties: { to: { type: 'integer', minimum: 0, maximum: 1_000_000 }, overMs: { type: 'integer', minimum: 0, maximum: 86_400_000 }, warmUp: { type: 'boolean' } },
                },
              },
            },
          },
        },
      },
    },
    locations: {
      type: 'array', minItems: 1, maxItems: 40,
      items: {
        type: 'object', additionalProperties: false, required: ['code', 'provider', 'region', 'machineType', 'machines'],
        properties: { code, provider: text(80), region: text(80), machineType: text(80), machines: { anyOf: [{ const: 'auto' }, { type: 'integer', minimum: 0, maximum: 1000 }] } },
      },
    },
    placement: {
      type: 'object', propertyNames: letter,
      additionalProperties: { type: 'object', propertyNames: code, additionalProperties: { anyOf: [{ const: 'rest' }, { type: 'integer', minimum: 0, maximum: 10_000 }] } },
    },
    objectives: {
      type: 'array', maxItems: 20,
      items: {
        type: 'object', additionalProperties: false, required: ['metric', 'atMost'],
        properties: { metric: { enum: ['p50', 'p95', 'p99', 'failures'] }, step: text(80), location: code, atMost: { type: 'number', minimum: 0 } },
      },
    },
    assumedUsersPerVcpu: { type: 'integer', minimum: 1, maximum: 100_000 },
    rehearse: { type: 'boolean' },
    keepMachinesMin: { type: 'integer', minimum: 0, maximum: 240 },
    exemplars: {
      type: 'object', additionalProperties: false, required: ['failuresPerSecond', 'slowest', 'oneInPasses', 'mostMb'],
      properties: { failuresPerSecond: { type: 'integer', minimum: 0, maximum: 1000 }, slowest: { type: 'boolean' }, oneInPasses: { type: 'integer', minimum: 0, maximum: 1_000_000 }, mostMb: { type: 'integer', minimum: 0, maximum: 256 } },
    },
    seed: { type: 'integer', minimum: 0, maximum: 4_294_967_295 },
  },
} as const

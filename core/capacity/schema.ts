/** JSON Schema (2020-12) of a capacity as it is exchanged. */
import { object } from '../values/json-schema'
import { SIGNAL_ORDER } from './signals'

const text = (maxLength: number) => ({ type: 'string', minLength: 1, maxLength })
const amount = { type: 'number', minimum: 0 }
const signal = object({ users: amount, lower: amount, base: { type: 'number' } }, { upper: amount })

export const CAPACITY_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'vornak-capacity/1',
  title: 'Vornak capacity of one generator',
  ...object(
    {
      schema: { const: 'vornak-capacity/1' },
      id: text(80),
      origin: { enum: ['calibrated', 'byHand', 'refined'] },
      journeyId: text(80),
      journeyName: text(80),
      network: text(80),
      provider: text(80),
      machineType: text(80),
      vcpu: { type: 'number', exclusiveMinimum: 0 },
      outcome: { enum: ['measured', 'atLeast', 'inconclusive'] },
      users: amount,
      lower: amount,
      signals: {
        type: 'object',
        additionalProperties: false,
        properties: Object.fromEntries(SIGNAL_ORDER.map(s => [s, signal])),
      },
      responseMs: amount,
      thinkMs: amount,
      requestsPerPass: amount,
      costs: object(
        {},
        {
          cpuUsPerRequest: amount,
          cpuUsPerPass: amount,
          bytesPerPass: amount,
          memoryKbPerUser: amount,
          socketsPerUser: amount,
        },
      ),
      machines: { type: 'integer', minimum: 0 },
      fingerprint: text(80),
      journeyVersion: { type: 'integer', minimum: 0 },
      release: text(40),
      at: amount,
    },
    {
      why: { enum: ['target', 'wrongAnswers', 'noise', 'notQuiet', 'stolen', 'fewLevels', 'broken'] },
      upper: amount,
      binds: { enum: SIGNAL_ORDER },
      spread: amount,
      runId: { type: 'integer', minimum: 1 },
      location: text(80),
      target: text(200),
      perHour: amount,
      currency: { type: 'string', pattern: '^[A-Z]{3}$' },
      note: { type: 'string', maxLength: 300 },
    },
  ),
}

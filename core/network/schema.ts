/** JSON Schema (2020-12) of a network profile. Which values make sense is checked in profile.ts; here only the form. */
import { object } from '../values/json-schema'

export const NETWORK_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'vornak-network/1',
  title: 'Vornak network profile',
  ...object(
    {
      id: { type: 'string', maxLength: 40 },
      name: { type: 'string', maxLength: 60 },
      latencyMs: { type: 'number' },
      jitterMs: { type: 'number' },
      loss: { type: 'number' },
    },
    { downBps: { type: 'number' }, upBps: { type: 'number' }, source: { type: 'string', maxLength: 300 } },
  ),
}

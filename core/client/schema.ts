/** JSON Schema (2020-12) of a client. Which headers it may have is checked in client.ts; here only the form. */
import { object } from '../values/json-schema'

export const CLIENT_SCHEMA = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  $id: 'vornak-client/1',
  title: 'Vornak client',
  ...object(
    {
      id: { type: 'string', maxLength: 40 },
      name: { type: 'string', maxLength: 60 },
      headers: {
        type: 'array',
        maxItems: 100,
        items: {
          type: 'array',
          minItems: 2,
          maxItems: 2,
          items: { type: 'string', maxLength: 4000 },
        },
      },
    },
    { source: { type: 'string', maxLength: 300 } },
  ),
}

/** JSON Schemas of what the API answers, made from the types of `api/answers.ts` by a library. */
import { join } from 'node:path'
import { createGenerator } from 'ts-json-schema-generator'
import { ROOT } from './ground.mjs'

/** @returns the content of `api/answers.json` */
export function answerSchemas() {
  const schema = createGenerator({
    path: join(ROOT, 'api', 'answers.ts'),
    tsconfig: join(ROOT, 'tsconfig.node.json'),
    type: 'Answered',
    topRef: false,
    // Checked by `npm run typecheck`.
    skipTypeCheck: true,
  }).createSchema('Answered')
  return `${JSON.stringify(schema, undefined, 1)}\n`
}

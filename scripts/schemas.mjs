/**
 * `npm run schemas`: writes the published JSON Schemas of `schemas/`, those of the API's answers, `docs/errors.md` and
 * `docs/api.md` anew from the code; tests hold them together.
 */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { answerSchemas } from './answer-schemas.mjs'
import { ROOT } from './ground.mjs'

const { outputFiles } = await build({
  stdin: {
    contents:
      'export { JOURNEY_SCHEMA, TARGET_SCHEMA } from "./core/journey/schema"; export { PLAN_SCHEMA } from "./core/plan/schema"; export { NETWORK_SCHEMA } from "./core/network/schema"; export { CLIENT_SCHEMA } from "./core/client/schema"; export { CAPACITY_SCHEMA } from "./core/capacity/schema"; export { printErrors } from "./api/errors"; export { printApi } from "./api/api-page"',
    resolveDir: ROOT,
    loader: 'ts',
  },
  bundle: true,
  write: false,
  format: 'esm',
})
const made = await import(`data:text/javascript;base64,${Buffer.from(outputFiles[0].contents).toString('base64')}`)
const {
  JOURNEY_SCHEMA,
  TARGET_SCHEMA,
  PLAN_SCHEMA,
  NETWORK_SCHEMA,
  CLIENT_SCHEMA,
  CAPACITY_SCHEMA,
  printErrors,
  printApi,
} = made
for (const [name, schema] of Object.entries({
  journey: JOURNEY_SCHEMA,
  target: TARGET_SCHEMA,
  plan: PLAN_SCHEMA,
  network: NETWORK_SCHEMA,
  client: CLIENT_SCHEMA,
  capacity: CAPACITY_SCHEMA,
}))
  writeFileSync(join(ROOT, 'schemas', `${name}.schema.json`), `${JSON.stringify(schema, null, 2)}\n`)
writeFileSync(join(ROOT, 'docs', 'errors.md'), printErrors())
writeFileSync(join(ROOT, 'docs', 'api.md'), printApi())
writeFileSync(join(ROOT, 'api', 'answers.json'), answerSchemas())

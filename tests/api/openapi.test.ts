/**
 * The API as it describes itself. Reference: the JSON Schema of OpenAPI 3.1 as its makers publish it
 * (https://spec.openapis.org/oas/3.1/schema/2026-08-03, in the package @seriousme/openapi-schema-validator).
 */
import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import Ajv from 'ajv/dist/2020.js'
import addFormats from 'ajv-formats'
import { ADDRESSES, addressParts, hrefTo, type OperationId } from '../../api/addresses'
import { printApi } from '../../api/api-page'
import { ERRORS } from '../../api/errors'
import { OPEN_API } from '../../api/openapi'
import { errorsOf, OPERATIONS, PATH_PARAMETERS, type Operation } from '../../api/operations'

const root = join(__dirname, '../..')
const ids = Object.keys(ADDRESSES) as OperationId[]
const document = JSON.parse(JSON.stringify(OPEN_API)) as {
  paths: Record<string, Record<string, { operationId: string }>>
  components: { schemas: Record<string, object> }
}

it('is an OpenAPI 3.1 document', () => {
  const published = JSON.parse(
    readFileSync(
      join(root, 'node_modules/@seriousme/openapi-schema-validator/schemas/v3.1/schema.json'),
      'utf8',
    ),
  ) as object
  const ajv = new Ajv({ strict: false, allErrors: true, validateFormats: false })
  const validate = ajv.compile(published)
  validate(document)
  expect(validate.errors ?? []).toEqual([])
  // The schema can say no.
  expect(validate({ ...document, paths: { 'no-slash': {} } })).toBe(false)
})

it('refers only to schemas it has, and each of them is a JSON Schema', () => {
  const refs = [...JSON.stringify(document).matchAll(/"\$ref":"([^"]+)"/g)].map(m => m[1]!)
  expect(refs.length).toBeGreaterThan(100)
  const broken = refs.filter((ref) => {
    const at = ref.replace('#/', '').split('/').reduce<unknown>((now, key) => (now as Record<string, unknown>)?.[key], document)
    return typeof at !== 'object'
  })
  expect(broken).toEqual([])
  const ajv = new Ajv({ strict: false, allErrors: true })
  addFormats(ajv)
  ajv.addSchema({ $id: 'https://vornak.test/api', components: document.components })
  for (const name of Object.keys(document.components.schemas))
    expect(typeof ajv.getSchema(`https://vornak.test/api#/components/schemas/${name}`)).toBe('function')
})

it('has every operation once, at its address', () => {
  const found = Object.entries(document.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, { operationId }]) => [operationId, `${method.toUpperCase()} ${path}`]),
  )
  expect(Object.fromEntries(found)).toEqual(ADDRESSES)
  expect(found).toHaveLength(ids.length)
})

it('says of every name in a path what it is', () => {
  const names = ids.flatMap(id => [...addressParts(id).path.matchAll(/\{(\w+)\}/g)].map(m => m[1]!))
  expect([...new Set(names)].sort()).toEqual(Object.keys(PATH_PARAMETERS).sort())
})

it('names every code the server answers with, except where no operation stands', () => {
  const named = new Set(ids.flatMap(errorsOf))
  const answered = Object.entries(ERRORS).filter(([, { statuses }]) => statuses.length > 0)
  expect(answered.map(([code]) => code).filter(code => !named.has(code as never))).toEqual(['no-such-address'])
})

it('answers nothing to what changes nothing with a body, and never changes by GET', () => {
  for (const id of ids) expect([id, (OPERATIONS[id] as Operation).body === undefined]).toEqual([id, addressParts(id).method === 'GET'])
})

it('was made from the types of the answers as they are; `npm run schemas` makes it anew', () => {
  const made = execFileSync(
    process.execPath,
    ['--input-type=module', '-e', 'import { answerSchemas } from "./scripts/answer-schemas.mjs"; process.stdout.write(answerSchemas())'],
    { cwd: root, encoding: 'utf8', maxBuffer: 16 * 1024 * 1024 },
  )
  expect(readFileSync(join(root, 'api/answers.json'), 'utf8')).toBe(made)
}, 60_000)

it('is listed on a page of the documentation; `npm run schemas` makes it anew', () => {
  expect(readFileSync(join(root, 'docs/api.md'), 'utf8')).toBe(printApi())
})

describe('an address', () => {
  it('holds what its operation is about, and the rest as its query', () => {
    expect(hrefTo('leftover', { run: 3, generator: 0, group: 'A', name: 'log & more' })).toBe(
      '/api/runs/3/leftovers/0?group=A&name=log+%26+more',
    )
    expect(hrefTo('plan', { plan: 'a/b', version: undefined })).toBe('/api/plans/a%2Fb')
  })
})

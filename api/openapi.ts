/** The API as an OpenAPI 3.1 document, made of its table: nothing of it is written by hand. */
import { Type } from '@sinclair/typebox'
import { addressParts, type OperationId } from './addresses'
import answerSchemas from './answers.json'
import { ERRORS, type ErrorCode } from './errors'
import { errorsOf, OPERATIONS, PATH_PARAMETERS, type Operation } from './operations'
import { DOCUMENT_SCHEMAS } from './requests'
import { keysIn } from '../core/values/written-out'
import { present } from '../core/values/present'

type Json = Record<string, unknown>

/** Kind of a request body that is a file as it is. */
const BYTES = 'application/octet-stream'

// Made from types (npm run schemas): JSON whose form is that of JSON Schema.
const { Answers, ...types } = answerSchemas.definitions as Record<string, Json>
// As above.
const answers = present(Answers, 'the answers, among the schemas made of their types').properties as Record<string, Json>

/** Names of documents that are sent, by the ids of their schemas. */
const documentNames = new Map<string, string>(
  Object.entries(DOCUMENT_SCHEMAS).map(([name, { $id }]) => [$id, `${name}Document`]),
)

/** Where schemas stand in the document. */
const SCHEMAS = '#/components/schemas/'

const LEADS: Json = { 303: { description: 'Where to go stands in the header Location.' } }

export const OPEN_API = {
  openapi: '3.1.1',
  info: {
    title: 'Vornak',
    version: '1',
    summary: 'Coordinates fleets of load generators and merges their results into one run.',
    license: { name: 'MIT', identifier: 'MIT' },
  },
  servers: [{ url: '/api' }],
  paths: paths(),
  components: { schemas: schemas() },
}

function schemas(): Json {
  const documents = Object.values(DOCUMENT_SCHEMAS).map(({ $id, $schema: _, ...schema }) => {
    const name = present(documentNames.get($id), 'each document has its name')
    return [name, relocated(schema, name)]
  })
  // What was an object is one with other references.
  return { ...(relocated(types) as Json), ...Object.fromEntries(documents) }
}

function paths(): Json {
  const found: Record<string, Json> = {}
  for (const id of keysIn(OPERATIONS)) {
    const { method, path } = addressParts(id)
    found[path] = { ...found[path], [method.toLowerCase()]: described(id, path) }
  }
  return found
}

function described(id: OperationId, path: string): Json {
  const { about, query = {}, body, file, leads }: Operation = OPERATIONS[id]
  const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    // An address names no parameter that is not in the table; a test holds them together.
    schema: PATH_PARAMETERS[name as keyof typeof PATH_PARAMETERS],
  }))
  const { required = [] } = Type.Object(query)
  const inQuery = Object.entries(query).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema,
  }))
  return {
    operationId: id,
    summary: about,
    parameters: [...inPath, ...inQuery],
    ...(body === undefined ? {} : { requestBody: { required: true, content: contentOf(body) } }),
    responses: {
      ...(leads ? LEADS : { 200: { description: 'It was done.', content: answerOf(id, file) } }),
      ...problemsOf(errorsOf(id)),
    },
  }
}

function answerOf(id: OperationId, file: string | undefined): Json {
  return file === undefined
    ? { 'application/json': { schema: relocated(answers[id]) } }
    : { [file.split(';')[0]!]: { schema: { type: 'string' } } }
}

function contentOf(body: NonNullable<Operation['body']>): Json {
  return body === 'bytes'
    ? { [BYTES]: { schema: { type: 'string', format: 'binary' } } }
    : { 'application/json': { schema: relocated(body) } }
}

/** A response per status, with the codes it can have. */
function problemsOf(codes: readonly ErrorCode[]): Json {
  const byStatus = new Map<number, ErrorCode[]>()
  for (const code of codes)
    for (const status of ERRORS[code].statuses) byStatus.set(status, [...(byStatus.get(status) ?? []), code])
  return Object.fromEntries(
    [...byStatus].map(([status, ofStatus]) => [
      status,
      {
        description: ofStatus.map(code => `${code}: ${ERRORS[code].cause}`).join('\n'),
        content: { 'application/json': { schema: { $ref: `${SCHEMAS}ApiProblem` } } },
      },
    ]),
  )
}

/** A schema whose references lead into this document. @param within name of the schema that its own parts are in */
function relocated(schema: unknown, within = ''): unknown {
  if (Array.isArray(schema)) return schema.map(part => relocated(part, within))
  if (typeof schema !== 'object' || schema === null) return schema
  return Object.fromEntries(
    Object.entries(schema).map(([key, value]) => {
      if (key === '$ref' && typeof value === 'string') return [key, referenceTo(value, within)]
      // A list of fixed parts is called otherwise since JSON Schema 2020-12.
      return [key === 'items' && Array.isArray(value) ? 'prefixItems' : key, relocated(value, within)]
    }),
  )
}

function referenceTo(ref: string, within: string): string {
  const name = documentNames.get(ref)
  if (name) return `${SCHEMAS}${name}`
  return ref.replace('#/definitions/', SCHEMAS).replace('#/$defs/', `${SCHEMAS}${within}/$defs/`)
}

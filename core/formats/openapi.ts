/** Reads an OpenAPI 3 document (OpenAPI Specification 3.0 and 3.1): operations to choose from, and steps with example values for those chosen. */
import { parseDocument } from 'yaml'
import type { Body, HttpJourney, Method, Pair, Step } from '../journey/journey'

export class OpenApiError extends Error {
  override name = 'OpenApiError'
  constructor(message: string, readonly remedy: string) { super(message) }
}

export interface Operation { id: string, method: Method, path: string, summary: string, tags: string[], needsBody: boolean }
export interface OpenApiReview { title: string, version: string, servers: string[], operations: Operation[], remarks: string[] }

type Dict = Record<string, unknown>

/** Deepest value written as an example. */
const MOST_DEPTH = 8
const METHODS = ['get', 'post', 'put', 'patch', 'delete', 'head', 'options'] as const

/** @throws OpenApiError with the line where the text cannot be read */
export function readOpenApi(text: string): Dict {
  const document = parseDocument(text, { maxAliasCount: 100 } as Parameters<typeof parseDocument>[1])
  const first = document.errors[0]
  if (first) throw new OpenApiError(`Line ${first.linePos?.[0].line ?? '?'}: ${first.message.split('\n')[0]}`, 'Correct the document, or paste it whole.')
  let api: unknown
  try { api = document.toJS({ maxAliasCount: 100 }) }
  catch (error) { throw new OpenApiError((error as Error).message, 'Write the document without so many aliases.') }
  if (!isDict(api) || typeof api.openapi !== 'string') {
    throw new OpenApiError(isDict(api) && api.swagger ? 'The document is of version 2; version 3 is read.' : 'The document is no OpenAPI: it has no “openapi: 3…” line.', 'Give an OpenAPI 3 document, as YAML or JSON.')
  }
  if (!api.openapi.startsWith('3.')) throw new OpenApiError(`The document is of OpenAPI ${api.openapi}; version 3 is read.`, 'Convert it to version 3.')
  return api
}

export function reviewOpenApi(api: Dict): OpenApiReview {
  const remarks: string[] = []
  const info = dict(api.info)
  const operations = operationsOf(api).map(({ operation, ...o }) => ({ ...o, summary: text(operation.summary), tags: list(operation.tags).map(String), needsBody: operation.requestBody !== undefined }))
  if (Object.keys(dict(dict(api.components).securitySchemes)).length > 0) remarks.push('The API asks for credentials: put them into the target’s secrets and name them in the headers.')
  if (JSON.stringify(api).includes('"$ref":"http')) remarks.push('References to other documents are not followed.')
  return { title: text(info.title), version: text(info.version), servers: serversOf(api), operations, remarks }
}

/** @param ids of the operations chosen, in the order they shall be walked */
export function openApiToJourney(api: Dict, ids: readonly string[]): { journey: HttpJourney, baseUrl: string, remarks: string[] } {
  const all = operationsOf(api)
  const remarks: string[] = []
  const names = new Set<string>()
  const steps = ids.flatMap((id): Step[] => {
    const found = all.find(o => o.id === id)
    if (!found) return []
    const { operation, method, path, shared } = found
    const parameters = [...list(shared), ...list(operation.parameters)].map(p => dict(resolve(api, p)))
    const valueOf = (p: Dict) => plain(p.example ?? firstExample(api, p.examples) ?? example(api, p.schema, text(p.name)))
    const url = path.replace(/\{([^}]+)\}/g, (_, name: string) => {
      const p = parameters.find(x => x.in === 'path' && x.name === name)
      return encodeURIComponent(p ? valueOf(p) : name)
    })
    const needed = (where: string) => parameters.filter(p => p.in === where && (p.required === true || p.example !== undefined)).map((p): Pair => [text(p.name), valueOf(p)])
    const query = needed('query')
    const headers = needed('header')
    const body = bodyOf(api, operation.requestBody, remarks, `${method} ${path}`)
    const statuses = Object.keys(dict(operation.responses)).filter(s => /^2(\d\d|XX)$/i.test(s)).map(s => s.toLowerCase())
    let name = text(operation.summary).slice(0, 50) || text(operation.operationId) || `${method} ${path}`
    for (let n = 2; names.has(name); n++) name = `${name.replace(/ \d+$/, '')} ${n}`
    names.add(name)
    return [{
      name, method, url, timeoutMs: 10_000, think: { kind: 'uniform', fromMs: 1000, toMs: 3000 }, ...(query.length > 0 ? { query } : {}), ...(headers.length > 0 ? { headers } : {}), ...(body ? { body } : {}),
      ...(statuses.length > 0 ? { expect: [{ kind: 'status' as const, allow: statuses.join(', ') }] } : {}),
    }]
  })
  const title = text(dict(api.info).title) || 'API'
  return { journey: { schema: 'vornak-journey/1', kind: 'http', id: 'api', name: title.slice(0, 80), identity: 'kept', tags: ['openapi'], opening: [], round: steps, closing: [] }, baseUrl: serversOf(api)[0] ?? '', remarks }
}

function operationsOf(api: Dict): { id: string, method: Method, path: string, operation: Dict, shared: unknown }[] {
  return Object.entries(dict(api.paths)).flatMap(([path, raw]) => {
    const item = dict(resolve(api, raw))
    return METHODS.flatMap((m) => {
      if (!isDict(item[m])) return []
      const method = m.toUpperCase() as Method
      return [{ id: `${method} ${path}`, method, path, operation: item[m], shared: item.parameters }]
    })
  })
}

function serversOf(api: Dict): string[] {
  return list(api.servers).map((s) => {
    const server = dict(s)
    return text(server.url).replace(/\{([^}]+)\}/g, (_, name: string) => text(dict(dict(server.variables)[name]).default))
  }).filter(url => /^https?:\/\//.test(url))
}

function bodyOf(api: Dict, raw: unknown, remarks: string[], where: string): Body | undefined {
  const content = dict(dict(resolve(api, raw)).content)
  const [type, media] = Object.entries(content).find(([t]) => t.includes('json')) ?? Object.entries(content)[0] ?? []
  if (type === undefined) return undefined
  const { schema, example: given, examples } = dict(media)
  const value = given ?? firstExample(api, examples) ?? example(api, schema, 'body')
  if (type.includes('json')) return { kind: 'json', text: JSON.stringify(value, null, 2) }
  if (type.includes('urlencoded')) return { kind: 'form', fields: Object.entries(dict(value)).map(([n, v]): Pair => [n, plain(v)]) }
  if (type.includes('multipart')) {
    remarks.push(`${where}: choose the files of its form by hand`)
    return { kind: 'multipart', parts: Object.entries(dict(value)).map(([name, v]) => ({ name, text: plain(v) })) }
  }
  return { kind: 'raw', text: plain(value), type }
}

/** An example that fits a schema: what it gives itself, else the plainest value of its type. */
function example(api: Dict, raw: unknown, name: string, depth = 0): unknown {
  const schema = dict(resolve(api, raw))
  if (schema.example !== undefined) return schema.example
  if (Array.isArray(schema.examples) && schema.examples.length > 0) return schema.examples[0] as unknown
  if (schema.default !== undefined) return schema.default
  if (schema.const !== undefined) return schema.const
  if (Array.isArray(schema.enum) && schema.enum.length > 0) return schema.enum[0] as unknown
  if (depth > MOST_DEPTH) return null
  const all = list(schema.allOf)
  if (all.length > 0) return Object.assign({}, ...all.map(s => dict(example(api, s, name, depth + 1)))) as unknown
  const one = [...list(schema.oneOf), ...list(schema.anyOf)][0]
  if (one !== undefined) return example(api, one, name, depth + 1)
  const type = Array.isArray(schema.type) ? schema.type.find(t => t !== 'null') as unknown : schema.type
  if (type === 'object' || isDict(schema.properties)) return Object.fromEntries(Object.entries(dict(schema.properties)).filter(([, s]) => dict(resolve(api, s)).readOnly !== true).map(([key, s]) => [key, example(api, s, key, depth + 1)]))
  if (type === 'array') return [example(api, schema.items, name, depth + 1)]
  if (type === 'integer' || type === 'number') return typeof schema.minimum === 'number' ? schema.minimum : 1
  if (type === 'boolean') return true
  if (type === 'string') {
    switch (schema.format) {
      case 'date': return '2026-09-01'
      case 'date-time': return '2026-09-01T08:00:00Z'
      case 'uuid': return '00000000-0000-4000-8000-000000000000'
      case 'email': return 'someone@example.org'
      case 'uri': return 'https://example.org/'
      default: return name
    }
  }
  return null
}

function firstExample(api: Dict, examples: unknown): unknown {
  const first = Object.values(dict(examples))[0]
  return first === undefined ? undefined : dict(resolve(api, first)).value
}

/** Follows a reference within the document (RFC 6901). */
function resolve(api: Dict, value: unknown, hops = 0): unknown {
  const ref = isDict(value) ? value.$ref : undefined
  if (typeof ref !== 'string') return value
  if (!ref.startsWith('#/') || hops > 20) return {}
  const found = ref.slice(2).split('/').reduce<unknown>((at, part) => {
    const key = decodeURIComponent(part).replaceAll('~1', '/').replaceAll('~0', '~')
    return isDict(at) && Object.hasOwn(at, key) ? at[key] : undefined
  }, api)
  return resolve(api, found, hops + 1)
}

function isDict(value: unknown): value is Dict { return typeof value === 'object' && value !== null && !Array.isArray(value) }
function dict(value: unknown): Dict { return isDict(value) ? value : {} }
function list(value: unknown): unknown[] { return Array.isArray(value) ? value : [] }
function text(value: unknown): string { return typeof value === 'string' ? value : '' }
function plain(value: unknown): string { return typeof value === 'string' ? value : JSON.stringify(value ?? '') }

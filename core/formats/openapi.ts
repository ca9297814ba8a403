/**
 * Reads an OpenAPI 3 document (OpenAPI Specification 3.0 and 3.1): operations to choose from, and steps with example
 * values for those chosen.
 */
import { ownOf } from '../values/own'
import { parseBounded } from './bounded-yaml'
import type { Body, HttpJourney, Method, Pair, Step } from '../journey/journey'
import { isObject, objectOf, textOf, type Untyped } from '../values/untyped'

export class OpenApiError extends Error {
  override name = 'OpenApiError'
  constructor(
    message: string,
    readonly remedy: string,
  ) {
    super(message)
  }
}

export interface DescribedOperation {
  id: string
  method: Method
  path: string
  summary: string
  tags: string[]
  needsBody: boolean
}
/**
 * `asksForServer`: the first server is relative, or has a variable nobody sets: where the API stands has to be said.
 */
export interface OpenApiReview {
  title: string
  version: string
  servers: string[]
  asksForServer: boolean
  operations: DescribedOperation[]
  remarks: string[]
}

/** Deepest value written as an example, and most values of one example: schemas that name themselves have no end. */
const MOST_DEPTH = 8
const MOST_VALUES = 2000
const METHODS = ['get', 'post', 'put', 'patch', 'delete', 'head', 'options'] as const

/** @throws OpenApiError with the line where the text cannot be read */
export function readOpenApi(text: string): Untyped {
  const api = valueOf(text)
  if (!isObject(api) || typeof api.openapi !== 'string') {
    throw new OpenApiError(
      isObject(api) && api.swagger
        ? 'The document is of version 2; version 3 is read.'
        : 'The document is no OpenAPI: it has no “openapi: 3…” line.',
      'Give an OpenAPI 3 document, as YAML or JSON.',
    )
  }
  if (!api.openapi.startsWith('3.'))
    throw new OpenApiError(`The document is of OpenAPI ${api.openapi}; version 3 is read.`, 'Convert it to version 3.')
  return api
}

/** JSON by its own reader, which takes a tenth of the time; everything else as YAML. */
function valueOf(text: string): unknown {
  if (/^\s*\{/.test(text)) {
    try {
      return JSON.parse(text, (key, value: unknown) => (key === '__proto__' ? undefined : value))
    }
    catch {
      /* YAML may begin like this too; its reader says the line */
    }
  }
  const parsed = parseBounded(text)
  if (parsed.ok) return parsed.value
  const [first] = parsed.faults
  throw new OpenApiError(
    `Line ${first?.line ?? '?'}: ${first?.sentence.split('\n')[0] ?? 'it cannot be read.'}`,
    'Correct the document, or give it whole.',
  )
}

export function reviewOpenApi(api: Untyped): OpenApiReview {
  const remarks: string[] = []
  const info = objectOf(api.info)
  const operations = operationsOf(api).map(({ operation, shared: _, ...o }) => ({
    ...o,
    summary: textOf(operation.summary),
    tags: list(operation.tags).map(String),
    needsBody: operation.requestBody !== undefined,
  }))
  if (Object.keys(objectOf(objectOf(api.components).securitySchemes)).length > 0)
    remarks.push('The API asks for credentials: put them into the target’s secrets and name them in the headers.')
  if (JSON.stringify(api).includes('"$ref":"http')) remarks.push('References to other documents are not followed.')
  const servers = serversOf(api)
  return {
    title: textOf(info.title),
    version: textOf(info.version),
    servers,
    asksForServer: !isAbsolute(servers[0] ?? ''),
    operations,
    remarks,
  }
}

/**
 * @param ids of the operations chosen, in the order they shall be walked @returns `baseUrl`: as the document has it,
 * which may be relative
 */
// eslint-disable-next-line max-lines-per-function -- one form, read or written from its beginning to its end
export function openApiToJourney(
  api: Untyped,
  ids: readonly string[],
): { journey: HttpJourney, baseUrl: string, hosts: string[], remarks: string[], secrets: Record<string, string> } {
  const all = operationsOf(api)
  const remarks: string[] = []
  const names = new Set<string>()
  const steps = ids.flatMap((id): Step[] => {
    const found = all.find(o => o.id === id)
    if (!found) return []
    const { operation, method, path, shared } = found
    const parameters = parametersOf(api, shared, operation.parameters)
    const given = (p: Untyped): Given => ({
      name: textOf(p.name),
      value: valueFor(api, p),
      style: textOf(p.style),
      explode: typeof p.explode === 'boolean' ? p.explode : undefined,
    })
    const url = path.replace(/\{([^}]+)\}/g, (_, name: string) => {
      const p = parameters.find(x => x.in === 'path' && x.name === name)
      return p ? inPath(given(p)) : encodeURIComponent(name)
    })
    const needed = (where: string) =>
      parameters.filter(p => p.in === where && (p.required === true || p.example !== undefined)).map(given)
    const query = needed('query').flatMap(inQuery)
    const cookies = needed('cookie')
      .flatMap(inQuery)
      .map(([n, v]) => `${n}=${v}`)
    const body = bodyOf(api, operation.requestBody, remarks, `${method} ${path}`)
    const headers = [
      ...needed('header').map((p): Pair => [p.name, simple(p.value, p.explode ?? false)]),
      ...(cookies.length > 0 ? [['cookie', cookies.join('; ')] satisfies Pair] : []),
    ]
    const statuses = Object.keys(objectOf(operation.responses))
      .filter(s => /^2(\d\d|XX)$/i.test(s))
      .map(s => s.toLowerCase())
    let name = textOf(operation.summary).slice(0, 50) || textOf(operation.operationId) || `${method} ${path}`
    for (let n = 2; names.has(name); n++) name = `${name.replace(/ \d+$/, '')} ${n}`
    names.add(name)
    return [
      {
        name,
        method,
        url,
        timeoutMs: 10_000,
        think: { kind: 'uniform', fromMs: 1000, toMs: 3000 },
        ...(query.length > 0 ? { query } : {}),
        ...(headers.length > 0 ? { headers } : {}),
        ...(body ? { body } : {}),
        ...(statuses.length > 0 ? { expect: [{ kind: 'status' as const, allow: statuses.join(', ') }] } : {}),
      },
    ]
  })
  const title = textOf(objectOf(api.info).title) || 'API'
  const journey: HttpJourney = {
    schema: 'vornak-journey/1',
    kind: 'http',
    id: 'api',
    name: title.slice(0, 80),
    identity: 'kept',
    tags: ['openapi'],
    opening: [],
    round: steps,
    closing: [],
  }
  return { journey, baseUrl: serversOf(api)[0] ?? '', hosts: [], remarks, secrets: {} }
}

interface FoundOperation { id: string, method: Method, path: string, operation: Untyped, shared: unknown }

function operationsOf(api: Untyped): FoundOperation[] {
  return Object.entries(objectOf(api.paths)).flatMap(([path, raw]) => {
    const item = objectOf(resolve(api, raw))
    return METHODS.flatMap((m) => {
      if (!isObject(item[m])) return []
      // They are the methods in small letters.
      const method = m.toUpperCase() as Method
      return [{ id: `${method} ${path}`, method, path, operation: item[m], shared: item.parameters }]
    })
  })
}

/** Parameters of an operation: its own take the place of those its path shares, by name and place. */
function parametersOf(api: Untyped, shared: unknown, own: unknown): Untyped[] {
  const byPlace = new Map<string, Untyped>()
  for (const raw of [...list(shared), ...list(own)]) {
    const p = objectOf(resolve(api, raw))
    byPlace.set(`${textOf(p.in)} ${textOf(p.name)}`, p)
  }
  return [...byPlace.values()]
}

/**
 * A parameter's value, as it is before it is written out. One that has a `content` is written as that (OpenAPI 3.1,
 * Parameter Object).
 */
function valueFor(api: Untyped, p: Untyped): unknown {
  const [type, media] = Object.entries(objectOf(p.content))[0] ?? []
  if (type !== undefined) {
    const { schema, example: own, examples } = objectOf(media)
    const value = own ?? firstExample(api, examples) ?? exampleOf(api, schema, textOf(p.name))
    return type.includes('json') ? JSON.stringify(value) : value
  }
  return p.example ?? firstExample(api, p.examples) ?? exampleOf(api, p.schema, textOf(p.name))
}

/**
 * The servers as they are written, their variables put in. One without a default keeps its braces: it has to be asked
 * for.
 */
function serversOf(api: Untyped): string[] {
  const servers = list(api.servers)
    .map((s) => {
      const server = objectOf(s)
      return textOf(server.url).replace(/\{([^}]+)\}/g, (all, name: string) => {
        const { default: usual, enum: choices } = objectOf(ownOf(objectOf(server.variables), name))
        return textOf(usual) || textOf(list(choices)[0]) || all
      })
    })
    .filter(Boolean)
  // Without any, the document stands at the API's root (OpenAPI 3.1, OpenAPI Object: servers).
  return servers.length > 0 ? servers : ['/']
}

/** Whether an address can be sent to as it stands. */
function isAbsolute(url: string): boolean {
  return /^https?:\/\/[^{}/]+(\/[^{}]*)?$/.test(url)
}

function bodyOf(api: Untyped, raw: unknown, remarks: string[], where: string): Body | undefined {
  const content = objectOf(objectOf(resolve(api, raw)).content)
  const [type, media] = Object.entries(content).find(([t]) => t.includes('json')) ?? Object.entries(content)[0] ?? []
  if (type === undefined) return undefined
  const { schema, example: given, examples } = objectOf(media)
  const value = given ?? firstExample(api, examples) ?? exampleOf(api, schema, 'body')
  if (type.includes('json')) return { kind: 'json', text: JSON.stringify(value, null, 2) }
  if (type.includes('urlencoded'))
    return {
      kind: 'form',
      fields: Object.entries(objectOf(value)).flatMap(([name, v]) =>
        inQuery({
          name,
          value: v,
          style: textOf(objectOf(ownOf(objectOf(objectOf(media).encoding), name)).style),
          explode: undefined,
        }),
      ),
    }
  if (type.includes('multipart')) {
    remarks.push(`${where}: choose the files of its form by hand`)
    return { kind: 'multipart', parts: Object.entries(objectOf(value)).map(([name, v]) => ({ name, text: plain(v) })) }
  }
  if (/[/+]xml\b/.test(type) && typeof value !== 'string') return { kind: 'raw', text: xmlOf(api, schema, value), type }
  return { kind: 'raw', text: plain(value), type }
}

function firstExample(api: Untyped, examples: unknown): unknown {
  const first = Object.values(objectOf(examples))[0]
  return first === undefined ? undefined : objectOf(resolve(api, first)).value
}

/** An example that fits a schema: what it gives itself, else the plainest value of its type. */
function exampleOf(api: Untyped, schema: unknown, name: string): unknown {
  return new Examples(api).of(schema, name)
}

class Examples {
  private values = 0

  constructor(private readonly api: Untyped) {}

  /** @param within references followed to get here: one of them a third time is a schema that names itself, and ends */
  of(raw: unknown, name: string, depth = 0, within: readonly string[] = []): unknown {
    const ref = isObject(raw) && typeof raw.$ref === 'string' ? raw.$ref : undefined
    if (ref !== undefined && within.filter(r => r === ref).length > 1) return undefined
    if (++this.values > MOST_VALUES || depth > MOST_DEPTH) return undefined
    const inside = ref === undefined ? within : [...within, ref]
    // What stands beside a reference counts too (OpenAPI 3.1, after JSON Schema 2020-12).
    const schema = ref === undefined ? objectOf(raw) : { ...objectOf(resolve(this.api, raw)), ...without(objectOf(raw), '$ref') }
    if (schema.example !== undefined) return schema.example
    if (Array.isArray(schema.examples) && schema.examples.length > 0) return schema.examples[0]
    if (schema.default !== undefined) return schema.default
    if (schema.const !== undefined) return schema.const
    if (Array.isArray(schema.enum) && schema.enum.length > 0) return schema.enum[0]
    const deeper = (of: unknown, as: string) => this.of(of, as, depth + 1, inside)
    const all = list(schema.allOf)
    if (all.length > 0) {
      const parts = all.map(s => deeper(s, name))
      const own = isObject(schema.properties) ? this.objectExample(schema, deeper) : {}
      return parts.every(p => isObject(p) || p === undefined)
        ? Object.assign({}, ...parts.map(objectOf), own)
        : parts.find(p => p !== undefined && !isObject(p))
    }
    const one = [...list(schema.oneOf), ...list(schema.anyOf)]
    if (one.length > 0) {
      const chosen = one.map(s => deeper(s, name)).find(v => v !== undefined)
      return isObject(chosen) && isObject(schema.properties)
        ? { ...this.objectExample(schema, deeper), ...chosen }
        : chosen
    }
    const type = Array.isArray(schema.type) ? schema.type.find(t => t !== 'null') : schema.type
    if (type === 'object' || isObject(schema.properties)) return this.objectExample(schema, deeper)
    if (type === 'array' || schema.items !== undefined) return this.arrayExample(schema, name, deeper)
    if (type === 'integer' || type === 'number') return numberOf(schema, type)
    if (type === 'boolean') return true
    if (type === 'string') return stringOf(schema, name)
    return null
  }

  private objectExample(schema: Untyped, deeper: (of: unknown, as: string) => unknown): Untyped {
    const object: Untyped = {}
    for (const [key, s] of Object.entries(objectOf(schema.properties))) {
      if (objectOf(resolve(this.api, s)).readOnly === true) continue
      const value = deeper(s, key)
      if (value !== undefined) object[key] = value
    }
    return object
  }

  private arrayExample(schema: Untyped, name: string, deeper: (of: unknown, as: string) => unknown): unknown[] {
    const wanted = Math.min(20, Math.max(1, count(schema.minItems)))
    return Array.from({ length: wanted }, () => deeper(schema.items, name)).filter(v => v !== undefined)
  }
}

/** The least number a schema allows, from 1 on where nothing else is said. */
function numberOf(schema: Untyped, type: 'integer' | 'number'): number {
  const step =
    typeof schema.multipleOf === 'number' && schema.multipleOf > 0
      ? schema.multipleOf
      : type === 'integer'
        ? 1
        : undefined
  // A number is the bound itself (3.1); `true` makes the other bound one that is not allowed (3.0).
  const above =
    typeof schema.exclusiveMinimum === 'number'
      ? schema.exclusiveMinimum
      : schema.exclusiveMinimum === true
        ? finite(schema.minimum)
        : undefined
  const below =
    typeof schema.exclusiveMaximum === 'number'
      ? schema.exclusiveMaximum
      : schema.exclusiveMaximum === true
        ? finite(schema.maximum)
        : undefined
  const least = above ?? finite(schema.minimum)
  const most = below ?? finite(schema.maximum)
  let value = least ?? (most === undefined || most > 1 || (most === 1 && below === undefined) ? 1 : most)
  if (step !== undefined)
    value = exact(least === undefined && value !== 1 ? Math.floor(value / step) : Math.ceil(value / step), step)
  const between = () =>
    most === undefined
      ? value + (step ?? 1)
      : step === undefined
        ? (value + most) / 2
        : exact(Math.round(value / step) + 1, step)
  if (above !== undefined && value <= above) value = between()
  if (below !== undefined && value >= below)
    value = step === undefined ? below - 1 : exact(Math.ceil(below / step) - 1, step)
  return value
}

/** A multiple without the rounding of binary fractions: 3 × 0.1 is 0.3. */
function exact(times: number, step: number): number {
  return Number((times * step).toPrecision(12))
}

function stringOf(schema: Untyped, name: string): string {
  const plainest = ownOf(FORMATS, textOf(schema.format)) ?? name
  if (Object.hasOwn(FORMATS, textOf(schema.format))) return plainest
  const long = plainest.padEnd(Math.min(1000, count(schema.minLength)), 'x')
  return typeof schema.maxLength === 'number' ? long.slice(0, schema.maxLength) : long
}

const FORMATS: Record<string, string> = {
  date: '2026-09-01',
  'date-time': '2026-09-01T08:00:00Z',
  time: '08:00:00Z',
  uuid: '00000000-0000-4000-8000-000000000000',
  email: 'someone@example.org',
  uri: 'https://example.org/',
  hostname: 'example.org',
  ipv4: '192.0.2.1',
  ipv6: '2001:db8::1',
  byte: 'AA==',
}

/** A value as XML (OpenAPI 3.1, XML Object): names, attributes and wrapped lists as the schema says. */
function xmlOf(api: Untyped, raw: unknown, value: unknown): string {
  const schema = objectOf(resolve(api, raw))
  const ref = isObject(raw) ? textOf(raw.$ref).split('/').pop() : undefined
  const name = textOf(objectOf(schema.xml).name) || ref || 'body'
  return elementOf(api, schema, value, name)
}

function elementOf(api: Untyped, schema: Untyped, value: unknown, name: string): string {
  const { prefix, namespace } = objectOf(schema.xml)
  const tag = textOf(prefix) ? `${textOf(prefix)}:${name}` : name
  const space = textOf(namespace)
    ? ` xmlns${textOf(prefix) ? `:${textOf(prefix)}` : ''}="${escapedXml(textOf(namespace))}"`
    : ''
  if (!isObject(value)) return `<${tag}${space}>${escapedXml(plain(value))}</${tag}>`
  let attributes = space
  let inner = ''
  for (const [key, v] of Object.entries(value)) {
    const of = objectOf(resolve(api, propertyOf(api, schema, key)))
    const xml = objectOf(of.xml)
    const own = textOf(xml.name) || key
    if (xml.attribute === true) attributes += ` ${own}="${escapedXml(plain(v))}"`
    else if (Array.isArray(v)) {
      const items = objectOf(resolve(api, of.items))
      const item = textOf(objectOf(items.xml).name) || (xml.wrapped === true ? key : own)
      const list = v.map(i => elementOf(api, items, i, item)).join('')
      inner += xml.wrapped === true ? `<${own}>${list}</${own}>` : list
    }
    else inner += elementOf(api, of, v, own)
  }
  return `<${tag}${attributes}>${inner}</${tag}>`
}

/** The schema of a property: the object's own, or one of those it is made of. */
function propertyOf(api: Untyped, schema: Untyped, key: string): unknown {
  const own = ownOf(objectOf(schema.properties), key)
  if (own !== undefined) return own
  return list(schema.allOf)
    .map(s => ownOf(objectOf(objectOf(resolve(api, s)).properties), key))
    .find(s => s !== undefined)
}

function escapedXml(value: string): string {
  return value.replace(/[&<>"]/g, c => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)
}

// Styles of parameters (OpenAPI 3.1, Parameter Object: Style Values).

interface Given {
  name: string
  value: unknown
  style: string
  explode: boolean | undefined
}

/** In the query, or among cookies: `form` unless another is said; `form` is written out unless it says not to be. */
function inQuery({ name, value, style, explode }: Given): Pair[] {
  const apart = explode ?? (style === '' || style === 'form')
  if (Array.isArray(value)) {
    const items = value.map(plain)
    return apart
      ? items.map((v): Pair => [name, v])
      : [[name, items.join(style === 'spaceDelimited' ? ' ' : style === 'pipeDelimited' ? '|' : ',')]]
  }
  if (!isObject(value)) return [[name, plain(value)]]
  const fields = Object.entries(value)
  if (style === 'deepObject') return fields.map(([k, v]): Pair => [`${name}[${k}]`, plain(v)])
  return apart
    ? fields.map(([k, v]): Pair => [k, plain(v)])
    : [[name, fields.flatMap(([k, v]) => [k, plain(v)]).join(',')]]
}

/** In the path: `simple` unless `label` or `matrix` is said. */
function inPath({ name, value, style, explode = false }: Given): string {
  const e = (v: unknown) => encodeURIComponent(plain(v))
  const fields = isObject(value) ? Object.entries(value) : undefined
  if (style === 'label') {
    if (Array.isArray(value)) return `.${value.map(e).join(explode ? '.' : ',')}`
    return `.${fields ? fields.map(([k, v]) => (explode ? `${e(k)}=${e(v)}` : `${e(k)},${e(v)}`)).join(explode ? '.' : ',') : e(value)}`
  }
  if (style === 'matrix') {
    if (Array.isArray(value))
      return explode ? value.map(v => `;${e(name)}=${e(v)}`).join('') : `;${e(name)}=${value.map(e).join(',')}`
    if (fields)
      return explode
        ? fields.map(([k, v]) => `;${e(k)}=${e(v)}`).join('')
        : `;${e(name)}=${fields.map(([k, v]) => `${e(k)},${e(v)}`).join(',')}`
    return `;${e(name)}=${e(value)}`
  }
  return Array.isArray(value)
    ? value.map(e).join(',')
    : fields
      ? fields.map(([k, v]) => (explode ? `${e(k)}=${e(v)}` : `${e(k)},${e(v)}`)).join(',')
      : e(value)
}

/** In a header. */
function simple(value: unknown, explode: boolean): string {
  if (Array.isArray(value)) return value.map(plain).join(',')
  return isObject(value)
    ? Object.entries(value)
        .map(([k, v]) => (explode ? `${k}=${plain(v)}` : `${k},${plain(v)}`))
        .join(',')
    : plain(value)
}

/** Follows a reference within the document (RFC 6901, in a fragment: percent-encoded). */
function resolve(api: Untyped, value: unknown, hops = 0): unknown {
  const ref = isObject(value) ? value.$ref : undefined
  if (typeof ref !== 'string') return value
  if (!ref.startsWith('#/') || hops > 20) return {}
  const found = ref
    .slice(2)
    .split('/')
    .reduce<unknown>((at, part) => {
      const key = decoded(part).replaceAll('~1', '/').replaceAll('~0', '~')
      // Some write their names into references as they are.
      const name = isObject(at) && !Object.hasOwn(at, key) && Object.hasOwn(at, part) ? part : key
      return isObject(at) && Object.hasOwn(at, name) ? at[name] : undefined
    }, api)
  return resolve(api, found, hops + 1)
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text)
  }
  catch {
    return text
  }
}

function without(of: Untyped, key: string): Untyped {
  const { [key]: _, ...rest } = of
  return rest
}

function finite(value: unknown): number | undefined {
  return typeof value === 'number' && Number.isFinite(value) ? value : undefined
}
function count(value: unknown): number {
  return typeof value === 'number' && value > 0 ? Math.floor(value) : 0
}
function list(value: unknown): unknown[] {
  return Array.isArray(value) ? value : []
}
function plain(value: unknown): string {
  return typeof value === 'string' ? value : value === undefined || value === null ? '' : JSON.stringify(value)
}

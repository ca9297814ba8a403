/** Files from elsewhere: captures, OpenAPI documents, CSV, journeys as text. Good ones become what they mean; bad ones are refused in words. */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { recogniseEncoding, recogniseHeader, recogniseSeparator } from '../../core/formats/csv-recognition'
import { findDynamicValues } from '../../core/formats/dynamic-values'
import { HarError, readHar } from '../../core/formats/har'
import { harToJourney, reviewHar, usualChoices } from '../../core/formats/har-to-journey'
import { printJourney, readJourneyText } from '../../core/formats/journey-text'
import { OpenApiError, openApiToJourney, readOpenApi, reviewOpenApi } from '../../core/formats/openapi'
import { journeyOfUrls, PastedError, readUrls } from '../../core/formats/pasted-urls'
import { isBundle, type BundleStep, type RequestStep } from '../../core/journey/journey'
import { JOURNEY_SCHEMA, TARGET_SCHEMA } from '../../core/journey/schema'
import { problemsOfJourney } from '../../core/journey/problems'
import { NETWORK_SCHEMA } from '../../core/network/schema'
import { PLAN_SCHEMA } from '../../core/plan/schema'
import { BROWSER_JOURNEY, DEMO_JOURNEYS } from '../../demo/scenario'
import { enrolmentJourney } from '../build/enrolment'

interface Entry { url: string, at: number, method?: string, type?: string, text?: string, status?: number, sent?: object, headers?: [string, string][], answerHeaders?: [string, string][], redirectURL?: string, encoding?: string, time?: number }
function har(entries: Entry[]): string {
  return JSON.stringify({ log: { version: '1.2', creator: { name: 'a browser', version: '1' }, pages: [{ id: 'p', title: 'Portal' }], entries: entries.map(e => ({
    startedDateTime: new Date(Date.UTC(2026, 0, 1) + e.at).toISOString(), time: e.time ?? 50, pageref: 'p',
    request: { method: e.method ?? 'GET', url: e.url, headers: (e.headers ?? []).map(([name, value]) => ({ name, value })), ...(e.sent ? { postData: e.sent } : {}) },
    response: { status: e.status ?? 200, headers: (e.answerHeaders ?? []).map(([name, value]) => ({ name, value })), redirectURL: e.redirectURL ?? '', content: { size: e.text?.length ?? 0, mimeType: e.type ?? 'application/json', ...(e.text === undefined ? {} : { text: e.text }), ...(e.encoding ? { encoding: e.encoding } : {}) } },
  })) } })
}
const VISIT: Entry[] = [
  { url: 'https://app.test/start', at: 0, type: 'text/html', status: 302, redirectURL: '/home' },
  { url: 'https://app.test/home', at: 60, type: 'text/html', text: '<input type="hidden" name="form" value="f0rm-778899">', headers: [['cookie', 'a=1'], ['accept', 'text/html'], ['accept-encoding', 'gzip, br, zstd']] },
  { url: 'https://app.test/app.css', at: 130, type: 'text/css', text: 'x' },
  { url: 'https://cdn.other.test/lib.js', at: 140, type: 'application/javascript', text: 'x' },
  { url: 'https://app.test/logo.png', at: 150, type: 'image/png' },
  { url: 'https://app.test/api/session', at: 4200, text: '{"user":{"token":"tok-123456","name":"Ana"}}' },
  { url: 'https://app.test/api/items/item-42?session=tok-123456', at: 4300, headers: [['authorization', 'Bearer tok-123456']], text: '[]' },
  { url: 'https://app.test/api/save', at: 200_000, method: 'POST', sent: { mimeType: 'application/json', text: '{"form":"f0rm-778899","note":"my own text"}' }, text: '{"ok":true,"id":7}' },
  { url: 'wss://app.test/live', at: 200_100 },
]

describe('a browser’s capture (HAR 1.2)', () => {
  const capture = readHar(har(VISIT))
  const choices = usualChoices(capture)
  const { journey, baseUrl, remarks } = harToJourney(capture, choices)
  const steps = journey.round as RequestStep[]

  it('becomes steps in its order: redirects followed, files bundled with their page, other hosts left out', () => {
    expect(baseUrl).toBe('https://app.test')
    expect(choices.hosts).toEqual(['app.test'])
    expect(journey.round.map(s => [s.name, isBundle(s) ? s.requests.map(r => r.url) : s.url])).toEqual([['Portal', '/start'], ['Portal: files', ['/app.css', '/logo.png']], ['session', '/api/session'], ['item-42', '/api/items/item-42'], ['POST save', '/api/save']])
    expect(steps[0]).toMatchObject({ redirects: 10, expect: [{ kind: 'status', allow: '200' }] })
    expect((journey.round[1] as BundleStep).parallel).toBe(6)
    expect(remarks.join()).toContain('a WebSocket is no step')
  })

  it('keeps the pauses of its gaps, capped', () => {
    expect(journey.round.map(s => s.think)).toEqual([{ kind: 'none' }, { kind: 'fixed', ms: 4000 }, { kind: 'none' }, { kind: 'fixed', ms: 60_000 }, { kind: 'fixed', ms: 1000 }])
  })

  it('proposes what was answered and then sent as captures, and puts them where they were sent', () => {
    expect(findDynamicValues(capture.entries).map(v => [v.value, v.from, v.source])).toEqual([['f0rm-778899', 1, { kind: 'between', left: 'form" value="', right: '"' }], ['tok-123456', 5, { kind: 'json', path: '$.user.token' }]])
    expect(steps[0]!.capture).toEqual([{ name: 'form', from: { kind: 'between', left: 'form" value="', right: '"' } }])
    expect(steps[3]).toMatchObject({ query: [['session', '{{session}}']], headers: [['authorization', 'Bearer {{session}}']] })
    expect(steps[4]!.body).toEqual({ kind: 'json', text: '{"form":"{{form}}","note":"my own text"}' })
    expect(problemsOfJourney(journey, { feeds: {}, target: undefined })).toEqual([])
  })

  it('strips what is the client’s business, and asks for no encoding that cannot be unpacked', () => {
    const home = harToJourney(readHar(har([VISIT[1]!])), { ...choices, captures: [] }).journey.round[0] as RequestStep
    expect(home.headers).toEqual([['accept', 'text/html'], ['accept-encoding', 'gzip, br']])
  })

  it('can leave the files out, or keep them as steps; the review says how many requests are left', () => {
    expect(harToJourney(capture, { ...choices, statics: 'drop' }).journey.round).toHaveLength(4)
    expect(harToJourney(capture, { ...choices, statics: 'keep' }).journey.round).toHaveLength(6)
    expect(reviewHar(capture, choices)).toMatchObject({ requests: 8, statics: 3, left: [{ why: 'a WebSocket is no step' }] })
  })

  it('is read with bodies in base64, and without bodies', () => {
    const text = Buffer.from('{"token":"abc-998877"}').toString('base64')
    const read = readHar(har([{ url: 'https://a.test/1', at: 0, text, encoding: 'base64' }, { url: 'https://a.test/2?t=abc-998877', at: 100 }]))
    expect(findDynamicValues(read.entries)[0]!.source).toEqual({ kind: 'json', path: '$.token' })
    expect(read.entries[1]!.text).toBeUndefined()
  })

  it.each([
    ['', 'is not JSON'],
    ['<html>', 'is not JSON'],
    ['{"log":{"entries":[{"request"', 'is cut off'],
    ['{"a":1}', 'no HAR'],
    ['[]', 'no HAR'],
    ['{"log":{"entries":[]}}', 'nothing was recorded'],
    ['{"log":{"entries":[{"request":{"url":"data:x","method":"GET"}}]}}', 'no HTTP request'],
  ])('that is none is refused in words: %s', (text, words) => {
    expect(() => readHar(text)).toThrow(HarError)
    expect(() => readHar(text)).toThrow(words)
  })

  it('never crashes the reader with anything but a HarError, whatever its fields hold', () => {
    const field = fc.oneof(fc.string(), fc.integer(), fc.constant(null), fc.constant(undefined), fc.array(fc.anything({ maxDepth: 1 }), { maxLength: 2 }))
    fc.assert(fc.property(fc.array(fc.record({ startedDateTime: field, time: field, request: fc.oneof(field, fc.record({ method: fc.constantFrom('GET', 'POST', 'X'), url: fc.oneof(fc.webUrl(), field), headers: field, postData: field })), response: fc.oneof(field, fc.record({ status: field, headers: field, content: field, redirectURL: field })) }), { maxLength: 6 }), (entries) => {
      try {
        const read = readHar(JSON.stringify({ log: { entries } }))
        harToJourney(read, usualChoices(read))
      }
      catch (error) { if (!(error instanceof HarError)) throw error }
    }))
  })
})

describe('an OpenAPI document', () => {
  // After the OpenAPI Initiative's own petstore example, shortened; from memory.
  const text = `
openapi: 3.0.3
info: { title: Pets, version: "1" }
servers: [{ url: "https://{host}/v1", variables: { host: { default: pets.test } } }]
paths:
  /pets:
    get:
      summary: List pets
      parameters: [{ name: limit, in: query, required: true, schema: { type: integer, minimum: 5 } }, { name: trace, in: header, schema: { type: string } }]
      responses: { "200": { description: ok } }
    post:
      operationId: createPet
      requestBody: { content: { application/json: { schema: { $ref: "#/components/schemas/Pet" } } } }
      responses: { "201": { description: made } }
  /pets/{petId}:
    parameters: [{ name: petId, in: path, required: true, schema: { type: string }, example: rex 1 }]
    get: { summary: One pet, responses: { 2XX: { description: ok } } }
components:
  schemas:
    Pet: { type: object, properties: { name: { type: string, example: Rex }, tags: { type: array, items: { enum: [small, big] } }, owner: { $ref: "#/components/schemas/Pet" }, id: { type: integer, readOnly: true } } }
`
  it('offers its operations, and makes steps with example values of those chosen, in the order chosen', () => {
    const api = readOpenApi(text)
    expect(reviewOpenApi(api)).toMatchObject({ title: 'Pets', servers: ['https://pets.test/v1'], operations: [{ id: 'GET /pets' }, { id: 'POST /pets', needsBody: true }, { id: 'GET /pets/{petId}' }] })
    const { journey, baseUrl } = openApiToJourney(api, ['GET /pets/{petId}', 'POST /pets', 'GET /pets'])
    const [one, make, list] = journey.round as RequestStep[]
    expect(baseUrl).toBe('https://pets.test/v1')
    expect(one).toMatchObject({ name: 'One pet', url: '/pets/rex%201', expect: [{ kind: 'status', allow: '2xx' }] })
    expect(list).toMatchObject({ query: [['limit', '5']], expect: [{ kind: 'status', allow: '200' }] })
    expect(JSON.parse((make!.body as { text: string }).text)).toMatchObject({ name: 'Rex', tags: ['small'], owner: { name: 'Rex' } })
    expect((make!.body as { text: string }).text).not.toContain('"id"')
    expect(problemsOfJourney(journey, { feeds: {}, target: undefined })).toEqual([])
  })

  it.each([
    ['swagger: "2.0"', 'version 2'],
    ['a: 1', 'is no OpenAPI'],
    ['openapi: 3.0.0\n  bad: [', 'Line'],
    ['openapi: "4.0"', 'version 3 is read'],
  ])('that is none is refused: %s', (bad, words) => {
    expect(() => readOpenApi(bad)).toThrow(OpenApiError)
    expect(() => readOpenApi(bad)).toThrow(words)
  })
})

describe('a CSV (RFC 4180)', () => {
  it('tells its encoding by its mark, or by being valid UTF-8', () => {
    expect(recogniseEncoding(Buffer.from('\ufeffa,b', 'utf16le'))).toBe('utf-16le')
    expect(recogniseEncoding(Buffer.from('Blåbær;1'))).toBe('utf-8')
    expect(recogniseEncoding(Buffer.from('Blåbær;1', 'latin1'))).toBe('windows-1252')
    // A sample may end in the middle of a letter.
    expect(recogniseEncoding(Buffer.from('1234567å').subarray(0, 8))).toBe('utf-8')
  })

  it('tells its separator by what cuts its lines alike, not inside quotes', () => {
    expect(recogniseSeparator('a;b;c\n1,5;2;3\n"x;y";2;3\n')).toBe(';')
    expect(recogniseSeparator('a\tb\n1\t2\n')).toBe('\t')
    expect(recogniseSeparator('name;mail\nAna;a@x\nBo\n')).toBe(';')
    expect(recogniseSeparator('"a,b"\n"c"\n')).toBe(',')
    expect(recogniseHeader([['name', 'mail'], ['Ana', 'a@x']])).toBe(true)
    expect([recogniseHeader([['1', '2']]), recogniseHeader([['a@x.test', 'b']]), recogniseHeader([['a', 'a']])]).toEqual([false, false, false])
  })
})

describe('a journey as text', () => {
  it.each([...DEMO_JOURNEYS, BROWSER_JOURNEY, enrolmentJourney()].map(j => [j.name, j] as const))('goes out and comes back the same: %s', (_, journey) => {
    expect(readJourneyText(printJourney(journey))).toEqual({ ok: true, journey })
    expect(readJourneyText(JSON.stringify(journey))).toEqual({ ok: true, journey })
  })

  it('has its faults told at the line', () => {
    const good = printJourney(DEMO_JOURNEYS[0]!)
    const lineOf = (text: string, part: string) => text.split('\n').findIndex(l => l.includes(part)) + 1
    const misspelt = good.replace('timeoutMs: 10000', 'timeout: 10000')
    const read = readJourneyText(misspelt)
    expect(read.ok === false && read.problems.map(p => [p.line, p.sentence])).toEqual(expect.arrayContaining([[lineOf(misspelt, 'timeout: 10000'), expect.stringContaining('“timeout” that is not known')]]))
    const wrong = good.replace('method: GET', 'method: FETCH')
    const second = readJourneyText(wrong)
    expect(second.ok === false && second.problems[0]).toEqual({ line: lineOf(wrong, 'FETCH'), sentence: expect.stringContaining('must be one of GET, POST') })
    expect(readJourneyText('a: [1')).toMatchObject({ ok: false, problems: [{ line: 1 }] })
    expect(readJourneyText('{"__proto__": {"x": 1}}')).toMatchObject({ ok: false })
  })

  it('follows the schema that is published', () => {
    for (const [name, schema] of Object.entries({ journey: JOURNEY_SCHEMA, target: TARGET_SCHEMA, plan: PLAN_SCHEMA, network: NETWORK_SCHEMA })) expect([name, JSON.parse(readFileSync(join(__dirname, `../../schemas/${name}.schema.json`), 'utf8'))]).toEqual([name, JSON.parse(JSON.stringify(schema))])
  })
})

describe('pasted addresses', () => {
  it('become a journey and a target', () => {
    const { journey, target } = journeyOfUrls(readUrls('see https://shop.test/cart?a=1 and\nshop.test/pay, http://other.test:81/x'))
    expect(target).toMatchObject({ baseUrl: 'https://shop.test', name: 'shop.test' })
    expect((journey.round as RequestStep[]).map(s => [s.name, s.url, s.query])).toEqual([['cart', '/cart', [['a', '1']]], ['pay', '/pay', undefined], ['x', 'http://other.test:81/x', undefined]])
  })
  it('must be there', () => expect(() => readUrls('hello world')).toThrow(PastedError))
})

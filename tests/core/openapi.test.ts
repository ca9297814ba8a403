/** OpenAPI documents become what they mean; bad ones are refused in words. */
import { OpenApiError, openApiToJourney, readOpenApi, reviewOpenApi } from '../../core/formats/openapi'
import type { RequestStep } from '../../core/journey/journey'
import { problemsOfJourney } from '../../core/journey/problems'

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
    expect(reviewOpenApi(api)).toMatchObject({
      title: 'Pets',
      servers: ['https://pets.test/v1'],
      operations: [{ id: 'GET /pets' }, { id: 'POST /pets', needsBody: true }, { id: 'GET /pets/{petId}' }],
    })
    const { journey, baseUrl } = openApiToJourney(api, ['GET /pets/{petId}', 'POST /pets', 'GET /pets'])
    const [one, make, list] = journey.round as RequestStep[]
    expect(baseUrl).toBe('https://pets.test/v1')
    expect(one).toMatchObject({ name: 'One pet', url: '/pets/rex%201', expect: [{ kind: 'status', allow: '2xx' }] })
    expect(list).toMatchObject({ query: [['limit', '5']], expect: [{ kind: 'status', allow: '200' }] })
    expect(JSON.parse((make!.body as { text: string }).text)).toMatchObject({
      name: 'Rex',
      tags: ['small'],
      owner: { name: 'Rex' },
    })
    expect((make!.body as { text: string }).text).not.toContain('"id"')
    expect(problemsOfJourney(journey, { feeds: {}, target: undefined })).toEqual([])
  })

  const apiOf = (parts: string) => readOpenApi(`openapi: 3.1.0\ninfo: { title: T, version: "1" }\n${parts}`)
  const stepOf = (parts: string, id: string) => openApiToJourney(apiOf(parts), [id]).journey.round[0] as RequestStep

  // OpenAPI Specification 3.1.0, section 4.8.12.4 “Style Examples”: color is blue, [blue, black, brown] or {R: 100, G:
  // 200, B: 150}; from memory. Empty values are left out here.
  const ARRAY = '{ type: array, items: { type: string } }, example: [blue, black, brown]'
  const OBJECT = '{ type: object }, example: { R: 100, G: 200, B: 150 }'
  it.each<[string, string, string]>([
    ['simple, false, array', `in: path, style: simple, schema: ${ARRAY}`, 'blue,black,brown'],
    ['simple, false, object', `in: path, schema: ${OBJECT}`, 'R,100,G,200,B,150'],
    ['simple, true, object', `in: path, explode: true, schema: ${OBJECT}`, 'R=100,G=200,B=150'],
    ['label, false, array', `in: path, style: label, schema: ${ARRAY}`, '.blue,black,brown'],
    ['label, true, array', `in: path, style: label, explode: true, schema: ${ARRAY}`, '.blue.black.brown'],
    ['label, true, object', `in: path, style: label, explode: true, schema: ${OBJECT}`, '.R=100.G=200.B=150'],
    ['matrix, false, array', `in: path, style: matrix, schema: ${ARRAY}`, ';color=blue,black,brown'],
    [
      'matrix, true, array',
      `in: path, style: matrix, explode: true, schema: ${ARRAY}`,
      ';color=blue;color=black;color=brown',
    ],
    ['matrix, false, object', `in: path, style: matrix, schema: ${OBJECT}`, ';color=R,100,G,200,B,150'],
    ['matrix, true, object', `in: path, style: matrix, explode: true, schema: ${OBJECT}`, ';R=100;G=200;B=150'],
  ])('writes a parameter into the path by its style: %s', (_, parameter, written) => {
    expect(
      stepOf(
        `paths: { "/{color}": { get: { parameters: [{ name: color, required: true, ${parameter} }] } } }`,
        'GET /{color}',
      ).url,
    ).toBe(`/${written}`)
  })

  it.each<[string, string, [string, string][]]>([
    [
      'form, array (exploded unless it says not)',
      `schema: ${ARRAY}`,
      [
        ['color', 'blue'],
        ['color', 'black'],
        ['color', 'brown'],
      ],
    ],
    ['form, false, array', `explode: false, schema: ${ARRAY}`, [['color', 'blue,black,brown']]],
    [
      'form, true, object',
      `schema: ${OBJECT}`,
      [
        ['R', '100'],
        ['G', '200'],
        ['B', '150'],
      ],
    ],
    ['form, false, object', `explode: false, schema: ${OBJECT}`, [['color', 'R,100,G,200,B,150']]],
    [
      'spaceDelimited, array',
      `style: spaceDelimited, explode: false, schema: ${ARRAY}`,
      [['color', 'blue black brown']],
    ],
    ['pipeDelimited, array', `style: pipeDelimited, explode: false, schema: ${ARRAY}`, [['color', 'blue|black|brown']]],
    [
      'deepObject, object',
      `style: deepObject, explode: true, schema: ${OBJECT}`,
      [
        ['color[R]', '100'],
        ['color[G]', '200'],
        ['color[B]', '150'],
      ],
    ],
  ])('writes a parameter into the query by its style: %s', (_, parameter, query) => {
    expect(
      stepOf(
        `paths: { /c: { get: { parameters: [{ name: color, in: query, required: true, ${parameter} }] } } }`,
        'GET /c',
      ).query,
    ).toEqual(query)
  })

  it('sends cookies, and an operation’s own parameter instead of the one its path shares', () => {
    const step = stepOf(
      'paths: { /c: { parameters: [{ name: n, in: query, required: true, example: shared }, { name: n, in: header, required: true, example: other }], get: { parameters: [{ name: n, in: query, required: true, example: own }, { name: sid, in: cookie, required: true, example: abc }, { name: t, in: cookie, required: true, schema: { type: integer } }] } } }',
      'GET /c',
    )
    expect([step.query, step.headers]).toEqual([
      [['n', 'own']],
      [
        ['n', 'other'],
        ['cookie', 'sid=abc; t=1'],
      ],
    ])
  })

  it.each<[string, string, unknown]>([
    [
      'properties beside allOf',
      '{ allOf: [{ properties: { a: { const: 1 } } }, { $ref: "#/components/schemas/B" }], properties: { c: { const: 3 } } }',
      { a: 1, b: 2, c: 3 },
    ],
    [
      'exclusiveMinimum as a number (3.1)',
      '{ type: object, properties: { i: { type: integer, exclusiveMinimum: 5 }, n: { type: number, exclusiveMinimum: 0, maximum: 1 } } }',
      { i: 6, n: 0.5 },
    ],
    [
      'exclusiveMinimum as a flag (3.0)',
      '{ type: object, properties: { i: { type: integer, minimum: 5, exclusiveMinimum: true } } }',
      { i: 6 },
    ],
    [
      'multipleOf',
      '{ type: object, properties: { i: { type: integer, minimum: 11, multipleOf: 5 }, n: { type: number, minimum: 0.25, multipleOf: 0.1 }, e: { type: integer, exclusiveMinimum: 10, multipleOf: 5 } } }',
      { i: 15, n: 0.3, e: 15 },
    ],
    [
      'a most that is below one',
      '{ type: object, properties: { i: { type: integer, maximum: -3 }, x: { type: integer, exclusiveMaximum: 1 } } }',
      { i: -3, x: 0 },
    ],
    ['what stands beside a reference', '{ $ref: "#/components/schemas/B", example: { b: 7 } }', { b: 7 }],
    [
      'a reference with percent signs',
      '{ type: object, properties: { p: { $ref: "#/components/schemas/A%20b" }, q: { $ref: "#/components/schemas/100%" } } }',
      { p: 'x', q: 'y' },
    ],
  ])('makes values that fit: %s', (_, schema, value) => {
    const step = stepOf(
      `paths: { /b: { post: { requestBody: { content: { application/json: { schema: ${schema} } } } } } }\ncomponents: { schemas: { B: { properties: { b: { const: 2 } } }, "A b": { const: x }, "100%": { const: y } } }`,
      'POST /b',
    )
    expect(JSON.parse((step.body as { text: string }).text)).toEqual(value)
  })

  it('ends schemas that name themselves, five times over, in no time and little', () => {
    const began = performance.now()
    const step = stepOf(
      'paths: { /n: { post: { requestBody: { content: { application/json: { schema: { $ref: "#/components/schemas/Node" } } } } } } }\ncomponents: { schemas: { Node: { type: object, properties: { name: { type: string }, a: { $ref: "#/components/schemas/Node" }, b: { $ref: "#/components/schemas/Node" }, c: { $ref: "#/components/schemas/Node" }, d: { type: array, items: { $ref: "#/components/schemas/Node" } }, e: { allOf: [{ $ref: "#/components/schemas/Node" }] } } } } }',
      'POST /n',
    )
    const inner = { name: 'name', d: [], e: {} }
    expect(JSON.parse((step.body as { text: string }).text)).toEqual({
      name: 'name',
      a: inner,
      b: inner,
      c: inner,
      d: [inner],
      e: inner,
    })
    expect(performance.now() - began).toBeLessThan(500)
  })

  it('writes XML bodies as the schema says (OpenAPI 3.1, XML Object)', () => {
    const step = stepOf(
      'paths: { /x: { post: { requestBody: { content: { application/xml: { schema: { $ref: "#/components/schemas/Person" } } } } } } }\ncomponents: { schemas: { Person: { type: object, properties: { id: { type: integer, xml: { attribute: true } }, name: { example: "A & B", xml: { namespace: "http://example.com/schema/sample", prefix: sample } }, animals: { type: array, items: { type: string, example: cat, xml: { name: animal } }, xml: { name: aliens, wrapped: true } }, tags: { type: array, items: { type: string, example: t } } } } } }',
      'POST /x',
    )
    expect(step.body).toEqual({
      kind: 'raw',
      type: 'application/xml',
      text: '<Person id="1"><sample:name xmlns:sample="http://example.com/schema/sample">A &amp; B</sample:name><aliens><animal>cat</animal></aliens><tags>t</tags></Person>',
    })
  })

  it('asks where it stands when its server is relative, has a variable nobody sets, or is not named at all', () => {
    const asks = (servers: string) => {
      const { asksForServer, servers: all } = reviewOpenApi(apiOf(`${servers}\npaths: {}`))
      return [all[0], asksForServer]
    }
    expect(asks('servers: [{ url: /v2 }]')).toEqual(['/v2', true])
    expect(asks('servers: [{ url: "https://{tenant}.test", variables: { tenant: { description: yours } } }]')).toEqual([
      'https://{tenant}.test',
      true,
    ])
    expect(asks('servers: [{ url: "https://{stage}.test", variables: { stage: { enum: [eu, us] } } }]')).toEqual([
      'https://eu.test',
      false,
    ])
    expect(asks('')).toEqual(['/', true])
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

/** The API with wrong input: every route says what is wrong and what to do, changes nothing, and goes on answering. */
import { readFileSync } from 'node:fs'
import type { JourneyLine, JourneyView } from '../../api/views'
import type { Target } from '../../core/journey/target'
import { DEMO_JOURNEYS, DEMO_PLAN, PORTAL_ID } from '../../demo/scenario'
import { House } from '../build/house'

let house: House
beforeAll(async () => {
  house = await House.build({ plans: { demo: DEMO_PLAN }, journeys: DEMO_JOURNEYS })
}, 60_000)
afterAll(() => house?.close(), 20_000)
const target = (over: object = {}) => ({
  id: 'x',
  name: 'X',
  environment: 'test',
  baseUrl: 'http://127.0.0.1:9',
  ...over,
})
const browse = DEMO_JOURNEYS[0]!

describe('a request that cannot be carried out', () => {
  it.each<[string, string, string, object | undefined, number, string]>([
    ['an unknown journey', 'GET', 'journeys/nope', undefined, 404, 'There is no journey nope.'],
    [
      'an unknown version',
      'GET',
      'journeys/browse?version=9',
      undefined,
      404,
      'There is no version 9 of journey browse.',
    ],
    ['a journey without a round', 'POST', 'journeys', { journey: { ...browse, round: undefined } }, 400, 'round'],
    [
      'a journey with a field nobody knows',
      'PUT',
      'journeys/browse',
      { onVersion: 1, journey: { ...browse, colour: 'red' } },
      400,
      '“colour”',
    ],
    [
      'a step with a method nobody knows',
      'POST',
      'journeys',
      { journey: { ...browse, round: [{ ...(browse as { round: object[] }).round[0], method: 'FETCH' }] } },
      400,
      'method',
    ],
    [
      'a save on an old version',
      'PUT',
      'journeys/browse',
      { onVersion: 0, journey: browse },
      409,
      'saved by somebody else',
    ],
    ['removing what is walked', 'POST', 'journeys/browse/remove', {}, 409, 'is walked in Enrolment morning'],
    [
      'a try against an unknown target',
      'POST',
      'journeys/try',
      { journey: browse, targetId: 'nope' },
      404,
      'There is no target nope.',
    ],
    [
      'a try on an unknown generator',
      'POST',
      'journeys/try',
      { journey: browse, targetId: PORTAL_ID, machineId: 'nope' },
      404,
      'connected now',
    ],
    [
      'a target with no address',
      'POST',
      'targets',
      { target: target({ baseUrl: 'portal' }) },
      400,
      'is no address of a target',
    ],
    [
      'an approval without hosts',
      'POST',
      'targets',
      { target: target({ approval: { hosts: [], mostUsers: 1, until: '2999-01-01T00:00:00Z', contact: 'x' } }) },
      400,
      'hosts',
    ],
    [
      'a secret with a name no text could write',
      'POST',
      'targets',
      { target: target(), secrets: { 'a b': '1' } },
      400,
      'secrets',
    ],
    ['removing a target in use', 'POST', `targets/${PORTAL_ID}/remove`, {}, 409, 'is that of Enrolment morning'],
    [
      'a feed of a file that is not there',
      'POST',
      'feeds',
      { file: 'a'.repeat(64), name: 'x' },
      404,
      'is not here any more',
    ],
    ['a file by a name', 'POST', 'feeds', { file: '../../etc/passwd', name: 'x' }, 400, 'file'],
    ['a capture that is not there', 'POST', 'imports/har', { file: 'b'.repeat(64) }, 404, 'Upload it again.'],
    [
      'an OpenAPI document that is not there',
      'POST',
      'imports/openapi',
      { file: 'c'.repeat(64) },
      404,
      'Upload it again.',
    ],
    ['addresses that are none', 'POST', 'imports/urls', { text: 'hello' }, 400, 'no address'],
    ['exemplars of an unknown run', 'GET', 'runs/99/exemplars', undefined, 404, 'There is no run 99.'],
    ['exemplars in no number', 'GET', 'runs/1/exemplars?most=x', undefined, 400, 'most is “x”'],
    ['a window of no seconds', 'GET', 'runs/1/window?from=a&to=b', undefined, 400, 'from is “a”, which is not a second'],
    ['a window of nothing', 'GET', 'runs/1/window?from=1', undefined, 400, 'to is missing.'],
    ['a window of no run', 'GET', 'runs/1/window?from=0&to=1', undefined, 404, 'There is no run 1.'],
    ...['plans', 'journeys'].map((kind): [string, string, string, undefined, number, string] => [
      `an id of ${kind} that is no text`,
      'GET',
      `${kind}/%E0%A4%A`,
      undefined,
      404,
      'percent signs',
    ]),
    ['an address the API does not have', 'GET', 'nothing/here', undefined, 404, 'The API has no GET /api/nothing/here'],
    ['a method it does not have', 'POST', 'meter', {}, 404, 'The API has no POST /api/meter'],
    ['a version that is no number', 'GET', 'journeys/browse?version=x', undefined, 400, 'version is “x”, which is not the number of a version'],
    ['a run again that is none', 'GET', 'runs/99/again', undefined, 404, 'There is no run 99.'],
    ['a run that is no number', 'GET', 'runs/abc/exemplars', undefined, 404, '“abc” is not the number of a run'],
  ])('%s is refused in words', async (_, method, path, body, status, words) => {
    const answer = await fetch(`${house.url}/api/${path}`, {
      method,
      ...(body ? { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) } : {}),
    })
    const text = await answer.text()
    expect([answer.status, text.includes(words) ? words : text]).toEqual([status, words])
    expect(JSON.parse(text)).toMatchObject({
      code: expect.any(String),
      sentence: expect.any(String),
      remedy: expect.any(String),
    })
  })

  it('leaves everything as it was', async () => {
    expect((await house.get<JourneyLine[]>('journeys')).map(j => `${j.id} ${j.version} ${j.problems}`).sort()).toEqual(
      DEMO_JOURNEYS.map(j => `${j.id} 1 0`).sort(),
    )
    expect((await house.get<Target[]>('targets')).map(t => t.id)).toEqual([PORTAL_ID])
    expect(house.said).toBe('')
  })
})

describe('the API', () => {
  it('describes itself, and stands where it says', async () => {
    const answer = await fetch(`${house.url}/api/openapi.json`)
    expect([answer.status, answer.headers.get('content-type')]).toEqual([200, 'application/json'])
    type Operation = { parameters?: { required?: boolean }[] }
    type Described = { openapi: string, paths: Record<string, Record<string, Operation>> }
    const { openapi, paths } = (await answer.json()) as Described
    expect(openapi).toMatch(/^3\.1\./)
    // Whatever changes nothing and needs to be told nothing answers at its address; what a link opens, to those who
    // have one.
    const isPlain = ({ parameters = [] }: Operation) => !parameters.some(p => p.required)
    const plain = Object.keys(paths).filter((path) => {
      const { get } = paths[path]!
      return get && isPlain(get) && !path.startsWith('/me/') && !path.startsWith('/shared')
    })
    expect(plain.length).toBeGreaterThan(15)
    for (const path of plain) expect([path, (await fetch(`${house.url}/api${path}`)).status]).toEqual([path, 200])
  })
})

describe('uploads', () => {
  it('want their own content type, and are refused empty', async () => {
    const send = (type: string, body: string) =>
      fetch(`${house.url}/api/files?name=a`, { method: 'POST', headers: { 'content-type': type }, body })
    expect((await send('text/plain', 'x')).status).toBe(415)
    expect(await (await send('application/octet-stream', '')).json()).toMatchObject({ code: 'empty' })
    expect(await (await send('application/octet-stream', 'hello')).json()).toMatchObject({ bytes: 5, name: 'a' })
  })

  it('that are no captures are refused by what they are', async () => {
    const api = await house.upload(Buffer.from('a: 1'), 'api.yaml')
    expect((await house.post('imports/openapi', { file: api })).body).toMatchObject({
      code: 'import',
      sentence: expect.stringContaining('is no OpenAPI'),
    })
    for (const [text, words] of [
      ['{"log":{"entries":[{', 'cut off'],
      ['{"a":1}', 'no HAR'],
      ['PNG', 'not JSON'],
    ] as const) {
      const file = await house.upload(Buffer.from(text), 'x.har')
      const { status, body } = await house.post('imports/har', { file })
      expect([status, String(body.sentence)]).toEqual([400, expect.stringContaining(words)])
    }
  })
})

describe('a journey', () => {
  it('goes out as YAML and comes in again; what is read is checked with its lines', async () => {
    const text = await (await fetch(`${house.url}/api/journeys/enrol/text`)).text()
    const { body } = await house.post('journeys/read', { text })
    expect(body).toEqual({ ok: true, journey: DEMO_JOURNEYS[1] })
    expect((await house.post('journeys/read', { text: text.replace('kind: http', 'kind: ftp') })).body).toMatchObject({
      ok: false,
      problems: [{ line: 2 }],
    })
  })

  it('is checked against a target: values it does not have are found at their field', async () => {
    const journey = { ...browse, round: [{ ...(browse as { round: object[] }).round[0], url: '/{{target.nope}}' }] }
    const { body } = await house.post('journeys/check', { journey, targetId: PORTAL_ID })
    expect(body).toMatchObject([
      { at: 'round/0/url', sentence: expect.stringContaining('The target has no value “nope”') },
    ])
    expect((await house.post('journeys/check', { journey })).body).toEqual([])
  })

  it('keeps its history, and each version can be seen again', async () => {
    const { body } = await house.post(
      'journeys/approve',
      { onVersion: 1, journey: { ...DEMO_JOURNEYS[2], name: 'Adviser nods' } },
      'PUT',
    )
    expect(body).toMatchObject({ version: 2 })
    const view = await house.get<JourneyView>('journeys/approve?version=1')
    expect([view.journey.name, view.history.map(h => h.version)]).toEqual(['Adviser approves', [2, 1]])
  })

  it('is never tried against what is not approved, nor after the approval is over', async () => {
    await house.post('targets', {
      target: target({
        name: 'Over',
        approval: { hosts: ['127.0.0.1:9'], mostUsers: 1, until: '2020-01-01T00:00:00Z', contact: 'its owner' },
      }),
    })
    expect((await house.post('journeys/try', { journey: browse, targetId: 'over' })).body).toMatchObject({
      code: 'approval-over',
      remedy: 'Ask its owner to extend it.',
    })
    // Vornak itself cannot be approved, by any route.
    expect(
      (
        await house.post('targets', {
          target: target({
            name: 'Self',
            approval: { hosts: [new URL(house.url).host], mostUsers: 1, until: '2999-01-01T00:00:00Z', contact: 'x' },
          }),
        })
      ).body,
    ).toMatchObject({ code: 'own-host' })
  })

  it('whose secrets were sealed with another key says so, and nothing starts', async () => {
    const targets = await house.get<Target[]>('targets')
    expect(
      (
        await house.post(
          `targets/${PORTAL_ID}`,
          { target: targets.find(t => t.id === PORTAL_ID), secrets: { password: 'x' } },
          'PUT',
        )
      ).status,
    ).toBe(200)
    const key = `${house.folder}.key`
    expect(readFileSync(key, 'utf8')).toMatch(/^[0-9a-f]{64}\n$/)
    await house.kill('vornak')
    const { writeFileSync } = await import('node:fs')
    writeFileSync(key, `${'0'.repeat(64)}\n`)
    await house.startVornak()
    expect((await house.post('journeys/try', { journey: browse, targetId: PORTAL_ID })).body).toMatchObject({
      code: 'sealed',
      sentence: expect.stringContaining('sealed with another key'),
    })
    expect((await house.post('plans/demo/start')).body).toMatchObject({ code: 'sealed' })
  }, 40_000)
})

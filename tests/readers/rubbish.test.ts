/**
 * Every reader of what comes from outside, with thousands of things that are almost right, made by a seed: each is
 * read, or refused in words; nothing breaks, and what was read can be written and read again as the same.
 */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { readFeed } from '../../control/imports/read-feed'
import { FileError } from '../../control/imports/text-of-file'
import { HarError } from '../../core/formats/har'
import { readHarFile } from '../../core/formats/har-file'
import { harToJourney, reviewHar, usualChoices } from '../../core/formats/har-to-journey'
import { printJourney, readJourneyText } from '../../core/formats/journey-text'
import { OpenApiError, openApiToJourney, readOpenApi, reviewOpenApi } from '../../core/formats/openapi'
import { PastedError, readUrls } from '../../core/formats/pasted-urls'
import { printPlan, readPlanText } from '../../core/formats/plan-text'
import { BytesError } from '../../core/histogram/varint'
import { SeriesSum } from '../../core/merge/series-sum'
import { problemsOfJourney } from '../../core/journey/problems'
import { DEMO_JOURNEYS, DEMO_PLAN } from '../../demo/scenario'
import { addEntries, openFrame } from '../../protocol/frame'
import { MessageError, readFromGenerator, readToGenerator } from '../../protocol/messages'
import { ownFolder } from '../build/folder'
import { framesOf } from '../build/frames'
import { Mutator } from '../build/mutated'

const folder = ownFolder()
const SEED = Number(process.env.VORNAK_SEED ?? 20_261_128)
/** Of each kind; with the API’s it makes five thousand, and twenty thousand for `npm run measure`. */
const EACH = process.env.VORNAK_CASES === undefined ? 600 : 2400

type Refusals = readonly (abstract new (...of: never[]) => Error)[]

/** @returns what was read; undefined: refused as it should be */
function read<T>(what: unknown, reader: () => T, refusals: Refusals): T | undefined {
  try {
    return reader()
  }
  catch (error) {
    if (refusals.some(kind => error instanceof kind)) return undefined
    throw new Error(`${(error as Error).stack}\nof ${JSON.stringify(what)?.slice(0, 4000)}`, { cause: error })
  }
}

const HAR = JSON.stringify({
  log: {
    version: '1.2',
    creator: { name: 'a browser', version: '1' },
    pages: [{ id: 'p', title: 'Portal' }],
    entries: ['start?form=f0rm-778899', 'api/session', 'api/items/item-42?session=tok-123456', 'app.css'].map((path, i) => ({
      startedDateTime: new Date(Date.UTC(2026, 0, 1) + i * 4000).toISOString(),
      time: 50,
      pageref: 'p',
      request: {
        method: i === 2 ? 'POST' : 'GET',
        url: `https://app.test/${path}`,
        headers: [{ name: 'authorization', value: 'Bearer tok-123456' }],
        ...(i === 2 ? { postData: { mimeType: 'application/json', text: '{"form":"f0rm-778899"}' } } : {}),
      },
      response: {
        status: 200,
        headers: [],
        redirectURL: '',
        content: {
          size: 9,
          mimeType: i === 0 ? 'text/html' : 'application/json',
          text: i === 0 ? '<input type="hidden" name="form" value="f0rm-778899">' : '{"user":{"token":"tok-123456"}}',
        },
      },
    })),
  },
})

const OPEN_API = `openapi: 3.0.3
info: { title: Pets, version: "1" }
servers: [{ url: "https://{host}/v1", variables: { host: { default: pets.test } } }]
paths:
  /pets:
    get:
      parameters: [{ name: limit, in: query, required: true, schema: { type: integer, minimum: 5 } }]
      responses: { "200": { description: ok } }
    post:
      operationId: createPet
      requestBody: { content: { application/json: { schema: { $ref: "#/components/schemas/Pet" } } } }
      responses: { "201": { description: made } }
components:
  schemas:
    Pet: { type: object, properties: { name: { type: string, example: Rex }, owner: { $ref: "#/components/schemas/Pet" } } }
`

const MESSAGES = [
  { kind: 'enrol', token: 'x'.repeat(40) },
  { kind: 'beatReply', t1: 1, t2: 2, t3: 3 },
  { kind: 'want', file: 'a'.repeat(64), from: 0, to: 9 },
  { kind: 'exemplars', runId: '7', incarnation: 1, batch: 1, records: [], passes: [], dropped: 0 },
  { kind: 'broughtBack', runId: '7', group: 'A', name: 'a.txt', from: 0, base64: '', last: true },
  { kind: 'go', runId: '7', startAt: 12.5 },
  { kind: 'release', reason: 'x' },
]

type Found<T> = { ok: true, value: T } | { ok: false, problems: { line: number, sentence: string }[] }

function textsOf<T>(
  valid: string,
  reader: (text: string) => Found<T>,
  print: (value: T) => string,
  seed: number,
): void {
  const m = new Mutator(seed)
  const whole = reader(valid)
  if (!whole.ok) throw new Error(JSON.stringify(whole.problems))
  for (let i = 0; i < EACH; i++) {
    const text = m.below(2) ? print(m.json(whole.value) as T) : m.text(valid)
    const found = read(text, () => reader(text), [])!
    if (found.ok) {
      expect([text.slice(0, 2000), reader(print(found.value))]).toEqual([text.slice(0, 2000), found])
    }
    else {
      expect(found.problems.length).toBeGreaterThan(0)
      for (const { line, sentence } of found.problems) expect([line >= 1, sentence.length > 3]).toEqual([true, true])
    }
  }
}

describe('almost right', () => {
  it('messages are read, or refused', () => {
    const m = new Mutator(SEED)
    for (let i = 0; i < EACH; i++) {
      const valid = m.one(MESSAGES)
      const json = m.below(2) ? JSON.stringify(m.json(valid)) : m.text(JSON.stringify(valid))
      for (const reader of [readToGenerator, readFromGenerator]) read(json, () => reader(json), [MessageError])
    }
  })

  it('frames are refused: a sum stands over every byte', () => {
    const m = new Mutator(SEED + 1)
    const frames = framesOf(Array.from({ length: 40 }, (_, i) => ({ series: i % 3, startS: i % 7, ms: 10 * i + 1 })))
    let taken = 0
    for (let i = 0; i < EACH; i++) {
      const { bytes: valid } = m.one(frames)
      const bytes = m.bytes(valid)
      const opened = read(bytes, () => {
        const frame = openFrame(bytes)
        addEntries(frame, () => new SeriesSum(), () => true)
        return frame
      }, [BytesError])
      // What came out as it was is no rubbish.
      if (opened && Buffer.compare(bytes, valid) !== 0) taken++
    }
    expect(taken).toBe(0)
  })

  it('plans are read as what they say, or refused at a line', () => {
    const read = (text: string) => {
      const found = readPlanText(text)
      return found.ok ? { ok: true, value: found.plan } as const : found
    }
    textsOf(printPlan(DEMO_PLAN), read, printPlan, SEED + 2)
  })

  it('journeys are read as what they say, or refused at a line', () => {
    const read = (text: string) => {
      const found = readJourneyText(text)
      return found.ok ? { ok: true, value: found.journey } as const : found
    }
    const texts = DEMO_JOURNEYS.map(printJourney).sort((a, b) => b.length - a.length)
    textsOf(texts[0]!, read, printJourney, SEED + 3)
  })

  it('captures become journeys that can be walked, or are refused', () => {
    const m = new Mutator(SEED + 4)
    for (let i = 0; i < EACH; i++) {
      const text = m.below(2) ? JSON.stringify(m.json(JSON.parse(HAR))) : m.text(HAR)
      read(text, () => {
        const capture = readHarFile(new TextEncoder().encode(text))
        const choices = usualChoices(capture)
        reviewHar(capture, choices)
        const { journey } = harToJourney(capture, choices)
        problemsOfJourney(journey, { feeds: {}, target: undefined })
      }, [HarError])
    }
  })

  it('descriptions of APIs offer operations, or are refused', () => {
    const m = new Mutator(SEED + 5)
    for (let i = 0; i < EACH; i++) {
      const text = m.text(OPEN_API)
      read(text, () => {
        const api = readOpenApi(text)
        const { operations } = reviewOpenApi(api)
        openApiToJourney(api, operations.map(o => o.id))
      }, [OpenApiError])
    }
  })

  it('addresses are found, or refused', () => {
    const m = new Mutator(SEED + 6)
    for (let i = 0; i < EACH; i++) {
      const text = m.text('https://app.test/a?b=c\nhttp://127.0.0.1:4710/timetable\n- https://app.test/ü "x"\n')
      read(text, () => readUrls(text), [PastedError])
    }
  })

  it('tables become feeds, or are refused', async () => {
    const m = new Mutator(SEED + 7)
    const valid = new TextEncoder().encode('name;city;age\nÅse;"Bø, i Telemark";31\n"Jo ""J""";Åmot;7\n')
    for (let i = 0; i < EACH / 4; i++) {
      const bytes = m.bytes(valid)
      const from = join(folder, 'in.csv')
      writeFileSync(from, bytes)
      try {
        const feed = await readFeed(from, join(folder, 'rows'), {})
        expect(feed.columns.length).toBeGreaterThan(0)
      }
      catch (error) {
        if (!(error instanceof FileError)) throw new Error(`${(error as Error).stack}\nof ${JSON.stringify([...bytes])}`, { cause: error })
      }
    }
  })
})

/** Captures of browsers become what they mean; bad ones are refused in words. Outside check: HAR 1.2. */
import fc from 'fast-check'
import { findDynamicValues } from '../../core/formats/dynamic-values'
import { strToU8, zipSync } from 'fflate'
import { HarError, readHar } from '../../core/formats/har'
import { readHarFile } from '../../core/formats/har-file'
import { compileTemplate } from '../../core/values/template'
import { harToJourney, reviewHar, usualChoices } from '../../core/formats/har-to-journey'
import { isBundle, type BundleStep, type RequestStep } from '../../core/journey/journey'
import { problemsOfJourney } from '../../core/journey/problems'

interface Entry {
  url: string
  at: number
  method?: string
  type?: string
  text?: string
  status?: number
  sent?: object
  headers?: [string, string][]
  answerHeaders?: [string, string][]
  redirectURL?: string
  encoding?: string
  time?: number
}
function har(entries: Entry[]): string {
  return JSON.stringify({
    log: {
      version: '1.2',
      creator: { name: 'a browser', version: '1' },
      pages: [{ id: 'p', title: 'Portal' }],
      entries: entries.map(e => ({
        startedDateTime: new Date(Date.UTC(2026, 0, 1) + e.at).toISOString(),
        time: e.time ?? 50,
        pageref: 'p',
        request: {
          method: e.method ?? 'GET',
          url: e.url,
          headers: (e.headers ?? []).map(([name, value]) => ({ name, value })),
          ...(e.sent ? { postData: e.sent } : {}),
        },
        response: {
          status: e.status ?? 200,
          headers: (e.answerHeaders ?? []).map(([name, value]) => ({ name, value })),
          redirectURL: e.redirectURL ?? '',
          content: {
            size: e.text?.length ?? 0,
            mimeType: e.type ?? 'application/json',
            ...(e.text === undefined ? {} : { text: e.text }),
            ...(e.encoding ? { encoding: e.encoding } : {}),
          },
        },
      })),
    },
  })
}
const VISIT: Entry[] = [
  { url: 'https://app.test/start', at: 0, type: 'text/html', status: 302, redirectURL: '/home' },
  {
    url: 'https://app.test/home',
    at: 60,
    type: 'text/html',
    text: '<input type="hidden" name="form" value="f0rm-778899">',
    headers: [
      ['cookie', 'a=1'],
      ['accept', 'text/html'],
      ['accept-encoding', 'gzip, br, zstd'],
    ],
  },
  { url: 'https://app.test/app.css', at: 130, type: 'text/css', text: 'x' },
  { url: 'https://cdn.other.test/lib.js', at: 140, type: 'application/javascript', text: 'x' },
  { url: 'https://app.test/logo.png', at: 150, type: 'image/png' },
  { url: 'https://app.test/api/session', at: 4200, text: '{"user":{"token":"tok-123456","name":"Ana"}}' },
  {
    url: 'https://app.test/api/items/item-42?session=tok-123456',
    at: 4300,
    headers: [['authorization', 'Bearer tok-123456']],
    text: '[]',
  },
  {
    url: 'https://app.test/api/save',
    at: 200_000,
    method: 'POST',
    sent: { mimeType: 'application/json', text: '{"form":"f0rm-778899","note":"my own text"}' },
    text: '{"ok":true,"id":7}',
  },
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
    expect(journey.round.map(s => [s.name, isBundle(s) ? s.requests.map(r => r.url) : s.url])).toEqual([
      ['Portal', '/start'],
      ['Portal: files', ['/app.css', '/logo.png']],
      ['session', '/api/session'],
      ['item-42', '/api/items/item-42'],
      ['POST save', '/api/save'],
    ])
    expect(steps[0]).toMatchObject({ redirects: 10, expect: [{ kind: 'status', allow: '200' }] })
    expect((journey.round[1] as BundleStep).parallel).toBe(6)
    expect(remarks.join()).toContain('a WebSocket is no step')
  })

  it('keeps the pauses of its gaps, capped', () => {
    expect(journey.round.map(s => s.think)).toEqual([
      { kind: 'none' },
      { kind: 'fixed', ms: 4000 },
      { kind: 'none' },
      { kind: 'fixed', ms: 60_000 },
      { kind: 'fixed', ms: 1000 },
    ])
  })

  it('proposes what was answered and then sent as captures, and puts them where they were sent', () => {
    expect(findDynamicValues(capture.entries).values.map(v => [v.value, v.from, v.source])).toEqual([
      ['f0rm-778899', 1, { kind: 'between', left: 'form" value="', right: '"' }],
      ['tok-123456', 5, { kind: 'json', path: '$.user.token' }],
    ])
    expect(steps[0]!.capture).toEqual([{ name: 'form', from: { kind: 'between', left: 'form" value="', right: '"' } }])
    expect(steps[3]).toMatchObject({
      query: [['session', '{{session}}']],
      headers: [['authorization', 'Bearer {{session}}']],
    })
    expect(steps[4]!.body).toEqual({ kind: 'json', text: '{"form":"{{form}}","note":"my own text"}' })
    expect(problemsOfJourney(journey, { feeds: {}, target: undefined })).toEqual([])
  })

  it('strips what is the client’s business, and asks for no encoding that cannot be unpacked', () => {
    const home = harToJourney(readHar(har([VISIT[1]!])), { ...choices, captures: [] }).journey.round[0] as RequestStep
    expect(home.headers).toEqual([
      ['accept', 'text/html'],
      ['accept-encoding', 'gzip, br'],
    ])
  })

  const madeOf = (
    entries: Entry[],
    over: Partial<ReturnType<typeof usualChoices>> = {},
    attached?: (name: string) => Uint8Array | undefined,
  ) => {
    const read = readHar(har(entries), attached)
    const made = harToJourney(read, { ...usualChoices(read), ...over })
    return {
      ...made,
      steps: made.journey.round as RequestStep[],
      review: reviewHar(read, { ...usualChoices(read), ...over }),
    }
  }
  const form = (text: string, params?: object[]) => ({
    mimeType: 'application/x-www-form-urlencoded',
    text,
    ...(params ? { params } : {}),
  })

  it('sends form fields as they were: decoded once, whatever stands in them', () => {
    // A browser’s text is encoded; a list of fields, where there is no text, says what they mean.
    const { steps } = madeOf([
      {
        url: 'https://a.test/in',
        at: 0,
        method: 'POST',
        sent: form('note=a%2Bb%2541&x=1+2', [
          { name: 'note', value: 'a+b%41' },
          { name: 'x', value: '1 2' },
        ]),
      },
      { url: 'https://a.test/in2', at: 100, method: 'POST', sent: form('', [{ name: 'note', value: 'a+b%41' }]) },
    ])
    expect(steps.map(s => s.body)).toEqual([
      {
        kind: 'form',
        fields: [
          ['note', 'a+b%41'],
          ['x', '1 2'],
        ],
      },
      { kind: 'form', fields: [['note', 'a+b%41']] },
    ])
  })

  it('puts captures where they are words of their own, never inside longer ones, and leaves the site’s own braces alone', () => {
    const { steps, journey: made } = madeOf([
      { url: 'https://a.test/cart', at: 0, text: '{"cart":"123456"}' },
      {
        url: 'https://a.test/c/123456?z=5551234562&y=a-123456',
        at: 100,
        method: 'POST',
        sent: {
          mimeType: 'application/json',
          text: '{"cart":"123456","tel":"5551234562","tpl":"{{user}} has {{{n}}}"}',
        },
      },
    ])
    expect(steps[1]).toMatchObject({
      url: '/c/{{c}}',
      query: [
        ['z', '5551234562'],
        ['y', 'a-{{c}}'],
      ],
    })
    const { text } = steps[1]!.body as { text: string }
    expect(
      compileTemplate<object>(
        text,
        () => ({ fixed: '123456' }),
        v => v,
      ).fixed,
    ).toBe('{"cart":"123456","tel":"5551234562","tpl":"{{user}} has {{{n}}}"}')
    expect(problemsOfJourney(made, { feeds: {}, target: undefined })).toEqual([])
  })

  it('is read with bodies that lie in files beside it, from one zip; without them it says what is lacking', () => {
    const entries = JSON.parse(
      har([
        { url: 'https://a.test/1', at: 0 },
        { url: 'https://a.test/2?t=abc-998877', at: 100 },
      ]),
    ) as { log: { entries: { response: { content: Record<string, unknown> } }[] } }
    Object.assign(entries.log.entries[0]!.response.content, { _file: 'f1.json' })
    const text = JSON.stringify(entries)
    const zipped = readHarFile(
      zipSync({ 'x/trace.har': strToU8(text), 'x/f1.json': strToU8('{"token":"abc-998877"}') }),
    )
    expect([zipped.lacks, findDynamicValues(zipped.entries).values.map(v => v.source)]).toEqual([
      [],
      [{ kind: 'json', path: '$.token' }],
    ])
    const alone = readHar(text)
    expect(harToJourney(alone, usualChoices(alone)).remarks).toEqual([
      expect.stringContaining('1 body lies in a file beside the capture'),
    ])
    expect(() => readHarFile(zipSync({ 'readme.txt': strToU8('x') }))).toThrow('holds no capture')
    expect(() => readHarFile(Uint8Array.of(0x50, 0x4b, 3, 4, 1, 2))).toThrow('cannot be opened')
  })

  it('makes multipart forms anew: no stale boundary, fields from the body where it is there, and a word where it is not', () => {
    const type = 'multipart/form-data; boundary=XyZ'
    const headers: [string, string][] = [['content-type', type]]
    const body =
      '--XyZ\r\nContent-Disposition: form-data; name="a"\r\n\r\none\r\n--XyZ\r\nContent-Disposition: form-data; name="f"; filename="x.png"\r\nContent-Type: image/png\r\n\r\nPNG\r\n--XyZ--\r\n'
    const { steps, remarks: said } = madeOf([
      { url: 'https://a.test/up', at: 0, method: 'POST', headers, sent: { mimeType: type, text: body } },
      { url: 'https://a.test/lost', at: 100, method: 'POST', headers },
    ])
    expect(steps.map(s => [s.headers, s.body])).toEqual([
      [undefined, { kind: 'multipart', parts: [{ name: 'a', text: 'one' }] }],
      [undefined, { kind: 'multipart', parts: [] }],
    ])
    expect(said).toEqual(
      expect.arrayContaining([
        expect.stringContaining('POST /up: the boundary of its form is made anew'),
        expect.stringContaining('the file x.png'),
        expect.stringContaining('POST /lost: the parts of its form are not in the capture'),
      ]),
    )
  })

  it.each<[string, Partial<Entry>, Partial<Entry>, object]>([
    [
      'a hidden field without quotes',
      { type: 'text/html', text: '<input type=hidden name=t value=unq-778899>' },
      { url: 'https://a.test/2?t=unq-778899' },
      { kind: 'between', right: '>' },
    ],
    [
      'a value with colons and bars',
      { type: 'text/html', text: '<i data-k="7:ab|99:x">' },
      { url: 'https://a.test/2?k=7:ab|99:x' },
      { kind: 'between' },
    ],
    [
      'a token of other letters',
      { type: 'text/html', text: '<b id="søk-ørsta">' },
      { url: 'https://a.test/2?q=s%C3%B8k-%C3%B8rsta' },
      { kind: 'between' },
    ],
    [
      'a JSON text with escapes',
      { text: '{"u":"\\u00e5bc-1234\\/5"}' },
      { url: 'https://a.test/2?u=%C3%A5bc-1234%2F5' },
      { kind: 'json', path: '$.u' },
    ],
    [
      'an id in an address of the page',
      { type: 'text/html', text: '<a href="?order=4711-08-x&amp;p=1">' },
      { url: 'https://a.test/2?order=4711-08-x' },
      { kind: 'between' },
    ],
    [
      'an id in the path of a Location',
      { status: 201, answerHeaders: [['Location', '/orders/ord-778899/']] },
      { url: 'https://a.test/orders/ord-778899' },
      { kind: 'header', name: 'location', left: '/orders/', right: '/' },
    ],
    [
      'a cookie sent as a header',
      { answerHeaders: [['Set-Cookie', 'csrf=c5rf-778899; Path=/']] },
      { url: 'https://a.test/2', headers: [['x-csrf', 'c5rf-778899']] },
      { kind: 'cookie', name: 'csrf' },
    ],
  ])('finds %s', (_, answered, sent, source) => {
    const { values } = findDynamicValues(
      readHar(
        har([
          { url: 'https://a.test/1', at: 0, ...answered },
          { url: 'https://a.test/2', at: 100, ...sent },
        ]),
      ).entries,
    )
    expect(values).toEqual([expect.objectContaining({ from: 0, sentIn: [1], source: expect.objectContaining(source) })])
  })

  it('does not follow a redirect whose Location it needs, and says what it found but cannot take', () => {
    const { steps } = madeOf([
      {
        url: 'https://a.test/new',
        at: 0,
        method: 'POST',
        status: 303,
        redirectURL: '/orders/ord-778899',
        answerHeaders: [['location', '/orders/ord-778899']],
        type: 'text/html',
      },
      { url: 'https://a.test/orders/ord-778899', at: 60, type: 'text/html' },
    ])
    expect(steps.map(s => [s.url, s.redirects, s.expect, s.capture?.[0]?.from])).toEqual([
      [
        '/new',
        0,
        [{ kind: 'status', allow: '303' }],
        { kind: 'header', name: 'location', left: expect.any(String) as string, right: '' },
      ],
      ['/orders/{{orders}}', 10, [{ kind: 'status', allow: '200' }], undefined],
    ])
    const { remarks: said } = madeOf([
      { url: 'https://a.test/1', at: 0, type: 'text/html', text: '<input value="a&amp;b-778899">' },
      { url: 'https://a.test/2?v=a%26b-778899', at: 100 },
    ])
    expect(said).toEqual([
      expect.stringMatching(
        /“a&b-778899”, sent as query v, was answered before, but the page holds it escaped: it is sent as it was/,
      ),
    ])
  })

  it('proposes keys and passwords as secrets of the target, and keeps none of them in the journey', () => {
    const {
      steps,
      secrets,
      review,
      journey: made,
    } = madeOf([
      {
        url: 'https://a.test/1',
        at: 0,
        method: 'POST',
        headers: [
          ['Authorization', 'Basic YW5hOnMzY3JldA=='],
          ['X-Api-Key', 'k-12345'],
        ],
        sent: form('user=ana&password=hunter2!'),
      },
      {
        url: 'https://a.test/2',
        at: 100,
        method: 'POST',
        headers: [['X-Api-Key', 'k-12345']],
        sent: { mimeType: 'application/json', text: '{"password":"hun\\"ter"}' },
      },
    ])
    expect(secrets).toEqual({
      basic_login: 'YW5hOnMzY3JldA==',
      api_key: 'k-12345',
      password: 'hunter2!',
      password_2: 'hun"ter',
    })
    expect(review.credentials.map(c => [c.name, c.sentAs, c.requests])).toEqual([
      ['basic_login', 'header Authorization', 1],
      ['api_key', 'header X-Api-Key', 2],
      ['password', 'field password', 1],
      ['password_2', 'field password', 1],
    ])
    expect(JSON.stringify(review)).not.toMatch(/hunter2|k-12345|YW5h/)
    expect(JSON.stringify(made)).not.toMatch(/hunter2|k-12345|YW5h/)
    expect(steps[0]).toMatchObject({
      headers: [
        ['Authorization', 'Basic {{target.basic_login}}'],
        ['X-Api-Key', '{{target.api_key}}'],
      ],
      body: {
        kind: 'form',
        fields: [
          ['user', 'ana'],
          ['password', '{{target.password}}'],
        ],
      },
    })
    expect(
      madeOf([{ url: 'https://a.test/1', at: 0, headers: [['X-Api-Key', 'k-12345']] }], { secrets: [] }).steps[0]!
        .headers,
    ).toEqual([['X-Api-Key', 'k-12345']])
  })

  it('keeps what belongs to one site, by the public suffix list, and names pages by their own titles', () => {
    // Two shops under one country’s suffix are no site (publicsuffix.org: co.uk is one).
    const entries: Entry[] = [
      { url: 'https://www.shop.co.uk/', at: 0, type: 'text/html', text: '<title>Shop &amp; Co\n front</title>' },
      { url: 'https://api.shop.co.uk/x', at: 100 },
      { url: 'https://ads.other.co.uk/y', at: 200 },
      { url: 'https://www.shop.co.uk/basket', at: 300, type: 'text/html', text: '<title>Basket</title>' },
    ]
    const read = readHar(har(entries))
    expect(usualChoices(read)).toMatchObject({ name: 'Shop & Co front', hosts: ['www.shop.co.uk', 'api.shop.co.uk'] })
    expect(madeOf(entries).journey.round.map(s => s.name)).toEqual(['Shop & Co front', 'x', 'Basket'])
  })

  it('takes no longer per id than there are ids: ten thousand of one answer', () => {
    const ids = Array.from({ length: 10_000 }, (_, i) => `id-${100_000 + i}-x`)
    const entries = readHar(
      har([
        { url: 'https://a.test/list', at: 0, text: JSON.stringify(ids.map(id => ({ id }))) },
        ...ids.map((id, i): Entry => ({ url: `https://a.test/item?i=${id}`, at: 100 + i })),
      ]),
    ).entries
    const began = performance.now()
    expect(findDynamicValues(entries).values).toHaveLength(10_000)
    // Each looked for by itself, they took minutes.
    expect(performance.now() - began).toBeLessThan(3000)
  })

  it('can leave the files out, or keep them as steps; the review says how many requests are left', () => {
    expect(harToJourney(capture, { ...choices, statics: 'drop' }).journey.round).toHaveLength(4)
    expect(harToJourney(capture, { ...choices, statics: 'keep' }).journey.round).toHaveLength(6)
    expect(reviewHar(capture, choices)).toMatchObject({
      requests: 8,
      statics: 3,
      left: [{ why: 'a WebSocket is no step' }],
    })
  })

  it('is read with bodies in base64, and without bodies', () => {
    const text = Buffer.from('{"token":"abc-998877"}').toString('base64')
    const read = readHar(
      har([
        { url: 'https://a.test/1', at: 0, text, encoding: 'base64' },
        { url: 'https://a.test/2?t=abc-998877', at: 100 },
      ]),
    )
    expect(findDynamicValues(read.entries).values[0]!.source).toEqual({ kind: 'json', path: '$.token' })
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
    const field = fc.oneof(
      fc.string(),
      fc.integer(),
      fc.constant(null),
      fc.constant(undefined),
      fc.array(fc.anything({ maxDepth: 1 }), { maxLength: 2 }),
    )
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            startedDateTime: field,
            time: field,
            request: fc.oneof(
              field,
              fc.record({
                method: fc.constantFrom('GET', 'POST', 'X'),
                url: fc.oneof(fc.webUrl(), field),
                headers: field,
                postData: field,
              }),
            ),
            response: fc.oneof(field, fc.record({ status: field, headers: field, content: field, redirectURL: field })),
          }),
          { maxLength: 6 },
        ),
        (entries) => {
          try {
            const read = readHar(JSON.stringify({ log: { entries } }))
            harToJourney(read, usualChoices(read))
          }
          catch (error) {
            if (!(error instanceof HarError)) throw error
          }
        },
      ),
    )
  })
})

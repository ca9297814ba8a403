/** A compiled step: where its request goes, what it carries, and what an answer looks like to those who examine it. */
import { isSpanContextValid, TraceFlags } from '@opentelemetry/api'
import { parseTraceParent } from '@opentelemetry/core'
import { drawThinkMs, meanThinkMs, type HttpJourney, type RequestStep } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import type { ValueScope } from '../../core/values/scope'
import { seededRandom } from '../../core/random/seeded'
import type { Outcome, PreparedRequest } from '../../generator/exchange/exchange'
import { LoadedAnswer } from '../../generator/journey/loaded-answer'
import { capturedNames, prepareJourney } from '../../generator/journey/prepare-journey'
import { enrolmentJourney } from '../build/enrolment'
import { journey, step, target } from '../build/plans'

const scope = (over: Partial<ValueScope> = {}): ValueScope => ({
  rows: [],
  captured: [],
  userNumber: 4,
  passNumber: 2,
  next: () => 1,
  random: () => 0.5,
  now: () => 0,
  ...over,
})
function prepared(
  over: Partial<RequestStep>,
  {
    at = {} as Partial<Target>,
    secrets = {},
    exemplarBytes = 0,
    walk = {} as Partial<HttpJourney>,
    traces = false,
  } = {},
) {
  const made = prepareJourney(journey({ round: [step(over)], ...walk }), {
    target: target({ baseUrl: 'http://portal.test:81/app/', ...at }),
    secrets,
    marking: { runId: '7', traces },
    feeds: [],
    files: new Map(),
    exemplarBytes,
  })
  return made.round[0]!.parts[0]!
}
const request = (
  over: Partial<RequestStep>,
  more: Parameters<typeof prepared>[1] = {},
  s = scope(),
): PreparedRequest => {
  const part = prepared(over, more)
  const built = part.fixed ?? part.build(s)
  if (typeof built === 'string') throw new Error(`missing: ${built}`)
  return built
}
const address = (r: PreparedRequest) => r.origin + r.path

describe('a trace', () => {
  const parents = (r: PreparedRequest) => r.headers.filter((_, i) => r.headers[i - 1] === 'traceparent' && i % 2 === 1)
  it('is begun by each request where the plan asks, as another reader of the standard takes it', () => {
    for (const over of [{ url: '/x' }, { url: '/x/{{user.number}}' }]) {
      const part = prepared(over, { traces: true })
      expect(part.fixed).toBeUndefined()
      const made = Array.from({ length: 1200 }, () => parents(part.build(scope()) as PreparedRequest))
      expect(made.every(m => m.length === 1)).toBe(true)
      // OpenTelemetry's own reader of W3C Trace Context.
      const read = made.map(([m]) => parseTraceParent(m!))
      expect(read.every(c => c !== null && isSpanContextValid(c) && c.traceFlags === TraceFlags.NONE)).toBe(true)
      expect(new Set(read.map(c => c!.traceId)).size).toBe(1200)
      expect(new Set(read.map(c => c!.spanId)).size).toBe(1200)
    }
  })

  it('is not begun otherwise, and one that a journey writes stays', () => {
    expect(parents(request({ url: '/x' }))).toEqual([])
    const own = { url: '/x', headers: [['Traceparent', 'mine']] as [string, string][] }
    const { headers } = request(own, { traces: true })
    expect(headers.filter(h => /^traceparent$/i.test(h))).toEqual(['Traceparent'])
  })
})

describe('where a request goes', () => {
  it.each<[string, Partial<RequestStep>, string]>([
    ['a path, below the base', { url: '/x' }, 'http://portal.test:81/app/x'],
    ['a path without a slash', { url: 'x/y?z=1' }, 'http://portal.test:81/app/x/y?z=1'],
    ['a whole address', { url: 'https://other.test/q' }, 'https://other.test/q'],
    ['a whole address without a path', { url: 'http://other.test' }, 'http://other.test/'],
    ['letters that need encoding', { url: '/blå bær' }, 'http://portal.test:81/app/bl%C3%A5%20b%C3%A6r'],
    [
      'a query of its own',
      {
        url: '/x',
        query: [
          ['a b', '1&2'],
          ['c', 'å'],
        ],
      },
      'http://portal.test:81/app/x?a+b=1%262&c=%C3%A5',
    ],
    ['a query behind one', { url: '/x?z=1', query: [['a', '2']] }, 'http://portal.test:81/app/x?z=1&a=2'],
    ['a value in the path', { url: '/user/{{user.number}}' }, 'http://portal.test:81/app/user/4'],
    ['a value at the beginning', { url: '{{user.number}}/x' }, 'http://portal.test:81/app/4/x'],
    ['a value behind a whole address', { url: 'https://other.test/q/{{user.number}}' }, 'https://other.test/q/4'],
    ['a value of the target as address', { url: '{{target.api}}/v1' }, 'http://api.test:82/v1'],
    ['a variable of the target, encoded', { url: '/{{target.term}}' }, 'http://portal.test:81/app/a%2Fb%20c'],
    ['a value inside the host', { url: 'http://host{{user.number}}.test/x' }, 'http://host4.test/x'],
    ['two slashes, which name no host', { url: '//evil.test/x' }, 'http://portal.test:81/app/evil.test/x'],
  ])('%s', (_, over, expected) => {
    expect(
      address(request(over, { at: { addresses: { api: 'http://api.test:82' }, variables: { term: 'a/b c' } } })),
    ).toBe(expected)
  })

  it('is worked out once where nothing in it depends on the moment', () => {
    expect(prepared({ url: '/x' }).fixed).toBeDefined()
    expect(prepared({ url: '/{{target.base}}' }).fixed).toBeDefined()
    expect(prepared({ url: '/{{user.number}}' }).fixed).toBeUndefined()
    expect(prepared({ url: '/x', headers: [['x-n', '{{pass.number}}']] }).fixed).toBeUndefined()
  })

  it('is refused before the run when it is no address', () => {
    expect(() => prepared({ url: 'http://' })).toThrow()
    expect(() => prepared({ url: '/{{nobody}}' })).toThrow('nobody sets “nobody”')
  })
})

describe('what a request carries', () => {
  const headers = (r: PreparedRequest) =>
    Object.fromEntries(Array.from({ length: r.headers.length / 2 }, (_, i) => [r.headers[2 * i], r.headers[2 * i + 1]]))
  it('its own headers first, its marks, and a content type unless it names one', () => {
    expect(
      headers(request({ name: 'A', method: 'POST', body: { kind: 'json', text: '{"n":{{user.number}}}' } })),
    ).toEqual({ 'user-agent': 'Vornak', 'vornak-run': '7', 'vornak-step': 'A', 'content-type': 'application/json' })
    expect(
      headers(
        request({
          name: 'A',
          method: 'POST',
          headers: [['Content-Type', 'text/x']],
          body: { kind: 'raw', text: 'a', type: 'text/plain' },
        }),
      ),
    ).toMatchObject({ 'Content-Type': 'text/x' })
    expect(
      request(
        { method: 'POST', body: { kind: 'json', text: '{"n":{{user.number}},"p":"{{target.password}}"}' } },
        { secrets: { password: 'a"b' } },
      ).body,
    ).toBe('{"n":4,"p":"a\\"b"}')
  })

  it('and names the value that is missing instead of sending half of it', () => {
    const walk: Partial<HttpJourney> = {
      opening: [step({ name: 'First', capture: [{ name: 'token', from: { kind: 'header', name: 'x' } }] })],
    }
    for (const over of [
      { url: '/{{token}}' },
      { query: [['t', '{{token}}']] as [string, string][] },
      { headers: [['t', '{{token}}']] as [string, string][] },
      { body: { kind: 'json' as const, text: '{{token}}' } },
      { body: { kind: 'form' as const, fields: [['t', '{{token}}']] as [string, string][] } },
    ]) {
      expect(prepared(over, { walk }).build(scope({ captured: [undefined] }))).toBe('token')
    }
  })

  it('and keeps of the answer what somebody will look into, or what exemplars show', () => {
    expect(request({ expect: [] })).toMatchObject({ keepBytes: 0, needsWhole: false })
    expect(request({ expect: [] }, { exemplarBytes: 500 })).toMatchObject({ keepBytes: 500, needsWhole: false })
    expect(request({ expect: [{ kind: 'json', path: '$.a', rule: 'exists' }] }, { exemplarBytes: 500 })).toMatchObject({
      keepBytes: 8 * 1024 * 1024,
      needsWhole: true,
    })
    expect(request({ expect: [{ kind: 'size', atMost: 5 }] }).needsWhole).toBe(false)
  })

  it('values of a name captured twice have one place', () => {
    expect(capturedNames(enrolmentJourney())).toEqual(['form', 'token', 'module'])
  })
})

describe('an answer, looked into', () => {
  const answer = (headers: [string, string][], body: Buffer | string = '') =>
    new LoadedAnswer().of({
      status: 200,
      rawHeaders: headers.flat().map(h => Buffer.from(h, 'latin1')),
      chunks: [Buffer.from(body)],
      bytes: body.length,
      beganAt: 5,
      endedAt: 9,
    } as unknown as Outcome)
  it('has headers whatever their case, several joined (RFC 9110 §5.3), and cookies by name, the last that counts', () => {
    const a = answer([
      ['X-Tag', 'a'],
      ['x-tag', 'b'],
      ['Set-Cookie', 'id=1; Path=/'],
      ['set-cookie', 'id=2; HttpOnly'],
      ['Date', 'x'],
    ])
    expect([a.header('x-tag'), a.header('x-none'), a.cookie('id'), a.cookie('none')]).toEqual([
      'a, b',
      undefined,
      '2',
      undefined,
    ])
    expect(a.setCookies()).toEqual(['id=1; Path=/', 'id=2; HttpOnly'])
    expect(answer([['Connection', 'close']]).setCookies()).toBeUndefined()
    expect(a.durationMs).toBe(4)
  })

  it('is decoded by its charset, a byte-order mark left out, an unknown charset read as UTF-8', () => {
    expect(answer([['content-type', 'text/plain; charset=windows-1252']], Buffer.from([0x80])).text()).toBe('€')
    expect(answer([['content-type', 'text/plain']], '\ufeffå').text()).toBe('å')
    expect(answer([['content-type', 'text/plain; charset=klingon']], 'å').text()).toBe('å')
    expect(answer([], '{"a":1}').json()).toEqual({ a: 1 })
    expect(answer([], '{"a":').json()).toBeUndefined()
  })
})

describe('pauses', () => {
  it('drawn from a normal keep its middle and its spread, and never go below zero (68 % within one deviation: the normal distribution’s own number)', () => {
    const random = seededRandom(11)
    const draws = Array.from({ length: 20_000 }, () =>
      drawThinkMs({ kind: 'normal', meanMs: 1000, deviationMs: 200 }, random),
    )
    const mean = draws.reduce((a, b) => a + b, 0) / draws.length
    expect(Math.abs(mean - 1000)).toBeLessThan(10)
    const within = draws.filter(d => Math.abs(d - 1000) <= 200).length / draws.length
    expect(Math.abs(within - 0.6827)).toBeLessThan(0.015)
    expect(
      Math.min(
        ...Array.from({ length: 5000 }, () => drawThinkMs({ kind: 'normal', meanMs: 10, deviationMs: 100 }, random)),
      ),
    ).toBe(0)
  })

  it('have a mean that plans reckon with', () => {
    expect([
      meanThinkMs({ kind: 'none' }),
      meanThinkMs({ kind: 'fixed', ms: 5 }),
      meanThinkMs({ kind: 'uniform', fromMs: 2, toMs: 4 }),
      meanThinkMs({ kind: 'normal', meanMs: 7, deviationMs: 1 }),
    ]).toEqual([0, 5, 3, 7])
  })
})

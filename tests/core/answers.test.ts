import {
  compileCatch,
  compileCheck,
  expectationsOf,
  missNamesOf,
  readStatuses,
  StatusError,
  type HttpAnswer,
} from '../../core/journey/answers'
import type { Expectation } from '../../core/journey/journey'
import { problemsOfJourney } from '../../core/journey/problems'
import { measuresOf } from '../../core/journey/measures'
import { upgradeJourney } from '../../core/journey/upgrade'
import { withinWindow } from '../../core/journey/target'
import { enrolmentJourney } from '../build/enrolment'
import { journey, step } from '../build/plans'

function answer(
  over: Partial<{
    status: number
    bytes: number
    durationMs: number
    headers: Record<string, string>
    text: string
  }> = {},
): HttpAnswer {
  const {
    status = 200,
    text = '{"enrolled":true,"seats":12,"tags":["a","b"],"name":"Ana"}',
    headers = { 'content-type': 'application/json' },
  } = over
  return {
    status,
    bytes: over.bytes ?? text.length,
    durationMs: over.durationMs ?? 40,
    header: n => headers[n],
    cookie: n => (n === 'session' ? 'abc' : undefined),
    text: () => text,
    json: () => {
      try {
        return JSON.parse(text) as unknown
      }
      catch {
        return undefined
      }
    },
  }
}

describe('an expectation', () => {
  it.each<[Expectation, Parameters<typeof answer>[0], boolean]>([
    [{ kind: 'status', allow: '200, 204' }, {}, true],
    [{ kind: 'status', allow: '2xx' }, { status: 299 }, true],
    [{ kind: 'status', allow: '200-299' }, { status: 304 }, false],
    [{ kind: 'body', rule: 'contains', value: 'enrolled' }, {}, true],
    [{ kind: 'body', rule: 'lacks', value: 'error' }, {}, true],
    [{ kind: 'body', rule: 'lacks', value: 'seats' }, {}, false],
    [{ kind: 'body', rule: 'matches', value: '"seats":\\d+' }, {}, true],
    [{ kind: 'body', rule: 'equals', value: 'x' }, { text: 'x' }, true],
    [{ kind: 'header', name: 'Content-Type', rule: 'present' }, {}, true],
    [{ kind: 'header', name: 'X-None', rule: 'present' }, {}, false],
    [{ kind: 'header', name: 'content-type', rule: 'contains', value: 'json' }, {}, true],
    [{ kind: 'header', name: 'x-none', rule: 'lacks', value: 'y' }, {}, true],
    [{ kind: 'json', path: '$.enrolled', rule: 'equals', value: 'true' }, {}, true],
    [{ kind: 'json', path: '$.enrolled', rule: 'equals', value: '"true"' }, {}, false],
    [{ kind: 'json', path: '$.name', rule: 'equals', value: 'Ana' }, {}, true],
    [{ kind: 'json', path: '$.name', rule: 'differs', value: 'Bo' }, {}, true],
    [{ kind: 'json', path: '$.seats', rule: 'equals', value: '12.0' }, {}, true],
    [{ kind: 'json', path: '$.seats', rule: 'atLeast', value: '12' }, {}, true],
    [{ kind: 'json', path: '$.seats', rule: 'atMost', value: '11' }, {}, false],
    [{ kind: 'json', path: '$.tags', rule: 'contains', value: 'b' }, {}, true],
    [{ kind: 'json', path: '$.tags[?@ == "b"]', rule: 'exists' }, {}, true],
    [{ kind: 'json', path: '$.name', rule: 'matches', value: '^A' }, {}, true],
    [{ kind: 'json', path: '$.name', rule: 'exists' }, { text: 'no json' }, false],
    [{ kind: 'size', atLeast: 10, atMost: 20 }, { bytes: 20 }, true],
    [{ kind: 'size', atMost: 19 }, { bytes: 20 }, false],
    [{ kind: 'duration', atMostMs: 40 }, {}, true],
    [{ kind: 'duration', atMostMs: 39 }, {}, false],
  ])('%j of %j: %s', (e, of, holds) => {
    expect(compileCheck(e).holds(answer(of))).toBe(holds)
  })

  it('says what it saw instead, in words', () => {
    expect(compileCheck({ kind: 'json', path: '$.seats', rule: 'atMost', value: '3' }).saw(answer())).toBe('12')
    expect(compileCheck({ kind: 'json', path: '$.x', rule: 'exists' }).saw(answer())).toBe('nothing there')
    expect(compileCheck({ kind: 'json', path: '$.x', rule: 'exists' }).saw(answer({ text: '<html>' }))).toBe('no JSON')
    expect(
      compileCheck({ kind: 'body', rule: 'equals', value: 'x' }).saw(answer({ text: 'y'.repeat(500) })),
    ).toHaveLength(122)
  })

  it('about the status is there even when nobody wrote one', () => {
    expect(expectationsOf({})).toEqual([{ kind: 'status', allow: '200-399' }])
    expect(
      missNamesOf({
        expect: [{ kind: 'size', atMost: 9 }],
        capture: [
          { name: 't', from: { kind: 'cookie', name: 's' } },
          { name: 'u', from: { kind: 'cookie', name: 's' }, otherwise: '-' },
        ],
      }),
    ).toEqual(['status 200-399', 'at most 9 bytes', 'has t'])
  })

  it.each(['', 'ok', '600', '299-200'])('of a status that is none is refused: “%s”', (allow) => {
    expect(() => readStatuses(allow)).toThrow(StatusError)
  })
})

describe('a capture', () => {
  it.each([
    [{ kind: 'json' as const, path: '$.name' }, 'Ana'],
    [{ kind: 'json' as const, path: '$.tags' }, '["a","b"]'],
    [{ kind: 'json' as const, path: '$.none' }, undefined],
    [{ kind: 'header' as const, name: 'Content-Type' }, 'application/json'],
    [{ kind: 'cookie' as const, name: 'session' }, 'abc'],
    [{ kind: 'between' as const, left: '"name":"', right: '"' }, 'Ana'],
    [{ kind: 'between' as const, left: 'nope', right: '"' }, undefined],
    [{ kind: 'expression' as const, pattern: 'seats":(\\d)' }, '1'],
  ])('%j takes %s', (from, value) => {
    expect(compileCatch({ name: 'v', from }).take(answer())).toBe(value)
  })
})

describe('what is wrong with a journey', () => {
  const faults = (
    j: Parameters<typeof problemsOfJourney>[0],
    feeds: Record<string, string[]> = { students: ['name'] },
  ) => problemsOfJourney(j, { feeds, target: { base: '', password: '' } }).map(p => [p.at, p.sentence])
  it('is nothing when it is right', () => expect(faults(enrolmentJourney())).toEqual([]))

  it('is told at its place', () => {
    expect(faults(journey({ round: [] }))).toEqual([['round', 'The round has no step.']])
    expect(faults(journey({ round: [step({ name: 'A' }), step({ name: 'A' })] }))[0]).toEqual([
      'round/1/name',
      '“A” is there twice.',
    ])
    expect(faults(journey({ round: [step({ url: '/{{nobody}}' })] }))[0]).toEqual([
      'round/0/url',
      expect.stringContaining('Nobody sets “nobody”'),
    ])
    expect(faults(journey({ round: [step({ expect: [{ kind: 'body', rule: 'matches', value: '(' }] })] }))[0]![0]).toBe(
      'round/0/expect/0',
    )
    expect(faults(journey({ round: [step({ headers: [['bad header', 'x']] })] }))[0]).toEqual([
      'round/0/headers/0',
      '“bad header” cannot be the name of a header.',
    ])
    expect(faults(journey({ spans: [{ name: 'S', from: 'Ask', to: 'Look', withThink: false }] }))[0]![0]).toBe(
      'spans/0',
    )
    expect(faults(enrolmentJourney(), {}).map(f => f[0])).toEqual(expect.arrayContaining(['feeds/0', 'round/0/body']))
    expect(
      faults(
        enrolmentJourney({ feeds: [{ feed: 'students', as: 'student', deal: 'once', per: 'pass', atEnd: 'again' }] }),
      )[0]![1],
    ).toContain('cannot begin again')
  })

  it('in the opening is a value that only a later step would take', () => {
    expect(
      faults(
        journey({
          opening: [step({ name: 'First', url: '/{{later}}' })],
          round: [step({ capture: [{ name: 'later', from: { kind: 'header', name: 'x' } }] })],
        }),
      ),
    ).toHaveLength(1)
    expect(
      faults(
        journey({
          round: [
            step({ url: '/{{later}}' }),
            step({ name: 'Ask', capture: [{ name: 'later', from: { kind: 'header', name: 'x' }, otherwise: '0' }] }),
          ],
        }),
      ),
    ).toEqual([])
  })
})

describe('what is measured of a journey', () => {
  it('are its requests, bundles as one, spans and the whole round, in a lasting order', () => {
    expect(measuresOf(enrolmentJourney()).map(m => `${m.kind} ${m.name}`)).toEqual([
      'request Sign in',
      'bundle Page files',
      'request portal.css',
      'request portal.js',
      'request crest.svg',
      'request Token',
      'request Modules',
      'request Enrol',
      'span Choosing',
      'span Choosing with pauses',
      'round Whole round',
    ])
    expect(measuresOf(journey({ round: [step({ off: true }), step({ name: 'Ask' })] })).map(m => m.name)).toEqual([
      'Ask',
    ])
  })

  it('of journeys written by the first release are read as they were meant', () => {
    const old = upgradeJourney({
      id: 'a',
      name: 'A',
      round: [
        {
          name: 'S',
          method: 'POST',
          url: '/',
          body: '{}',
          headers: { x: '1' },
          think: { kind: 'none' },
          expectStatus: [201, 202],
          expectText: 'ok',
          timeoutMs: 5,
        },
      ],
    })
    expect(old).toMatchObject({
      schema: 'vornak-journey/1',
      round: [
        {
          body: { kind: 'json', text: '{}' },
          headers: [['x', '1']],
          expect: [
            { kind: 'status', allow: '201, 202' },
            { kind: 'body', rule: 'contains', value: 'ok' },
          ],
        },
      ],
    })
    expect(upgradeJourney(old)).toBe(old)
  })
})

describe('the hours of an approval', () => {
  const at = (iso: string) => Date.parse(iso)
  it('go past midnight, in their own zone, summer time included (tz database: Oslo is UTC+1, in summer UTC+2)', () => {
    const night = { from: '20:00', to: '06:00', zone: 'Europe/Oslo' }
    expect([
      withinWindow(night, at('2026-01-10T19:00:00Z')),
      withinWindow(night, at('2026-01-10T18:59:00Z')),
      withinWindow(night, at('2026-07-10T18:00:00Z')),
      withinWindow(night, at('2026-01-10T04:59:00Z')),
      withinWindow(night, at('2026-01-10T05:00:00Z')),
    ]).toEqual([true, false, true, true, false])
    expect(withinWindow({ from: '09:00', to: '17:00', zone: 'UTC' }, at('2026-01-10T17:00:00Z'))).toBe(false)
  })
})

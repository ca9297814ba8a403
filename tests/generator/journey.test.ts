/**
 * A whole journey on the portal stand-in: cookies, captures, templates, bundles, spans, redirects, feeds. What was
 * merged is held against what the portal counted.
 */
import type { AddressInfo } from 'node:net'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { HttpJourney } from '../../core/journey/journey'
import { measuresOf } from '../../core/journey/measures'
import { Histogram } from '../../core/histogram/histogram'
import { SeriesSum } from '../../core/merge/series-sum'
import type { SlicedUser } from '../../core/run/slice'
import { HealthReader } from '../../generator/users/health'
import { Load, NO_SUPPLIES, type Supplies } from '../../generator/users/load'
import { tryJourneys } from '../../generator/users/try-journeys'
import { offsetsOf, type FeedRows } from '../../generator/journey/feed-dealer'
import { addEntries, openFrame } from '../../protocol/frame'
import { createPortal, DEFAULT_SETTINGS, type Portal } from '../../standins/enrolment-portal/portal'
import { enrolmentJourney } from '../build/enrolment'
import { plan, runDocument, target } from '../build/plans'

const health = new HealthReader({
  hostname: '',
  platform: '',
  node: '',
  cores: 1,
  memoryBytes: 2 ** 33,
  descriptors: 1000,
})
let portal: Portal
let host = ''

beforeEach(async () => {
  portal = createPortal({ ...DEFAULT_SETTINGS, workers: 8 })
  await new Promise<void>(r => portal.server.listen(0, '127.0.0.1', r))
  host = `127.0.0.1:${(portal.server.address() as AddressInfo).port}`
})
afterEach(() => {
  portal.server.closeAllConnections()
  portal.server.close()
})
afterAll(() => health.stop())

export function rowsOf(rows: string[][]): FeedRows {
  const bytes = new TextEncoder().encode(rows.map(r => `${JSON.stringify(r)}\n`).join(''))
  return { bytes, offsets: offsetsOf(bytes, rows.length) }
}
const students = (n: number) => rowsOf(Array.from({ length: n }, (_, i) => [`s${i + 1}`]))
const withStudents = (n: number): Supplies => ({
  ...NO_SUPPLIES,
  secrets: { password: 'sesame-öpen' },
  feeds: new Map([['students', { columns: ['name'], slice: students(n) }]]),
})
const documentOf = (journey: HttpJourney, hosts = [host]) =>
  runDocument({
    target: target({
      baseUrl: `http://${host}`,
      secretNames: ['password'],
      approval: { hosts, mostUsers: 99, until: '2999', contact: 'x' },
    }),
    journeys: [journey],
    plan: plan({
      groups: [{ letter: 'A', name: 'A', journeyId: journey.id, profile: { startDelayMs: 0, segments: [] } }],
      placement: { A: { REY: 10_000 } },
      exemplars: { failuresPerSecond: 100, slowest: false, oneInPasses: 1, mostMb: 64 },
    }),
  })

async function run(journey: HttpJourney, supplies: Supplies, users: number, ms: number, hosts = [host]) {
  const sums = measuresOf(journey).map(() => new SeriesSum())
  const records: ExchangeRecord[] = []
  let started = 0
  await new Promise<void>((finished) => {
    new Load(
      {
        runId: '7',
        document: documentOf(journey, hosts),
        slice: {
          users: Array.from({ length: users }, (_, i): SlicedUser => ({
            group: 0,
            number: i + 1,
            firstSeries: 0,
            network: 'direct',
            client: 'plain',
            stays: [{ startMs: 0, stopMs: ms }],
          })),
          arrivals: [],
        },
        supplies,
        incarnation: 1,
        worker: 0,
        leaveMs: 2000,
        health,
        onFrame: ({ bytes }) => {
          const frame = openFrame(bytes)
          started = frame.top.claims.started
          addEntries(
            frame,
            n => sums[n]!,
            n => measuresOf(journey)[n]!.kind === 'request',
          )
        },
        onExemplar: r => records.push(r),
        onFinished: () => finished(),
      },
      performance.now() + 20,
    ).run()
  })
  const of = (name: string) => sums[measuresOf(journey).findIndex(m => m.name === name)]!
  return { of, records, started }
}

describe('a journey as a browser does it', () => {
  it('is right at every step, and what was merged is what the portal received, redirects included', async () => {
    const { of, started } = await run(enrolmentJourney(), withStudents(500), 6, 1500)
    const counts = portal.counts.of('7')
    let sum = 0
    for (const { name, kind } of measuresOf(enrolmentJourney())) {
      if (kind !== 'request') continue
      expect([name, of(name).failed]).toEqual([name, 0])
      expect([name, counts[name]!.received]).toEqual([name, of(name).started + of(name).redirects])
      sum += of(name).started
    }
    expect(sum).toBe(started)
    expect(of('Sign in').redirects).toBe(of('Sign in').started)
    // Each of the six got through at least once; how often is this computer's affair.
    expect(of('Enrol').right).toBeGreaterThanOrEqual(6)
  })

  it('never uses a row twice that is dealt once, and users leave when the rows run out', async () => {
    const { of } = await run(enrolmentJourney(), withStudents(20), 6, 4000)
    expect(of('Sign in').started).toBe(20)
    expect([
      ...(portal.counts.of('7')['Enrol']!.received
        ? Object.values(
            Object.fromEntries(
              await import('undici').then(async u =>
                Object.entries((await (await u.request(`http://${host}/students`)).body.json()) as object),
              ),
            ),
          )
        : []),
    ]).toEqual(Array.from({ length: 20 }, () => 1))
  })

  it('times a span as its exemplars say, with and without the pauses inside', async () => {
    const { of, records } = await run(enrolmentJourney(), withStudents(500), 4, 1500)
    const passes = new Map<string, ExchangeRecord[]>()
    for (const r of records)
      if (['Token', 'Modules', 'Enrol'].includes(r.step))
        passes.set(`${r.user} ${r.pass}`, [...(passes.get(`${r.user} ${r.pass}`) ?? []), r])
    const whole = [...passes.values()].filter(p => p.length === 3)
    expect(whole.length).toBe(of('Choosing').right)
    for (const [span, durations] of [
      ['Choosing', whole.map(p => p.reduce((sum, r) => sum + r.timings.wholeMs, 0))],
      [
        'Choosing with pauses',
        whole.map(p => Math.max(...p.map(r => r.endedAtMs)) - Math.min(...p.map(r => r.beganAtMs))),
      ],
    ] as const) {
      const expected = new Histogram()
      for (const ms of durations) expected.record(ms * 1000)
      for (const p of [0.5, 0.9, 0.95, 1])
        expect([span, p, of(span).timings.right.percentileUs(p)]).toEqual([span, p, expected.percentileUs(p)])
    }
    expect(of('Choosing with pauses').timings.right.percentileUs(0.5)!).toBeGreaterThan(
      of('Choosing').timings.right.percentileUs(0.5)!,
    )
  })

  it('times a bundle as one, not shorter than its longest request, and counts its requests alone', async () => {
    const { of } = await run(enrolmentJourney(), withStudents(500), 3, 1000)
    expect(of('portal.css').started).toBe(of('Page files').started)
    expect(of('Page files').timings.right.maxUs()!).toBeGreaterThanOrEqual(
      of('portal.css').timings.right.maxUs()! * 0.999,
    )
  })

  it('masks secrets in everything that is kept, also where they are encoded', async () => {
    const { records } = await run(enrolmentJourney(), withStudents(50), 1, 500)
    const text = JSON.stringify(records)
    expect(records.length).toBeGreaterThan(5)
    for (const form of [
      'sesame-öpen',
      encodeURIComponent('sesame-öpen'),
      Buffer.from('sesame-öpen').toString('base64'),
    ])
      expect(text.includes(form)).toBe(false)
    expect(text.includes('student=s1&password=•••')).toBe(true)
  })

  it('counts a wrong answer with a good status as a failure by the name of what it missed', async () => {
    const journey = enrolmentJourney({
      round: enrolmentJourney().round.map(s =>
        s.name === 'Enrol'
          ? ({
              ...s,
              expect: [
                { kind: 'json', path: '$.enrolled', rule: 'equals', value: '"no"' },
                { kind: 'size', atMost: 1, onlyCount: true },
              ],
            } as typeof s)
          : s,
      ),
      spans: [],
    })
    const { of, records } = await run(journey, withStudents(50), 2, 2000)
    const enrol = of('Enrol')
    expect(enrol.failuresByKind()).toEqual({ expectation: enrol.started })
    // Numbers of what was missed: the unsaid status is 0.
    expect([...enrol.misses]).toEqual([
      [1, enrol.started],
      [2, enrol.started],
    ])
    expect(records.find(r => r.step === 'Enrol')!.checks.map(c => [c.name, c.held, c.onlyCount])).toEqual([
      ['status 200-399', true, false],
      ['$.enrolled is "no"', false, false],
      ['at most 1 bytes', false, true],
    ])
  })

  it('fails what needs a value nobody found, unsent', async () => {
    const journey = enrolmentJourney({
      identity: 'kept',
      round: enrolmentJourney().round.map(s =>
        s.name === 'Token'
          ? ({ ...s, capture: [{ name: 'token', from: { kind: 'json', path: '$.nothing' } }] } as typeof s)
          : s,
      ),
    })
    const { of } = await run(journey, withStudents(50), 2, 2000)
    expect(of('Token').failuresByKind()).toEqual({ capture: of('Token').started })
    expect(of('Modules').failuresByKind()).toEqual({ value: of('Modules').started })
    expect(of('Modules').neverSent).toBe(of('Modules').started)
    expect(portal.counts.of('7')['Modules']).toBeUndefined()
    expect(of('Choosing').right).toBe(0)
  })

  it('does not follow a redirect to a host that is not approved, and gives up a loop', async () => {
    const loop = enrolmentJourney({
      feeds: [],
      spans: [],
      round: [
        {
          name: 'Start',
          method: 'GET',
          url: '/start',
          redirects: 1,
          think: { kind: 'fixed', ms: 20 },
          timeoutMs: 2000,
        },
      ],
    })
    const { of } = await run(loop, NO_SUPPLIES, 1, 200)
    expect(of('Start').failuresByKind()).toEqual({ redirects: of('Start').started })
    expect(portal.counts.of('7')['Start']!.received).toBe(of('Start').started + of('Start').redirects)
  })

  it('of a user who stays the same signs in once and out once, and keeps its cookie from pass to pass', async () => {
    const [signIn, , token] = enrolmentJourney().round
    const kept: HttpJourney = {
      ...enrolmentJourney(),
      identity: 'kept',
      spans: [],
      opening: [signIn!],
      round: [
        token!,
        { name: 'How many', method: 'GET', url: '/api/enrolments', think: { kind: 'fixed', ms: 30 }, timeoutMs: 5000 },
      ],
      closing: [{ name: 'Leave', method: 'GET', url: '/portal.css', think: { kind: 'none' }, timeoutMs: 5000 }],
      feeds: [{ feed: 'students', as: 'student', deal: 'once', per: 'user', atEnd: 'fail' }],
    }
    const { of } = await run(kept, withStudents(3), 3, 900)
    expect([of('Sign in').right, of('Leave').right, of('Token').failed]).toEqual([3, 3, 0])
    expect(of('Token').right).toBeGreaterThan(12)
    // Three connections, whatever the number of passes.
    expect(
      of('Sign in').timings.connect.count + of('Token').timings.connect.count + of('Leave').timings.connect.count,
    ).toBe(3)
  })

  it('keeps its rhythm, and counts from when a pass should have begun', async () => {
    const look: HttpJourney = {
      ...enrolmentJourney(),
      identity: 'kept',
      feeds: [],
      spans: [],
      pacingMs: 200,
      round: [{ name: 'Look', method: 'GET', url: '/portal.css', think: { kind: 'none' }, timeoutMs: 5000 }],
    }
    const { of } = await run(look, NO_SUPPLIES, 4, 1990)
    // One at once, then one every 200 ms: ten each, give or take the last.
    expect(of('Look').started).toBeGreaterThanOrEqual(36)
    expect(of('Look').started).toBeLessThanOrEqual(44)
    const slow: HttpJourney = {
      ...look,
      pacingMs: 20,
      round: [
        {
          name: 'Slow',
          method: 'POST',
          url: '/enrol',
          body: { kind: 'json', text: '{}' },
          think: { kind: 'none' },
          timeoutMs: 5000,
        },
      ],
    }
    const late = await run(slow, NO_SUPPLIES, 1, 1200)
    expect(late.of('Slow').timings.intended.percentileUs(1)!).toBeGreaterThan(
      late.of('Slow').timings.right.percentileUs(1)! + 200_000,
    )
  })

  it('begins a new pass after a failure where it is told to, and what was under way has failed', async () => {
    const journey = enrolmentJourney({
      afterFailure: 'newPass',
      round: enrolmentJourney().round.map(s => (s.name === 'Token' ? ({ ...s, url: '/nowhere' } as typeof s) : s)),
    })
    const { of } = await run(journey, withStudents(60), 2, 800)
    expect(of('Token').failed).toBe(of('Token').started)
    expect([of('Modules').started, of('Enrol').started]).toEqual([0, 0])
    expect(of('Whole round').failed).toBe(of('Token').failed)
    expect(of('Choosing').failed).toBe(of('Token').failed)
  })

  it('can be tried by one user, step by step', async () => {
    const { records, problem } = await tryJourneys(documentOf(enrolmentJourney()), 'try-1', withStudents(3), health)
    expect(problem).toBe('')
    expect(records.map(r => [r.step, r.failure])).toEqual(
      ['Sign in', 'portal.css', 'portal.js', 'crest.svg', 'Token', 'Modules', 'Enrol'].map(s => [s, undefined]),
    )
    expect(records[0]).toMatchObject({
      hops: [{ status: 303 }],
      answer: { status: 200 },
      captured: [{ name: 'form', value: expect.stringMatching(/^[0-9a-f]{24}$/) }],
    })
    expect(records.at(-1)!.request.body).toMatch(/^\{"module":"OSU-1100","form":"[0-9a-f]{24}"\}$/)
    expect(portal.counts.of('try-1 rehearsal')['Enrol']!.received).toBe(1)
  })
})

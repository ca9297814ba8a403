/**
 * A run questioned: its slices against every exchange that was kept, against the target's own count, and its failures
 * against the rules by which a target made here fails. Percentiles are nearest rank (Hyndman and Fan 1996, definition
 * 1).
 */
import { createServer, type Server } from 'node:http'
import { parse } from 'csv-parse/sync'
import type { AddressInfo } from 'node:net'
import type { CoursesView, Distribution, ExemplarsView, PassesView, FailureReport, RunView, Slices, WindowView } from '../../api/views'
import type { Client } from '../../core/client/client'
import type { Plan } from '../../core/plan/document'
import { stepKey } from '../../core/objectives/subject'
import { DIMENSIONS, type Dimension, type SliceRow } from '../../core/result/slices'
import { House } from '../build/house'
import { hill, journey, plan, step, target } from '../build/plans'

/** A client of one's own: it says that it takes nothing but text, and a step says otherwise. */
const PROGRAM: Client = {
  id: 'house-program',
  name: 'House program',
  headers: [['User-Agent', 'HouseProgram/1'], ['Accept', 'text/plain'], ['x-shelf', 'north']],
}
/** Which client says what it is so. */
const SAYS: Record<string, string> = {
  'HouseProgram/1': PROGRAM.id,
  'ExampleApp/3.2 (phone)': 'phone-app',
  Vornak: 'plain',
}

/** Every so-many-th request of a step fails so; and TAV's own step is slow. */
const RULES = { Look: 7, Ask: 11, Sum: 13 }
const SLOW_MS = 120
/** What the target says the slow step took inside, ms. */
const INSIDE_MS = 77.5
/** Of two characters that are three bytes each, and others. */
const BODY = '{"question":"日本?"}'

/** Counts what it received, by step and second; fails by the rules, and notes how often it did. */
class FailingTarget {
  readonly received: Record<string, number> = {}
  /** By what the program says it is. */
  readonly bySayer: Record<string, number> = {}
  /** What was said of a shelf, and of what is taken, by whom. */
  readonly asides = new Set<string>()
  readonly failed: Record<string, number> = { Look: 0, Ask: 0, Sum: 0 }
  /** Bytes of bodies, both ways. */
  bodyBytes = 0
  sentBytes = 0
  private readonly server: Server

  constructor() {
    this.server = createServer((request, response) => {
      // Whether it can be reached is asked before the load, by no step.
      if (request.headers['vornak-step'] === undefined) return void response.writeHead(200).end()
      const name = decodeURIComponent(String(request.headers['vornak-step']))
      const n = (this.received[name] = (this.received[name] ?? 0) + 1)
      const { 'user-agent': sayer = '', accept = '', 'x-shelf': shelf = '' } = request.headers
      this.bySayer[sayer] = (this.bySayer[sayer] ?? 0) + 1
      this.asides.add([SAYS[sayer], name, accept, shelf].join(' '))
      const every = RULES[name as keyof typeof RULES]
      const fails = every !== undefined && n % every === 0
      if (fails) this.failed[name]!++
      request.on('data', (chunk: Buffer) => (this.bodyBytes += chunk.length))
      if (fails && name === 'Ask') return void request.socket.destroy()
      const status = fails && name === 'Look' ? 503 : 200
      const text = status === 503 ? 'come back later' : fails ? 'nothing here' : 'it is confirmed'
      this.sentBytes += text.length
      const timing = name === 'Slow' ? { 'server-timing': `queue;dur=3, total;dur=${INSIDE_MS}` } : {}
      setTimeout(() => response.writeHead(status, timing).end(text), name === 'Slow' ? SLOW_MS : 2)
    })
  }

  async listen(): Promise<string> {
    await new Promise<void>(r => this.server.listen(0, '127.0.0.1', r))
    return `127.0.0.1:${(this.server.address() as AddressInfo).port}`
  }

  close(): void {
    this.server.closeAllConnections()
    this.server.close()
  }
}

const think = { kind: 'uniform' as const, fromMs: 60, toMs: 140 }
const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [
    step({ name: 'Look', url: '/look', headers: [['accept', 'text/html']], think }),
    step({ name: 'Ask', method: 'POST', url: '/ask', body: { kind: 'json', text: BODY }, think }),
    step({
      name: 'Sum',
      url: '/sum',
      think,
      expect: [{ kind: 'status', allow: '200' }, { kind: 'body', rule: 'contains', value: 'confirmed' }],
    }),
  ],
})
/** Its first step is called as one of the other journey is. */
const glancing = journey({
  id: 'glancing',
  name: 'Glancing',
  round: [step({ name: 'Look', url: '/look', think }), step({ name: 'Slow', url: '/slow', think })],
})
const questioned: Plan = plan({
  targetId: 'failing',
  rehearse: false,
  groups: [
    {
      letter: 'A',
      name: 'Lookers',
      journeyId: 'looking',
      profile: hill(12, 1, 9, 1),
      clients: { 'phone-app': 5000, [PROGRAM.id]: 2500 },
    },
    { letter: 'B', name: 'Glancers', journeyId: 'glancing', profile: hill(6, 1, 9, 1) },
  ],
  locations: ['reyk', 'tavira'].map((region, i) => ({
    code: ['REY', 'TAV'][i]!,
    provider: 'nimbral',
    region,
    machineType: 'brisk-1',
    machines: i + 1,
  })),
  // Anyone who glances stands in TAV alone.
  placement: { A: { REY: 5000, TAV: 'rest' }, B: { TAV: 10_000 } },
  objectives: [{ metric: 'p95', step: 'Slow', atMost: SLOW_MS / 2, window: { everyS: 2 } }],
  assumedUsersPerVcpu: 60,
  exemplars: { failuresPerSecond: 1000, slowest: true, oneInPasses: 1, mostMb: 64 },
})

let house: House
let failing: FailingTarget
let run: RunView
let records: ExemplarsView['records']
beforeAll(async () => {
  failing = new FailingTarget()
  const host = await failing.listen()
  house = await House.build({
    plans: { questioned },
    journeys: [looking, glancing],
    targets: [
      target({
        id: 'failing',
        name: 'Failing target',
        baseUrl: `http://${host}`,
        insideName: 'total',
        approval: { hosts: [host], mostUsers: 100, until: '2999-01-01T00:00:00.000Z', contact: 'its owner' },
      }),
    ],
  })
  expect((await house.post(`clients/${PROGRAM.id}`, { client: PROGRAM }, 'PUT')).status).toBe(200)
  run = await house.ended(await house.startPlan('questioned'))
  records = []
  for (let second = 0; second <= run.summary!.lengthS; second++) {
    const found = await house.get<ExemplarsView>(
      `runs/${run.line.id}/exemplars?most=200&fromS=${second}&toS=${second + 1}`,
    )
    expect([found.records.length, found.dropped]).toEqual([found.total, 0])
    records.push(...found.records)
  }
}, 120_000)
afterAll(async () => {
  await house?.close()
  failing?.close()
}, 30_000)

const ask = async <T>(what: string, body: object): Promise<T> => {
  const { status, body: answer } = await house.post(`runs/${run.line.id}/${what}`, body)
  expect([status, status === 200 || answer]).toEqual([200, true])
  return answer as T
}
const locationOf = (r: (typeof records)[number]) => run.generators[r.generator]!.location
const VALUE: Partial<Record<Dimension, (r: (typeof records)[number]) => string>> = {
  step: r => stepKey(r.journeyId, r.step),
  group: r => r.group,
  journey: r => r.journeyId,
  location: locationOf,
  client: r => SAYS[r.request.headers.find(([name]) => name.toLowerCase() === 'user-agent')![1]]!,
  machine: r => run.generators[r.generator]!.name,
}
const percentile = (sorted: readonly number[], p: number) => sorted[Math.max(0, Math.ceil(p * sorted.length) - 1)]!

function expectIs(row: SliceRow['figures'], of: readonly (typeof records)[number][]): void {
  const right = of.filter(r => r.failure === undefined).map(r => r.timings.wholeMs).sort((a, b) => a - b)
  expect([row.right, row.failed]).toEqual([right.length, of.length - right.length])
  if (right.length === 0) return
  for (const [told, plain] of [
    [row.p50Ms, percentile(right, 0.5)],
    [row.p95Ms, percentile(right, 0.95)],
    [row.p99Ms, percentile(right, 0.99)],
    [row.minMs, right[0]!],
    [row.maxMs, right.at(-1)!],
  ] as const)
    // To the bin, and to the rounding of what is kept, ms.
    expect(Math.abs(told! - plain)).toBeLessThanOrEqual(Math.max(0.01, plain / 500))
}

it('merges what the target itself counted, by step of any journey', async () => {
  expect(run.line.state).toBe('settled')
  const { rows } = await ask<Slices>('slices', { fromS: 0, toS: 3600, rows: ['step'] })
  const merged: Record<string, number> = {}
  for (const { value, kind, figures } of rows)
    if (kind === 'request') {
      const name = value.split('/')[1]!
      merged[name] = (merged[name] ?? 0) + figures.started
    }
  expect(merged).toEqual(failing.received)
  // Two journeys have a step of this name, and each has its own.
  expect(rows.filter(r => r.value.endsWith('/Look')).map(r => r.value)).toEqual(['looking/Look', 'glancing/Look'])
})

it('counts by client what the target counted by what each said it is; a step’s own header goes before the client’s', async () => {
  const { rows } = await ask<Slices>('slices', { fromS: 0, toS: 3600, rows: ['client', 'group'] })
  const merged = Object.fromEntries(rows.map(r => [r.value, r.figures.started]))
  expect(merged).toEqual(Object.fromEntries(Object.entries(failing.bySayer).map(([sayer, n]) => [SAYS[sayer], n])))
  expect(Object.keys(merged).sort()).toEqual(['house-program', 'phone-app', 'plain'])
  // Anyone who glances has no client.
  expect(rows.filter(r => r.parts!.some(p => p.value === 'B' && p.figures.started > 0)).map(r => r.value)).toEqual(['plain'])
  expect([...failing.asides].filter(a => a.startsWith(PROGRAM.id)).sort()).toEqual([
    'house-program Ask text/plain north',
    'house-program Look text/html north',
    'house-program Sum text/plain north',
  ])
  // 12 lookers, half by REY's one machine and half by TAV's two: 6, 3 and 3 at both places together.
  const users = new Set(records.filter(r => r.group === 'A').map(r => `${VALUE.client!(r)} ${r.user}`))
  const usersOf = (client: string) => [...users].filter(u => u.startsWith(client)).length
  expect(['phone-app', 'house-program', 'plain'].map(usersOf)).toEqual([6, 3, 3])
  const { passes } = await house.get<PassesView>(`runs/${run.line.id}/passes?most=50`)
  expect(passes.length).toBeGreaterThan(0)
  for (const pass of passes) {
    const said = records.find(r => r.group === pass.group && r.user === pass.user && r.generator === pass.generator)!
    expect(pass.client ?? 'plain').toBe(VALUE.client!(said))
  }
})

it('rows by every two dimensions are what the exchanges say, over all and over windows', async () => {
  const dims = DIMENSIONS.filter(d => VALUE[d])
  for (const [fromS, toS] of [[0, 3600], [3, 8], [5, 6]] as const) {
    const there = records.filter(r => r.endedAtMs >= fromS * 1000 && r.endedAtMs < toS * 1000)
    for (const by of dims)
      for (const then of dims) {
        if (by === then) continue
        const { rows, whole } = await ask<Slices>('slices', { fromS, toS, rows: [by, then] })
        expectIs(whole, there)
        for (const row of rows) {
          if (row.kind !== undefined && row.kind !== 'request') continue
          const inRow = there.filter(r => VALUE[by]!(r) === row.value)
          expectIs(row.figures, inRow)
          for (const part of row.parts ?? [])
            if (part.kind === undefined || part.kind === 'request')
              expectIs(part.figures, inRow.filter(r => VALUE[then]!(r) === part.value))
        }
      }
  }
})

it('answers by status, bytes of bodies and connections are what the target and the exchanges say', async () => {
  const { whole } = await ask<Slices>('slices', { fromS: 0, toS: 3600, rows: ['group'] })
  expect([whole.bytesSent, whole.bytes]).toEqual([failing.bodyBytes, failing.sentBytes])
  const answered = records.filter(r => r.answer)
  const counted = (status: number, failure?: string) => ({
    status,
    ...(failure ? { failure } : {}),
    count: answered.filter(r => r.answer!.status === status && r.failure === failure).length,
  })
  expect(whole.answers).toEqual(
    [counted(200), counted(200, 'expectation'), counted(503, 'status')].sort((a, b) => b.count - a.count),
  )
  expect(whole.answers.reduce((sum, a) => sum + a.count, 0)).toBe(whole.started - failing.failed.Ask!)
  const made = records.filter(r => r.timings.connectMs >= 0)
  expect(whole.connects).toBe(made.length)
  // An address needs no lookup, and nothing here speaks TLS.
  expect([whole.lookupP50Ms, whole.tlsP50Ms]).toEqual([undefined, undefined])
})

it('the time inside is the target’s own word, and the rest of every answer was on the way', async () => {
  const { rows } = await ask<Slices>('slices', { fromS: 0, toS: 3600, rows: ['step'] })
  const slow = rows.find(r => r.value === stepKey('glancing', 'Slow'))!.figures
  const onTheWay = records
    .filter(r => r.step === 'Slow' && !r.failure)
    .map(r => r.timings.wholeMs - r.timings.insideMs!)
    .sort((a, b) => a - b)
  for (const [told, plain] of [
    [slow.insideP50Ms, INSIDE_MS],
    [slow.insideP95Ms, INSIDE_MS],
    [slow.onTheWayP50Ms, percentile(onTheWay, 0.5)],
    [slow.onTheWayP95Ms, percentile(onTheWay, 0.95)],
  ] as const)
    expect(Math.abs(told! - plain)).toBeLessThanOrEqual(plain / 500)
  // Anyone who does not say has none.
  expect(rows.find(r => r.value === stepKey('glancing', 'Look'))!.figures.insideP50Ms).toBeUndefined()
})

it('staffs draw second by second what the exchanges say, split by what one wishes', async () => {
  const splits = DIMENSIONS.filter(d => VALUE[d])
  const { courses, ...bins } = await ask<CoursesView>('courses', {
    fromS: 2,
    toS: 11,
    staffs: splits.flatMap(split => [
      { statistics: ['perSecond'], measure: 'right', split },
      { statistics: ['largest'], measure: 'answered', split },
    ]),
  })
  expect(bins).toEqual({ fromS: 2, toS: 11, binS: 1 })
  splits.forEach((split, s) => {
    const [counts, longest] = courses.slice(2 * s, 2 * s + 2)
    // Whole rounds are timed too, and are no exchanges.
    const known = new Set(records.map(VALUE[split]!))
    for (const { value, values } of counts!.lines.filter(l => known.has(l.value)))
      values.forEach((n, bin) => {
        const right = records.filter(r => !r.failure && VALUE[split]!(r) === value)
          .filter(r => Math.floor(r.endedAtMs / 1000) === 2 + bin)
          .map(r => r.timings.wholeMs)
        expect(n).toBe(right.length)
        const told = longest!.lines.find(l => l.value === value)!.values[bin]!
        if (right.length === 0) expect(told).toBeNull()
        else expect(Math.abs(told - Math.max(...right))).toBeLessThanOrEqual(0.01)
      })
    expect(counts!.lines.length).toBeGreaterThan(1)
  })
  const users = await ask<CoursesView>('courses', {
    fromS: 3,
    toS: 9,
    binS: 6,
    staffs: [{ statistics: ['present'], measure: 'users', split: 'group' }],
  })
  expect(users.courses[0]!.lines).toEqual([{ value: 'A', values: [12] }, { value: 'B', values: [6] }])
})

it('a staff of what a measure does not have is refused, with what there is', async () => {
  const refused = await house.post(`runs/${run.line.id}/courses`, {
    fromS: 0,
    toS: 9,
    staffs: [{ statistics: ['p95'], measure: 'sent' }],
  })
  expect([refused.status, refused.body]).toMatchObject([400, { code: 'staff', sentence: /“sent” has per second/ }])
})

it('every pass is kept whole: its exchanges are those that were kept of its user, in order, with their times', async () => {
  const kept: PassesView['passes'] = []
  for (const machine of run.generators.map(g => g.name)) {
    for (const group of ['A', 'B']) {
      const found = await house.get<PassesView>(`runs/${run.line.id}/passes?most=200&machines=${machine}&groups=${group}`)
      expect(found.passes).toHaveLength(found.total)
      expect(found.passes.map(p => p.busyMs)).toEqual(found.passes.map(p => p.busyMs).sort((a, b) => b - a))
      kept.push(...found.passes)
    }
  }
  const { kept: all } = await house.get<PassesView>(`runs/${run.line.id}/passes?most=1`)
  expect(kept).toHaveLength(all)
  const keyOf = (r: { generator: number, group: string, user: number, pass: number }) =>
    [r.generator, r.group, r.user, r.pass].join()
  const byPass = new Map<string, typeof records>()
  for (const r of records) byPass.set(keyOf(r), [...(byPass.get(keyOf(r)) ?? []), r])
  // A user who comes again counts its passes anew: none does here.
  expect(new Set(kept.map(keyOf)).size).toBe(kept.length)
  expect(kept.reduce((n, p) => n + p.exchanges.length, 0)).toBe(records.length)
  for (const pass of kept) {
    const of = byPass.get(keyOf(pass))!.sort((a, b) => a.endedAtMs - b.endedAtMs)
    expect(pass.exchanges.map(e => [e.step, e.status, e.failure, e.bytes, e.bytesSent])).toEqual(
      of.map(r => [r.step, r.answer?.status ?? 0, r.failure, r.answer?.bytes ?? 0, r.request.bodyBytes]),
    )
    pass.exchanges.forEach((e, i) => {
      expect(e.beganAtMs).toBeCloseTo(of[i]!.beganAtMs, 3)
      expect(e.endedAtMs - e.beganAtMs).toBeCloseTo(of[i]!.timings.wholeMs, 3)
      expect(e.insideMs).toBe(of[i]!.timings.insideMs)
    })
    expect(pass.failure).toBe(of.find(r => r.failure)?.failure)
    // One request at a time here: what it was busy with is their sum.
    expect(pass.busyMs).toBeCloseTo(of.reduce((ms, r) => ms + r.timings.wholeMs, 0), 1)
    expect(pass.endedAtMs).toBeGreaterThanOrEqual(of.at(-1)!.endedAtMs)
  }
  // Under way at one second: those that had begun and were not over.
  const { passes, total } = await house.get<PassesView>(`runs/${run.line.id}/passes?most=200&atS=5`)
  const then = kept.filter(p => p.beganAtMs <= 5000 && p.endedAtMs >= 5000)
  expect(new Set(passes.map(keyOf))).toEqual(new Set(then.map(keyOf)))
  expect([total, total <= 18]).toEqual([then.length, true])
  const failed = await house.get<PassesView>(`runs/${run.line.id}/passes?most=200&failed=true&locations=REY`)
  expect(failed.total).toBe(kept.filter(p => p.failure && locationOf(p as never) === 'REY').length)
})

it('its files say what the run said: every second by step, exchanges as HAR, objectives as JUnit XML', async () => {
  const file = async (name: string) => {
    const answer = await fetch(`${house.url}/api/runs/${run.line.id}/${name}`)
    expect([answer.status, answer.headers.get('content-disposition')]).toEqual([200, expect.stringContaining('attachment')])
    return answer.text()
  }
  const rows = parse(await file('seconds.csv?by=step'), { columns: true }) as Record<string, string>[]
  const requests = rows.filter(r => records.some(x => VALUE.step!(x) === r.step))
  const started: Record<string, number> = {}
  for (const { step, started: n } of requests) {
    const name = step!.split('/')[1]!
    started[name] = (started[name] ?? 0) + Number(n)
  }
  expect(started).toEqual(failing.received)
  expect(requests.reduce((n, r) => n + Number(r.failed), 0)).toBe(records.filter(r => r.failure).length)
  const lines = (await file('seconds.jsonl?by=machine')).trim().split('\n').map(l => JSON.parse(l) as Record<string, number>)
  expect(lines.reduce((n, l) => n + l.right!, 0)).toBe(records.filter(r => !r.failure).length)
  const { log } = JSON.parse(await file('exchanges.har')) as { log: { entries: { _step: string, time: number }[] } }
  const longest = [...records].sort((a, b) => b.timings.wholeMs - a.timings.wholeMs).slice(0, log.entries.length)
  expect(log.entries.length).toBe(Math.min(2000, records.length))
  expect(Math.max(...log.entries.map(e => e.time))).toBe(longest[0]!.timings.wholeMs)
  const xml = await file('objectives.xml')
  expect((xml.match(/<testcase /g) ?? []).length).toBe(run.summary!.answer.judgements.length)
})

it('what is chosen counts, and nothing else', async () => {
  const { whole, rows } = await ask<Slices>('slices', {
    fromS: 0,
    toS: 3600,
    rows: ['location'],
    only: { group: ['A'], step: [stepKey('looking', 'Ask')] },
  })
  expectIs(whole, records.filter(r => r.group === 'A' && r.step === 'Ask'))
  expect(rows.map(r => r.value)).toEqual(['REY', 'TAV'])
  const ofOne = { fromS: 3, toS: 8, rows: ['step'], only: { machine: ['TAV-2'] } }
  expectIs(
    (await ask<Slices>('slices', ofOne)).whole,
    records.filter(r => VALUE.machine!(r) === 'TAV-2' && r.endedAtMs >= 3000 && r.endedAtMs < 8000),
  )
  const [spread] = await ask<Distribution[]>('distributions', { of: [{ ...ofOne, rows: undefined }], limitsMs: [50] })
  const right = records.filter(
    r => VALUE.machine!(r) === 'TAV-2' && !r.failure && r.endedAtMs >= 3000 && r.endedAtMs < 8000,
  )
  expect([spread!.right, spread!.bands[1]!.count]).toEqual([
    right.length,
    right.filter(r => r.timings.wholeMs > 50).length,
  ])
})

it('names each way in which the target failed, with its count, its step and its seconds', async () => {
  const report = await ask<FailureReport>('failures', { fromS: 0, toS: 3600 })
  const counts = Object.fromEntries(
    report.kinds.map(k => [k.kind, Object.fromEntries(k.steps.map(([key, n]) => [key.split('/')[1], n]))]),
  )
  // A step of two journeys is counted once by the target.
  const looks = report.kinds.find(k => k.kind === 'status')!.steps.reduce((sum, [, n]) => sum + n, 0)
  expect(looks).toBe(failing.failed.Look)
  expect(counts.reset).toEqual({ Ask: failing.failed.Ask })
  expect(counts.expectation).toEqual({ Sum: failing.failed.Sum })
  expect(report.failed).toBe(Object.values(failing.failed).reduce((a, b) => a + b, 0))
  expect(report.ended).toBe(records.length)
  // A wrong status is told with its number.
  expect(report.kinds.filter(k => k.kind === 'status').map(k => k.status)).toEqual([503])
  const { total } = await house.get<ExemplarsView>(`runs/${run.line.id}/exemplars?most=1&failure=status&status=503`)
  expect(total).toBe(failing.failed.Look)
  expect((await house.get<ExemplarsView>(`runs/${run.line.id}/exemplars?most=1&status=404`)).total).toBe(0)
  for (const line of report.kinds) {
    const mine = records.filter(r => r.failure === line.kind).map(r => Math.floor(r.endedAtMs / 1000))
    expect([line.count, line.firstS, line.lastS]).toEqual([mine.length, Math.min(...mine), Math.max(...mine)])
  }
})

it('tells every stretch in which the slow step was over its limit, and its worst as the window has it', async () => {
  const judged = run.summary!.broken!.filter(s => s.judged)
  expect(run.line.verdict).toBe('broken')
  expect(judged.length).toBeGreaterThan(0)
  // It was told while it loaded, too.
  const told = run.changes.filter(c => c.event === 'objectiveBroken')
  expect(told.map(c => c.about)).toContain('p95 of Slow')
  expect(told[0]!.at).toBeLessThan(run.changes.find(c => c.event === 'planOver')!.at)
  for (const s of judged) {
    expect(s.worst).toBeGreaterThanOrEqual(SLOW_MS)
    const window = await house.get<WindowView>(`runs/${run.line.id}/window?from=${s.worstFromS}&to=${s.worstToS}`)
    expect(s.worst).toBe(window.objectives[s.objective]!.figures.p95Ms)
  }
})

it('keeps a name, notes and tags, in order and each once; refuses what is too long', async () => {
  const about = { name: ' Morning ', notes: 'fifth replica was late', tags: ['cold', ' cold', 'staging'], pinned: true }
  expect((await house.post(`runs/${run.line.id}/about`, about, 'PUT')).status).toBe(200)
  const now = await house.run(run.line.id)
  expect([now.line.name, now.line.tags, now.line.pinned, now.notes]).toEqual([
    'Morning',
    ['cold', 'staging'],
    true,
    about.notes,
  ])
  expect((await house.post(`runs/${run.line.id}/about`, { ...about, name: 'x'.repeat(81) }, 'PUT')).status).toBe(400)
  expect((await house.post('runs/99/about', about, 'PUT')).status).toBe(404)
  expect((await house.run(run.line.id)).line.name).toBe('Morning')
  const lines = await house.get<{ id: number, name: string }[]>('runs')
  expect(lines.map(l => l.name)).toEqual(['Morning'])
  expect(await house.get<object[]>(`runs?before=${run.line.id}`)).toEqual([])
})

it('tells machines apart in whole stretches once what they sent is folded, and nothing else otherwise', async () => {
  const before = { slices: await ask<Slices>('slices', { fromS: 3, toS: 8, rows: ['step'] }), seconds: await house.get<object[]>(`runs/${run.line.id}/seconds`) }
  const endS = run.summary!.lengthS
  expect((await house.post(`runs/${run.line.id}/fold`, {})).status).toBe(200)
  await house.runUntil(run.line.id, r => r.foldedAt !== undefined, 'to be folded')
  expect((await house.post(`runs/${run.line.id}/fold`, {})).body).toMatchObject({ code: 'fold' })
  expect(await ask<Slices>('slices', { fromS: 3, toS: 8, rows: ['step'] })).toEqual(before.slices)
  expect(await house.get<object[]>(`runs/${run.line.id}/seconds`)).toEqual(before.seconds)
  const whole = await ask<Slices>('slices', { fromS: 0, toS: 3600, rows: ['machine'] })
  expect(whole.over).toBeUndefined()
  for (const row of whole.rows) expectIs(row.figures, records.filter(r => VALUE.machine!(r) === row.value))
  // Stretches of 10 s: the run was shorter than 100 s.
  const part = await ask<Slices>('slices', { fromS: 3, toS: 8, rows: ['machine'] })
  expect(part.over).toEqual({ fromS: 0, toS: 10 })
  for (const row of part.rows)
    expectIs(row.figures, records.filter(r => VALUE.machine!(r) === row.value && r.endedAtMs < 10_000))
  const staffs = [{ statistics: ['perSecond'], measure: 'sent', split: 'machine' }]
  const course = await ask<CoursesView>('courses', { fromS: 3, toS: 8, most: 100, staffs })
  expect([course.fromS, course.toS, course.binS]).toEqual([0, 10, 10])
  const only = { machine: ['TAV-2'] }
  const refused = await house.post(`runs/${run.line.id}/distributions`, { of: [{ fromS: 3, toS: 8, only }], limitsMs: [50] })
  expect([refused.status, refused.body]).toMatchObject([409, { code: 'folded', remedy: 'Ask for seconds 0 to 10, or not by machine.' }])
  const [spread] = await ask<Distribution[]>('distributions', { of: [{ fromS: 0, toS: endS, only }], limitsMs: [50] })
  expect(spread!.right).toBe(records.filter(r => VALUE.machine!(r) === 'TAV-2' && !r.failure).length)
  expect((await house.post(`runs/${run.line.id}/failures`, { fromS: 0, toS: endS, only })).body).toMatchObject({ code: 'folded' })
  const response = await fetch(`${house.url}/api/runs/${run.line.id}/seconds.jsonl?by=machine`)
  expect(response.status).toBe(409)
})

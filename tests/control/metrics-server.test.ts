/** A metrics server's query API, on the one that Debian ships, which reads the portal's page. */
import { spawnSync } from 'node:child_process'
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { Inbox } from '../../control/target/inbox'
import { PageFetcher } from '../../control/target/page'
import { SourceTrouble } from '../../control/target/trouble'
import { ServerReader } from '../../control/target/server-reader'
import type { SourceReading } from '../../control/target/source-reader'
import { trySource } from '../../control/target/trying'
import type { SeriesChoice, Source } from '../../core/target/source'
import type { Target } from '../../core/journey/target'
import { createPortal, type Portal } from '../../standins/enrolment-portal/portal'
import { RealMetricsServer } from '../build/metrics-server'
import { target as someTarget } from '../build/plans'

const now = () => Date.now()
/** Nothing runs on hosts here, and nothing is sent. */
const around = { commands: { open: () => Promise.reject(new Error('no host')) }, inbox: new Inbox() }
const wait = (ms: number) => new Promise(r => setTimeout(r, ms))
/** A page whose values are old when they come. */
const LATE_MS = 40_000
let late: Server
let portal: Portal
let page = ''
let server: RealMetricsServer
let target: Target
let fetcher: PageFetcher
beforeAll(async () => {
  portal = createPortal()
  await new Promise<void>(r => portal.server.listen(0, '127.0.0.1', r))
  page = `127.0.0.1:${(portal.server.address() as AddressInfo).port}`
  late = createServer((_, response) => response.end(`late 1 ${Date.now() - LATE_MS}\n`))
  await new Promise<void>(r => late.listen(0, '127.0.0.1', r))
  server = await RealMetricsServer.start([page, `127.0.0.1:${(late.address() as AddressInfo).port}`])
  target = someTarget({
    baseUrl: `http://${page}`,
    approval: { hosts: [page], readFrom: [server.host], mostUsers: 1, until: '2999-01-01T00:00:00Z', contact: 'x' },
  })
  fetcher = new PageFetcher(target, {}, now)
}, 60_000)
afterAll(async () => {
  await fetcher.close()
  await server.stop()
  late.closeAllConnections()
  late.close()
  portal.server.closeAllConnections()
  portal.server.close()
})
afterEach(() => faults({}))

const faults = (of: object) => fetch(`http://${page}/metrics/faults`, { method: 'POST', body: JSON.stringify(of) })
const call = (run: number, step: string) =>
  fetch(`http://${page}/timetable`, { headers: { 'vornak-run': String(run), 'vornak-step': step } })
const source = (...series: Partial<SeriesChoice>[]): Source => ({
  name: 'server',
  kind: 'server',
  address: server.address,
  everyS: 1,
  series: series.map((s, i) => ({ name: `s${i}`, of: 'portal_replicas', kind: 'gauge', ...s })),
})
/** Reads each second, for a number of seconds. */
async function readFor(reader: ServerReader, seconds: number): Promise<SourceReading[]> {
  const all: SourceReading[] = []
  for (let i = 0; i < seconds; i++) {
    all.push(await reader.read())
    await wait(1000)
  }
  return all
}
const pointsOf = (readings: SourceReading[], series = 0) =>
  readings.flatMap(r => r.points).filter(p => p.series === series)
async function until(what: () => Promise<boolean>): Promise<void> {
  for (let i = 0; i < 40; i++) {
    if (await what()) return
    await wait(500)
  }
  throw new Error('it did not come to it')
}
/** Stamps of a selector's samples as the server keeps them, ms since 1970. */
async function keptStamps(selector: string): Promise<number[]> {
  const answer = await fetch(`${server.address}/api/v1/query?query=${encodeURIComponent(`${selector}[60s]`)}`)
  const { data } = (await answer.json()) as { data: { result: { values: [number, string][] }[] } }
  return data.result[0]!.values.map(([atS]) => Math.round(atS * 1000))
}

it('every sample stands once, at the moment the server keeps it for, though readings come late', async () => {
  await until(async () => (await new ServerReader(source({}), fetcher, 1).read()).points.length > 0)
  const reader = new ServerReader(source({}), fetcher, 1)
  const readings = await readFor(reader, 4)
  // Nobody asks for a while: what lies between is not lost.
  await wait(4000)
  readings.push(...(await readFor(reader, 2)))
  const offsetMs = readings[readings.length - 1]!.clock!.offsetMs
  const points = pointsOf(readings)
  const stamps = points.map(p => Math.round(p.atMs + offsetMs))
  const kept = (await keptStamps('portal_replicas')).filter(at => at >= stamps[0]! - 50 && at <= stamps[stamps.length - 1]! + 50)
  expect(points.map(p => p.value)).toEqual(points.map(() => 2))
  expect(kept.length).toBeGreaterThanOrEqual(9)
  expect(stamps).toHaveLength(kept.length)
  stamps.forEach((at, i) => expect(Math.abs(at - kept[i]!)).toBeLessThan(60))
}, 60_000)

it('a counter by step is what was called, the run filled in; a query that works out its own has lines, too', async () => {
  const counted = source(
    { name: 'calls', of: 'portal_calls_total{run="{{run}}"}', kind: 'count', by: 'step', standsFor: 'calls' },
    { name: 'rate', of: 'sum by (step) (rate(portal_calls_total[5s]))', by: 'step' },
    { name: 'sum', of: 'sum(portal_calls_total{run="41"}) * 100', factor: 0.01 },
  )
  const reader = new ServerReader(counted, fetcher, 41)
  await reader.read()
  for (let i = 0; i < 17; i++) await call(41, i < 12 ? 'Look' : 'Ask')
  await call(40, 'Look')
  const readings = await readFor(reader, 6)
  const last = (series: number, split: string) =>
    pointsOf(readings, series).filter(p => p.split === split).pop()?.value
  expect([last(0, 'Look'), last(0, 'Ask')]).toEqual([12, 5])
  expect(last(2, '')).toBe(17)
  expect(new Set(pointsOf(readings, 1).map(p => p.split))).toEqual(new Set(['Look', 'Ask']))
}, 60_000)

it('a page that is 40 s old is 40 s old in a selector and in a sum, not as old as the question', async () => {
  const reader = new ServerReader(source({ of: 'late' }, { of: 'sum(late) + 0' }), fetcher, 1)
  await until(async () => (await reader.read()).points.length > 0)
  const readings = await readFor(reader, 4)
  const ages = readings.flatMap(r => r.ageMs ?? [])
  expect(ages.length).toBeGreaterThanOrEqual(3)
  for (const age of ages) expect(Math.abs(age - LATE_MS)).toBeLessThan(1500)
  for (const series of [0, 1]) {
    const points = pointsOf(readings, series)
    expect(points.length).toBeGreaterThanOrEqual(3)
    expect(Math.abs(Date.now() - 1000 - points[points.length - 1]!.atMs - LATE_MS)).toBeLessThan(1500)
  }
}, 60_000)

describe('what goes wrong is said, with its step', () => {
  const troubleOf = (of: Source) =>
    new ServerReader(of, fetcher, 1).read().then(
      () => undefined,
      (error: unknown) => error as SourceTrouble,
    )

  it('a page that is not read any more leaves a gap, and says no old value anew', async () => {
    const reader = new ServerReader(source({ of: 'portal_connections' }), fetcher, 1)
    await until(async () => (await reader.read()).points.length > 0)
    await faults({ fails: true })
    await wait(2500)
    await reader.read()
    const silent = await readFor(reader, 3)
    expect(pointsOf(silent)).toEqual([])
    await faults({})
    await until(async () => (await reader.read()).points.length > 0)
  }, 60_000)

  it('a query the server refuses, in its words', async () => {
    const trouble = await troubleOf(source({ of: 'rate(portal_calls_total)' }))
    expect(trouble).toBeInstanceOf(SourceTrouble)
    expect(trouble!.step).toBe('answer')
    expect(trouble!.message).toMatch(/answers 400: .*expected type range vector/)
  })

  it('something that is no metrics server', async () => {
    const trouble = await troubleOf({ ...source({}), address: `http://${page}` })
    expect(trouble).toMatchObject({ step: 'answer' })
  })
})

it('a try says what it knows, what would be read, and how it was', async () => {
  const library = { target: () => target, secretsOf: () => ({}) }
  const tried = await trySource('t', source({ of: 'portal_calls_total', kind: 'count', by: 'step' }), library, { ...around, now })
  expect(tried.steps.every(s => s.isRight)).toBe(true)
  expect(tried.offered.find(o => o.of === 'portal_call_seconds_bucket')).toBeDefined()
  expect(tried.offered.find(o => o.of === 'portal_replicas')).toMatchObject({ type: 'gauge' })
  const [found] = tried.found
  expect(found!.labels).toEqual(expect.arrayContaining(['run', 'step']))
  expect(found!.course!.length).toBeGreaterThan(2)
  expect(found!.course![found!.course!.length - 1]!.value).toBeGreaterThanOrEqual(18)
  // Its clock is this computer's.
  expect(Math.abs(tried.clock!.offsetMs)).toBeLessThan(50)
})

it('its text checker finds nothing in the portal’s page', async () => {
  await call(9, 'Look "with" quotes \\ and more')
  const text = await (await fetch(`http://${page}/metrics`, { headers: { accept: 'text/plain; version=0.0.4' } })).text()
  const { status, stdout, stderr } = spawnSync('/usr/bin/promtool', ['check', 'metrics'], { input: text, encoding: 'utf8' })
  expect({ status, said: `${stdout}${stderr}` }).toEqual({ status: 0, said: '' })
})

/**
 * Results from elsewhere, on real processes: programs of the examples tell of a run while they measure, through a
 * restart; a run's own exchanges and its own histogram log give its own figures again; an archive is the same run
 * elsewhere.
 */
import { execFileSync, spawn } from 'node:child_process'
import { createHash } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { OpenedStream, RunLine, RunView, StreamsView, WindowView } from '../../api/views'
import type { Recognised } from '../../core/elsewhere/recognise'
import type { Figures } from '../../core/merge/figures'
import { freePort } from '../../scripts/ports.cjs'
import { House } from '../build/house'
import { refusals } from '../build/one-door'
import { hill, journey, plan, step } from '../build/plans'

const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [
    step({ name: 'Look', url: '/timetable', think: { kind: 'uniform', fromMs: 100, toMs: 300 } }),
    step({ name: 'Again', url: '/timetable?again=1', think: { kind: 'fixed', ms: 100 } }),
  ],
})
let house: House
let target: Server
/** What the target itself counted, by path. */
const received: Record<string, number> = {}
let targetUrl: string
beforeAll(async () => {
  const port = await freePort()
  target = createServer((request, answer) => {
    received[request.url!] = (received[request.url!] ?? 0) + 1
    answer.statusCode = request.url === '/broken' ? 500 : 200
    answer.end('hello')
  }).listen(port, '127.0.0.1')
  targetUrl = `http://127.0.0.1:${port}`
  house = await House.build({
    plans: {
      few: plan({
        targetId: 'enrolment-portal',
        rehearse: false,
        groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(5, 1, 14, 1) }],
        locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
        placement: { A: { REY: 'rest' } },
        objectives: [{ metric: 'p95', step: 'Look', atMost: 2000 }],
        exemplars: { failuresPerSecond: 1000, slowest: false, oneInPasses: 1, mostMb: 64 },
      }),
    },
    journeys: [looking],
  })
}, 60_000)
afterAll(async () => {
  target?.close()
  await house?.close()
})

async function open(...places: string[]): Promise<{ run: number, streams: OpenedStream[] }> {
  const { status, body } = await house.post('elsewhere/streams', { name: 'From the branches', places })
  if (status !== 200) throw new Error(JSON.stringify(body))
  return body as unknown as { run: number, streams: OpenedStream[] }
}
/** @returns what it wrote on standard error, once it has ended */
function example(
  [program, ...args]: string[],
  { token }: OpenedStream,
  env: Record<string, string> = {},
): Promise<string> {
  const child = spawn(program!, args, {
    cwd: join(__dirname, '..', '..', 'examples', 'told-live'),
    env: { ...process.env, VORNAK: house.url, TOKEN: token, ...env },
  })
  let said = ''
  child.stderr.on('data', (text: Buffer) => (said += text.toString()))
  return new Promise((resolve, reject) => child.on('exit', code => (code === 0 ? resolve(said) : reject(new Error(said)))))
}
const tell = (token: string, path: string, body: string) =>
  fetch(`${house.url}/api/told/${path}`, { method: 'POST', headers: { authorization: `Bearer ${token}` }, body })
async function whole(run: number): Promise<Figures> {
  return (await house.get<{ total: Figures }>(`runs/${run}/window?from=0&to=3600`)).total
}

it('two programs tell of one run, through a restart; what was merged is what the target counted', async () => {
  const { run, streams } = await open('branch office', 'data centre')
  expect((await house.run(run)).line).toMatchObject({ state: 'armed', isClaimed: true })
  const ended = [
    example(['node', 'tell.mjs', `${targetUrl}/a`, '25'], streams[0]!, { SECONDS: '12' }),
    example(['sh', 'tell.sh', `${targetUrl}/b`, '250'], streams[1]!),
  ]
  await house.runUntil(run, r => r.line.state === 'loading', 'to be told of')
  // Figures are there while it goes on.
  const loading = (r: RunView) => r.line.startAt !== undefined && r.now - r.line.startAt > 4000
  await house.runUntil(run, loading, 'to be told of for 4 s')
  const seconds = await house.get<{ second: number, started: number }[]>(`runs/${run}/seconds`)
  const { now, line } = await house.run(run)
  const newest = Math.max(...seconds.filter(s => s.started > 0).map(s => s.second))
  expect(Math.floor((now - line.startAt!) / 1000) - newest).toBeLessThanOrEqual(3)
  await house.kill('vornak')
  await house.startVornak()
  await Promise.all(ended)
  const over = await house.ended(run)
  expect(over.line.state).toBe('settled')
  const found = await whole(run)
  expect(found).toMatchObject({ started: received['/a']! + received['/b']!, failed: 0 })
  expect(over.summary!.ledger).toMatchObject({ balanced: true, missing: 0 })
  expect(over.changes.map(c => c.event)).toEqual(expect.arrayContaining(['toldOf', 'started', 'vornakAway', 'planOver', 'closedAsPlanned']))
  expect(await house.get<StreamsView>(`runs/${run}/streams`)).toMatchObject([{ place: 'branch office', faulty: 0 }, { place: 'data centre', taken: 250 }])
  expect(over.document.plan.locations.map(l => l.code)).toEqual(['BRA', 'DAT'])
  expect((await tell(streams[0]!.token, 'lines', '{}')).status).toBe(409)
}, 120_000)

it('a token opens its own stream and nothing else; lines that are none are told one by one', async () => {
  const { run, streams } = await open('here')
  const { token } = streams[0]!
  const answer = await tell(token, 'lines?batch=1', `{"step":"Look","duration":12.5,"ok":true}\nrubbish\n`)
  expect(await answer.json()).toEqual({ taken: 1, faults: [{ line: 2, sentence: 'it is not JSON' }], faultCount: 1 })
  expect(await (await tell(token, 'lines?batch=1', `{"step":"Look","duration":12.5,"ok":true}`)).json()).toMatchObject({ again: true, taken: 0 })
  for (const { id, isRefused, isOthers } of await refusals(house.url, token, 'stream', run))
    expect([id, isRefused]).toEqual([id, isOthers])
  expect((await tell('vornak-stream_none', 'lines', '{}')).status).toBe(401)
  // One of the operations just asked was the last word.
  expect((await house.ended(run)).summary!.whole).toMatchObject({ started: 1, right: 1 })
}, 60_000)

it('whose first word is the last is over, and said to be; lines told as it is ended are answered', async () => {
  const mute = await open('here')
  expect((await tell(mute.streams[0]!.token, 'end', '{}')).status).toBe(200)
  expect((await house.ended(mute.run)).line.sentence).toContain('nothing was told of it')
  const { run, streams } = await open('here')
  const line = '{"step":"Look","duration":1,"ok":true}'
  await tell(streams[0]!.token, 'lines?batch=1', line)
  const late = tell(streams[0]!.token, 'lines?batch=2', line)
  await house.post(`runs/${run}/stop`, {})
  const isTaken = (await late).status === 200
  expect((await house.ended(run)).summary!.whole.started).toBe(isTaken ? 2 : 1)
}, 60_000)

describe('a run of one’s own', () => {
  let own: RunView
  let figures: Figures
  beforeAll(async () => {
    own = await house.ended(await house.startPlan('few'))
    figures = await whole(own.line.id)
  }, 90_000)

  async function imported(name: string, content: string): Promise<RunLine> {
    const file = await house.upload(Buffer.from(content), name)
    const { body: seen } = await house.post('elsewhere/recognise', { file })
    const { reading } = seen as unknown as Recognised
    const { status, body } = await house.post('elsewhere/runs', {
      name: `${name} again`,
      files: [{ file, name, reading, place: 'REY', shiftMs: 0 }],
      objectives: ['p95 of Look at most 2 s'],
      build: '4.2',
    })
    if (status !== 200) throw new Error(JSON.stringify(body))
    return body as unknown as RunLine
  }
  const text = async (path: string) => (await fetch(`${house.url}/api/runs/${own.line.id}/${path}`)).text()

  it('its exchanges, from its HAR, give its figures', async () => {
    const har = await text('exchanges.har')
    const line = await imported('own.har', har)
    expect(line).toMatchObject({ state: 'settled', isClaimed: true, soundness: 'qualified', build: '4.2', verdict: own.line.verdict })
    const again = await whole(line.id)
    // A user who was cut off at the end had no answer, and is in no HAR.
    const { right, failed, started, cut } = figures
    expect(again).toMatchObject({ right, failed, started: started - cut })
    for (const p of ['p50Ms', 'p95Ms', 'p99Ms'] as const) expect(Math.abs(again[p]! / figures[p]! - 1)).toBeLessThan(0.005)
    const report = await (await fetch(`${house.url}/api/runs/${line.id}/report.md`)).text()
    expect(report).toContain('told as claimed')
    expect(report).not.toMatch(/Played by|the generator saw|planned:/)
    // Within one request: a moment in a HAR is a millisecond.
    const seconds = async (id: number) => (await house.get<{ started: number }[]>(`runs/${id}/seconds`)).map(s => s.started)
    const [a, b] = [await seconds(own.line.id), await seconds(line.id)]
    for (let s = 2; s < 12; s++) expect(Math.abs(a[s]! - b[s]!)).toBeLessThanOrEqual(8)
  }, 60_000)

  it('its histogram log gives its percentiles', async () => {
    const { id } = await imported('own.hlog', await text('histograms'))
    const byStep = async (run: number) =>
      Object.fromEntries((await house.get<{ steps: { step: string, figures: Figures }[] }>(`runs/${run}/window?from=0&to=3600`)).steps.map(
        ({ step: name, figures: f }) => [name.replace(/ /g, '_'), [f.right, f.p50Ms, f.p95Ms, f.p99Ms]],
      ))
    expect(await byStep(id)).toMatchObject(await byStep(own.line.id))
  }, 60_000)

  it('is joined by what another program measured: a new run with both, and what it was before itself', async () => {
    const { id, startAt } = own.line
    const lines = Array.from({ length: 120 }, (_, i) => `${startAt! + 2000 + i * 100},Look,${50 + i},true`)
    const csv = ['time,step,duration_ms,ok', ...lines].join('\n')
    const file = await house.upload(Buffer.from(csv), 'south.csv')
    const { body: seen } = await house.post('elsewhere/recognise', { file })
    const { reading } = seen as unknown as Recognised
    const files = [{ file, name: 'south.csv', reading, place: 'South', shiftMs: 0 }]
    const join = (joins: number) => house.post('elsewhere/runs', { name: 'both', files, joins })
    const { status, body } = await join(id)
    expect(status).toBe(200)
    const line = body as unknown as RunLine
    expect(line).toMatchObject({ isClaimed: true, state: 'settled' })
    // What the target counted of the run's own requests, and the rows.
    const received = await house.receivedByStep(id)
    const window = async (run: number) => house.get<WindowView>(`runs/${run}/window?from=0&to=3600`)
    const [before, all] = [await window(id), await window(line.id)]
    const started = (step: string) => all.steps.find(s => s.step === step)!.figures.started
    expect(started('Look')).toBe(received.Look! + 120)
    expect(started('Again')).toBe(received.Again)
    // Its location's figures are its own, to the last bucket.
    const there = all.locations.find(l => l.code === 'REY')!.figures
    const { passes: _, ...whole } = before.total
    expect(there).toMatchObject(whole)
    expect((await house.run(line.id)).changes[0]!.reason).toBe(`run ${id} with what was measured elsewhere, from south.csv`)
    const report = await (await fetch(`${house.url}/api/runs/${line.id}/report.md`)).text()
    expect(report).toContain('by generators of Vornak')
    // It stays as it was.
    expect(await window(id)).toEqual(before)
    expect((await house.run(id)).line).toEqual(own.line)
    expect((await join(999)).status).toBe(404)
  }, 60_000)

  it('a template of reading is kept, and what is not there is said', async () => {
    const template = { name: 'nightly', reading: { form: 'csv', columns: { time: 't' }, timeUnit: 's' } }
    expect((await house.post('elsewhere/templates', template)).status).toBe(200)
    expect(await house.get('elsewhere/templates')).toEqual([template])
    expect((await house.post('elsewhere/templates/remove', { name: 'other' })).status).toBe(404)
    expect((await house.post('elsewhere/templates/remove', { name: 'nightly' })).status).toBe(200)
    const files = [{ file: 'f'.repeat(64), name: 'x.csv', reading: template.reading, place: 'x', shiftMs: 0 }]
    expect((await house.post('elsewhere/runs', { name: 'x', files })).status).toBe(404)
    expect((await house.post('elsewhere/runs', { name: 'x', files: [{ ...files[0], reading: { form: 'tea', columns: {} } }] })).status).toBe(400)
  })
})

describe('an archive', () => {
  let other: House
  beforeAll(async () => {
    other = await House.build({ plans: {}, journeys: [] })
  }, 60_000)
  afterAll(() => other?.close())

  const bytesOf = async (from: House, run: number) =>
    Buffer.from(await (await fetch(`${from.url}/api/runs/${run}/archive`)).arrayBuffer())
  async function opened(archive: Uint8Array): Promise<{ status: number, body: Record<string, unknown> }> {
    return other.post('elsewhere/archives', { file: await other.upload(archive, 'run.tgz') })
  }

  it('is opened by an empty installation as the same run, bit for bit', async () => {
    const own = await house.ended(await house.startPlan('few'))
    const archive = await bytesOf(house, own.line.id)
    const { status, body } = await opened(archive)
    expect([status, body.openedFrom]).toEqual([200, own.line.id])
    const id = body.id as number
    const there = await other.run(id)
    expect(there.line).toMatchObject({ ...own.line, id, openedFrom: own.line.id })
    for (const key of ['document', 'summary', 'changes', 'machines', 'generators', 'rollCall', 'cost', 'lengthS'] as const)
      expect(there[key]).toEqual(own[key])
    const asked = ['window?from=0&to=3600', 'window?from=3&to=9', 'seconds', 'exemplars?most=50', 'passes', 'machines', 'objectives.xml', 'seconds.csv', 'leftovers']
    for (const path of asked) {
      const of = async (from: House, run: number) => (await fetch(`${from.url}/api/runs/${run}/${path}`)).text()
      expect(await of(other, id)).toBe(await of(house, own.line.id))
    }
    // Packed again it holds the same bytes.
    expect(await hashes(await bytesOf(other, id))).toEqual(await hashes(archive))
  }, 120_000)

  it('that was changed, cut off, or is none is refused, and leaves nothing', async () => {
    const [{ id }] = await house.get<[RunLine]>('runs')
    const archive = await bytesOf(house, id)
    const before = await other.get<RunLine[]>('runs')
    for (const spoilt of [archive.subarray(0, archive.length / 2), Buffer.from('hello'), changed(archive), without(archive), forged(archive)]) {
      const { status, body } = await opened(spoilt)
      expect([status, body.code]).toEqual([400, 'archive'])
    }
    expect(await other.get<RunLine[]>('runs')).toEqual(before)
    expect(readdirSync(join(other.folder, 'runs')).filter(name => name.startsWith('archive-'))).toEqual([])
  }, 60_000)

  it('of a run that goes on cannot be had', async () => {
    const { run } = await open('here')
    expect(await (await fetch(`${house.url}/api/runs/${run}/archive`)).json()).toMatchObject({ code: 'archive' })
    await house.post(`runs/${run}/stop`, {})
  })

  /** SHA-256 of each file but what the archive says of itself, by the system's own tar. */
  async function hashes(archive: Uint8Array): Promise<Record<string, string>> {
    const folder = unpacked(archive)
    return Object.fromEntries(readdirSync(folder).filter(name => name !== 'archive.json').map(name => [name, createHash('sha256').update(readFileSync(join(folder, name))).digest('hex')]))
  }
  function unpacked(archive: Uint8Array): string {
    const folder = mkdtempSync(join(tmpdir(), 'vornak-archive-'))
    execFileSync('tar', ['xzf', '-', '-C', folder], { input: archive })
    return folder
  }
  const packed = (folder: string) => execFileSync('tar', ['czf', '-', '-C', folder, ...readdirSync(folder)], { maxBuffer: 1e9 })
  function changed(archive: Uint8Array): Buffer {
    const folder = unpacked(archive)
    writeFileSync(join(folder, 'summary.json'), readFileSync(join(folder, 'summary.json'), 'utf8').replace(/"started":\d/, '"started":9'))
    return packed(folder)
  }
  /** As it was packed, by what it says; and yet no result. */
  function forged(archive: Uint8Array): Buffer {
    const folder = unpacked(archive)
    const contents = JSON.parse(readFileSync(join(folder, 'archive.json'), 'utf8')) as { files: Record<string, string> }
    writeFileSync(join(folder, 'summary.json'), '{}')
    contents.files['summary.json'] = createHash('sha256').update('{}').digest('hex')
    writeFileSync(join(folder, 'archive.json'), JSON.stringify(contents))
    return packed(folder)
  }
  function without(archive: Uint8Array): Buffer {
    const folder = unpacked(archive)
    rmSync(join(folder, 'run.db'))
    return packed(folder)
  }
})

/**
 * A target's own figures that no page tells, on real processes: what a command writes on a private host (Debian's SSH
 * server), what a program sends, and what another sends in the open telemetry protocol; beside the portal's page.
 */
import { execFile } from 'node:child_process'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { promisify } from 'node:util'
import type { TargetView, TriedSource } from '../../api/views'
import type { Source } from '../../core/target/source'
import { demoTarget } from '../../demo/scenario'
import { House, until } from '../build/house'
import { clientKey, OpenSshHost } from '../build/openssh'
import { hill, journey, plan, step } from '../build/plans'

const LOAD_S = 32
const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [step({ name: 'Look', url: '/timetable', think: { kind: 'uniform', fromMs: 100, toMs: 300 } })],
})
const watched = plan({
  targetId: 'watched',
  rehearse: false,
  targetFigures: { beforeS: 5 },
  groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(12, 3, LOAD_S - 6, 3) }],
  locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
  placement: { A: { REY: 'rest' } },
  objectives: [
    { metric: 'p95', step: 'Look', atMost: 2000 },
    { metric: 'target', target: { series: 'kernel', extreme: 'highest' }, atMost: 40 },
    { metric: 'target', target: { series: 'connections' }, atMost: 3 },
  ],
})
const SENDER = join(__dirname, '../build/telemetry-sender.mjs')
const key = clientKey()
let house: House
let host: OpenSshHost
let sources: Source[]
beforeAll(async () => {
  house = await House.build({ plans: { watched }, journeys: [looking] })
  host = await new OpenSshHost('db-1', join(house.folder, 'db-1'), { publicKey: key.public }).start()
  const portal = demoTarget(`http://127.0.0.1:${house.ports.portal}`, '2999-01-01T00:00:00.000Z')
  // What the kernel holds open at the portal's port: proc(5), /proc/net/tcp, in hexadecimal; state 01 is established.
  const port = house.ports.portal.toString(16).toUpperCase().padStart(4, '0')
  const sockets = { name: 'kernel', of: `(?m): [0-9A-F]{8}:${port} [0-9A-F]{8}:[0-9A-F]{4} 01 `, kind: 'gauge' as const, standsFor: 'connections' as const }
  sources = [
    ...portal.sources!.map(s => ({ ...s, series: s.series.filter(c => c.standsFor === 'connections') })),
    { name: 'sockets', kind: 'command', address: 'db/db-1', command: 'cat /proc/net/tcp', byPattern: true, everyS: 1, series: [sockets] },
    {
      name: 'running', kind: 'command', address: 'db/db-1', runsOn: true, everyS: 1,
      command: 'while :; do echo "uptime $(cut -d" " -f1 /proc/uptime)"; sleep 0.5; done',
      series: [{ name: 'uptime', of: 'uptime', kind: 'count' }],
    },
    {
      name: 'agent', kind: 'sent', address: '', everyS: 1,
      series: [
        { name: 'jobs', of: 'jobs', kind: 'count', by: 'queue' },
        { name: 'depth', of: 'depth', kind: 'gauge' },
        { name: 'app open', of: 'app.open', kind: 'gauge' },
      ],
    },
  ]
  const ok = async (path: string, body: object, method = 'PUT') => {
    const { status, body: said } = await house.post(path, body, method)
    if (status !== 200) throw new Error(JSON.stringify(said))
    return said
  }
  await ok('hosts/keys', { name: 'operations', key: key.private, passphrase: '' })
  await ok('hosts/sites', {
    site: {
      id: 'db',
      code: 'DBS',
      name: 'Databases',
      template: { port: host.port, user: 'root', signIn: { kind: 'key', key: 'operations' }, folder: '~/vornak', node: 'node' },
      hosts: [{ name: 'db-1', address: '127.0.0.1' }],
    },
  })
  await ok('targets/watched', { target: { ...portal, id: 'watched', sources } })
}, 120_000)
afterAll(async () => {
  await host?.stop()
  await house?.close()
})

const account = (id: number) => house.get<TargetView>(`runs/${id}/target`)

it('a try of a command shows what it writes, and what would be read', async () => {
  const tryIt = async (source: Source) =>
    (await house.post('targets/watched/sources/try', { source })).body as unknown as TriedSource
  const tried = await tryIt(sources.find(s => s.name === 'sockets')!)
  expect(tried.steps.every(s => s.isRight)).toBe(true)
  expect(tried.text).toMatch(/^ +sl +local_address/)
  expect(tried.found[0]!.lines[0]!.value).toBeGreaterThanOrEqual(1)
  const running = await tryIt(sources.find(s => s.name === 'running')!)
  expect(running.offered).toMatchObject([{ of: 'uptime', type: 'untyped' }])
  expect(running.found[0]!.lines).toHaveLength(1)
  const nowhere = await tryIt({ ...sources.find(s => s.name === 'sockets')!, address: 'db/db-9' })
  expect(nowhere.steps).toMatchObject([{ step: 'approval', isRight: false }])
})

it('all of it stands beside the run, each at its own moment, also when the server was gone meanwhile', async () => {
  const { body } = await house.post('targets/watched/tokens', { source: 'agent' })
  const headers = { authorization: `Bearer ${String(body.token)}` }
  const id = await house.startPlan('watched')
  /** What was sent and taken, by its moment in ms. */
  const sent = new Map<number, number>()
  let jobs = 0
  let isOver = false
  const sending = (async () => {
    while (!isOver) {
      const at = Date.now()
      jobs += 3
      const lines = `depth ${40 + (at % 3)} ${at}\njobs{queue="mail"} ${jobs} ${at}\n`
      const taken = await fetch(`${house.url}/api/sent/lines`, { method: 'POST', headers, body: lines })
        .then(r => r.ok, () => false)
      if (taken) sent.set(at, 40 + (at % 3))
      await sleep(200)
    }
  })()
  const { line } = await house.runUntil(id, r => r.line.startAt !== undefined && Date.now() > r.line.startAt + 6000, 'to load for 6 s')
  await house.kill('vornak')
  await sleep(1500)
  await house.startVornak()
  await promisify(execFile)(process.execPath, [SENDER, `${house.url}/api/sent/v1/metrics`, 'protobuf', 'CUMULATIVE', 'none', String(body.token)])
  const ended = await house.ended(id)
  await until(async () => !(await account(id)).isReading, 60_000, 'the target to be as before')
  isOver = true
  await sending
  const view = await account(id)
  const lineOf = (name: string, split = '') => view.series.find(s => s.name === name)!.lines.find(l => l.split === split)!
  const { startAt } = line
  // Each value that was taken stands at its own moment, as it was sent.
  const depth = lineOf('depth')
  const held = depth.atS
    .map((atS, at) => [Math.round(startAt! + atS * 1000), depth.values[at]] as const)
    .filter(([, value]) => value !== null)
  expect(held.length).toBeGreaterThan(50)
  for (const [at, value] of held) expect([at, sent.get(at)]).toEqual([at, value])
  // A counter grows by 3 each 200 ms.
  const rates = lineOf('jobs', 'mail').values.filter((v): v is number => v !== null)
  const usual = rates.sort((a, b) => a - b)[Math.floor(rates.length / 2)]!
  expect(usual).toBeGreaterThan(10)
  expect(usual).toBeLessThanOrEqual(15.5)
  expect(lineOf('app open').values.filter(v => v !== null)).toEqual([5, 3])
  // The kernel's own count goes with the portal's.
  const most = (name: string) => Math.max(...lineOf(name).values.filter((v): v is number => v !== null))
  expect(Math.abs(most('kernel') - most('connections'))).toBeLessThanOrEqual(2)
  expect(most('kernel')).toBeGreaterThanOrEqual(12)
  const uptime = lineOf('uptime')
  const steps = uptime.atS.slice(1).map((atS, at) => atS - uptime.atS[at]!)
  expect(steps.filter(s => s < 0.9).length).toBeGreaterThan(steps.length * 0.8)
  expect(view.sources.map(s => [s.name, s.trouble])).toEqual(sources.map(s => [s.name, undefined]))
  // What objectives about them were held against, reckoned anew from what was read.
  const { answer } = ended.summary!
  const lengthS = Math.ceil(LOAD_S)
  const within = (name: string) => lineOf(name).values.filter((v, i): v is number => {
    const atS = lineOf(name).atS[i]!
    return v !== null && atS >= 0 && atS < lengthS
  })
  const measured = (name: string) => answer.judgements.find(j => j.objective.target?.series === name)!
  expect(measured('kernel')).toMatchObject({ held: true, measured: Math.max(...within('kernel')) })
  const read = within('connections')
  const mean = read.reduce((a, b) => a + b, 0) / read.length
  expect(measured('connections')).toMatchObject({ held: false, measured: expect.closeTo(mean, 6) })
  expect(answer.sentence).toBe(`No: target connections ${Number(mean.toPrecision(3))} at 12 users, over the whole load.`)
}, 240_000)

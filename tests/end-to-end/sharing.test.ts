/**
 * Links, on real processes: who comes with one sees its run as it loads, then its report, as it is to those who have
 * signed in, but for names; and nothing else opens with it.
 */
import { writeFileSync } from 'node:fs'
import { execFileSync } from 'node:child_process'
import { join } from 'node:path'
import WebSocket from 'ws'
import type { RunView, SharedLinkLine, SharedView } from '../../api/views'
import type { SharedThing } from '../../core/report/shared'
import { SECTION_IDS, USUAL_WISH } from '../../core/report/wish'
import type { Wall } from '../../core/result/wall'
import { House, until } from '../build/house'
import { refusals } from '../build/one-door'
import { hill, journey, plan, step } from '../build/plans'

const USERS = 6
const looking = journey({
  id: 'looking',
  name: 'Looking',
  round: [step({ name: 'Look', url: '/timetable', think: { kind: 'uniform', fromMs: 100, toMs: 300 } })],
})
let house: House
let run: number
beforeAll(async () => {
  house = await House.build({
    plans: {
      few: plan({
        targetId: 'enrolment-portal',
        rehearse: false,
        groups: [{ letter: 'A', name: 'Lookers', journeyId: 'looking', profile: hill(USERS, 1, 12, 1) }],
        locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 1 }],
        placement: { A: { REY: 'rest' } },
        objectives: [{ metric: 'p95', step: 'Look', atMost: 2000 }],
      }),
    },
    journeys: [looking],
  })
  run = await house.startPlan('few')
}, 60_000)
afterAll(() => house?.close())

const thing = (over: Partial<SharedThing> = {}): SharedThing =>
  ({ kind: 'run', runs: [run], showsMachines: false, showsExchanges: false, ...over })
async function share(opens: SharedThing, days = 1): Promise<{ id: number, secret: string }> {
  const { status, body } = await house.post('links', { opens, days })
  if (status !== 200) throw new Error(JSON.stringify(body))
  return body as unknown as { id: number, secret: string }
}
const ask = (secret: string, path: string, method = 'GET') =>
  fetch(`${house.url}/api${path}`, {
    method,
    headers: { authorization: `Bearer ${secret}`, 'content-type': 'application/json' },
    ...(method === 'GET' ? {} : { body: '{}' }),
  })
const json = async <T>(secret: string, path: string) => (await (await ask(secret, path)).json()) as T
const links = () => house.get<SharedLinkLine[]>('links')

it('a run is seen as it loads; then its report is there, as its own is, without names of machines', async () => {
  const { id, secret } = await share(thing())
  expect(await json<SharedView>(secret, '/shared')).toMatchObject({ kind: 'run', hasAnswer: false, hasExchanges: false, runs: [{ id: run }] })
  expect((await ask(secret, '/shared/report.html')).status).toBe(409)
  let wall: Wall | undefined
  await until(async () => {
    wall = await json<Wall>(secret, '/shared/wall')
    return wall.isUnderLoad && wall.figures[0]?.value === String(USERS)
  }, 90_000, `${USERS} users to be shown`)
  expect(wall!.figures.map(f => f.name)).toEqual(['Users', 'p95 of Look', 'Failed', 'Sent'])
  expect(wall!.figures[0]!.under).toBe(`present of ${USERS} planned`)
  expect(wall!.course).toMatchObject({ stretchS: 1, name: 'p95 of Look', limitMs: 2000 })
  expect(Math.max(...wall!.course!.users.map(Number))).toBe(USERS)
  const { name } = (await house.get<RunView>(`runs/${run}`)).machines[0]!
  expect((await house.post(`runs/${run}/mark`, { text: `looked into ${name}, all well` })).status).toBe(200)
  const { line, machines, summary } = await house.ended(run)
  const over = await json<Wall>(secret, '/shared/wall')
  expect(over).toMatchObject({ isOver: true, verdict: line.verdict, says: line.sentence })
  expect(over.figures[3]!.value).toBe(String(summary!.whole.started))
  expect(over.course!.planned.slice(0, 3)).toEqual([USERS, USERS, USERS])
  expect(over.course!.users.length).toBeGreaterThanOrEqual(over.course!.planned.length)
  // To the target's own count.
  const received = await house.receivedByStep(run)
  expect(summary!.whole.started).toBe(received.Look)

  // What happened names machines; it is not in the usual report.
  const wish = { ...USUAL_WISH, sections: SECTION_IDS.map(of => ({ id: of, isShown: of !== 'baseline' })) }
  expect((await house.post(`runs/${run}/report`, { wish }, 'PUT')).status).toBe(200)
  const names = machines.flatMap(m => [m.id, m.name, m.facts!.hostname])
  const own = await (await fetch(`${house.url}/api/runs/${run}/report.html`)).text()
  const shared = await (await ask(secret, '/shared/report.html')).text()
  expect(own).toContain(`looked into ${name}, all well`)
  expect(shared).toContain('looked into machine 1, all well')
  expect(names.filter(known => shared.includes(known))).toEqual([])
  expect(shared).toContain(line.sentence)
  const file = join(house.folder, 'shared.pdf')
  writeFileSync(file, Buffer.from(await (await ask(secret, '/shared/report.pdf')).arrayBuffer()))
  const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' })
  expect(names.filter(known => text.includes(known))).toEqual([])
  expect(text).toContain(line.question.slice(0, 30))
  // Counted when it is opened, and not with each look.
  expect((await links()).find(l => l.id === id)).toMatchObject({ opened: 1, madeBy: 'this computer' })
}, 240_000)

it('shows names and exchanges where they were chosen', async () => {
  const { machines } = await house.get<RunView>(`runs/${run}`)
  const { secret } = await share(thing({ kind: 'report', showsMachines: true, showsExchanges: true }))
  expect(await json<SharedView>(secret, '/shared')).toMatchObject({ kind: 'report', hasAnswer: true, hasExchanges: true })
  expect(await (await ask(secret, '/shared/report.html')).text()).toContain(machines[0]!.name)
  const har = (await (await ask(secret, '/shared/exchanges.har')).json()) as { log: { version: string, entries: object[] } }
  expect(har.log.version).toBe('1.2')
  expect(har.log.entries.length).toBeGreaterThan(0)
  expect((await ask(secret, '/shared/wall')).status).toBe(403)
  const { secret: without } = await share(thing())
  expect((await ask(without, '/shared/exchanges.har')).status).toBe(403)
})

it('opens nothing else, of more than sixty addresses, though nobody has to sign in here', async () => {
  const { secret } = await share(thing())
  const all = await refusals(house.url, secret, 'link', run)
  expect(all.length).toBeGreaterThan(60)
  // Its exchanges are its own, and are not shown.
  for (const { id, isRefused, isOthers } of all) expect([id, isRefused]).toEqual([id, isOthers || id === 'sharedHar'])
  const live = new WebSocket(`${house.url.replace('http', 'ws')}/live`, { headers: { authorization: `Bearer ${secret}` } })
  const status = await new Promise(r => live.once('unexpected-response', (_, answer) => r(answer.statusCode)).once('open', () => r(101)))
  expect(status).toBe(401)
}, 60_000)

it('ends when it is taken back, and is refused where it names no run, or as many as it cannot', async () => {
  const { id, secret } = await share(thing())
  expect((await ask(secret, '/shared')).status).toBe(200)
  expect((await house.post(`links/${id}/end`, {})).status).toBe(200)
  expect((await ask(secret, '/shared')).status).toBe(401)
  expect((await ask(secret, '/plans')).status).toBe(401)
  expect((await ask(`${secret.slice(0, -1)}!`, '/shared')).status).toBe(401)
  expect(await house.post(`links/${id}/end`, {})).toMatchObject({ status: 404 })
  const refused = async (over: Partial<SharedThing>, days = 1) => (await house.post('links', { opens: thing(over), days })).status
  expect(await Promise.all([
    refused({ runs: [99999] }), refused({ kind: 'comparison' }), refused({ runs: [run, run] }), refused({}, 0), refused({}, 400), refused({ runs: [] }),
  ])).toEqual([404, 400, 400, 400, 400, 400])
})

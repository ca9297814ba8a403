/**
 * Runs on real processes: real generators sending real HTTP to the portal, whose own count is the independent side.
 * Without faults, with a generator killed, with the server killed and started again.
 */
import { spawnSync } from 'node:child_process'
import { join } from 'node:path'
import type { ExemplarsView, MeterView } from '../../api/views'
import { freePort } from '../../scripts/ports.cjs'
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import type { Plan } from '../../core/plan/document'
import { pinAt } from '../build/pin-at'
import { House } from '../build/house'
import { hill, journey, plan, step } from '../build/plans'

const quick: Plan = plan({
  targetId: PORTAL_ID,
  groups: [
    { letter: 'A', name: 'Students', journeyId: 'enrol', profile: hill(40, 3, 9, 2) },
    { letter: 'B', name: 'Lookers', journeyId: 'browse', profile: hill(10, 1, 11, 1) },
  ],
  locations: ['reyk', 'tavira'].map((region, i) => ({
    code: ['REY', 'TAV'][i]!,
    provider: 'nimbral',
    region,
    machineType: 'brisk-1',
    machines: 'auto' as const,
  })),
  placement: { A: { REY: 6000, TAV: 'rest' }, B: { REY: 5000, TAV: 'rest' } },
  objectives: [
    { metric: 'p95', step: 'Enrol', atMost: 1800 },
    { metric: 'failures', atMost: 0.01 },
  ],
  assumedUsersPerVcpu: 20,
})
/** Passes of about 0.6 s, started by two machines at one place; each has room for all. */
const glance = journey({
  id: 'glance',
  name: 'Glance',
  round: [step({ name: 'Timetable', think: { kind: 'fixed', ms: 500 } })],
})
const open: Plan = plan({
  targetId: PORTAL_ID,
  rehearse: false,
  groups: [
    {
      letter: 'A',
      name: 'Comers',
      journeyId: 'glance',
      profile: hill(20, 0, 26, 0),
      drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 500 },
    },
  ],
  locations: [{ code: 'REY', provider: 'nimbral', region: 'reyk', machineType: 'brisk-1', machines: 2 }],
  placement: { A: { REY: 10_000 } },
  objectives: [],
  assumedUsersPerVcpu: 50,
})
const plans: Record<string, Plan> = {
  open,
  quick,
  fleeting: { ...quick, rehearse: false },
  greedy: {
    ...quick,
    waitForMachinesMin: 0,
    locations: quick.locations.map(l => (l.code === 'TAV' ? { ...l, region: 'osaki' } : l)),
  },
}
let house: House
beforeAll(async () => {
  house = await House.build({ plans, journeys: [...DEMO_JOURNEYS, glance], cloud: { noStock: ['osaki'] } })
}, 60_000)
afterAll(() => house?.close(), 30_000)
const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0)

describe('a run on real processes', () => {
  it('merges exactly what the target counted, step by step, and gives every machine back', async () => {
    const id = await house.startPlan('quick')
    const run = await house.ended(id)
    expect([run.line.state, run.line.verdict, run.summary!.ledger.balanced]).toEqual(['settled', 'held', true])
    const received = await house.receivedByStep(id)
    expect(await house.mergedByStep(id)).toEqual(received)
    expect(sum(received)).toBeGreaterThan(150)
    expect(run.summary!.ledger).toMatchObject({ missing: 0, atMostUnknown: 0, sent: sum(received) })
    expect(run.summary!.findings.map(f => f.code)).toContain('capacity-assumed')
    expect(run.machines.map(m => m.state)).toEqual(run.machines.map(() => 'released'))
    const states = run.changes.filter(c => c.from !== c.to).map(c => c.to)
    expect(states).toEqual(['gathering', 'rollCall', 'rehearsing', 'armed', 'loading', 'draining', 'settled'])
    for (const c of run.changes) expect(c.reason.length).toBeGreaterThan(3)
    const seconds = await house.get<{ second: number, final: boolean, usersByLocation: number[] }[]>(
      `runs/${id}/seconds`,
    )
    expect(seconds.map(s => s.second)).toEqual(seconds.map((_, i) => i))
    expect(seconds.every(s => s.final)).toBe(true)
    expect(Math.max(...seconds.map(s => s.usersByLocation[0]! + s.usersByLocation[1]!))).toBe(50)
    expect((await house.get<MeterView>('meter')).machinesOut).toBe(0)

    // What every step took unloaded is known from each location, with the exchange it was, apart from the load's.
    const steps = DEMO_JOURNEYS.filter(j => ['enrol', 'browse'].includes(j.id))
      .flatMap(j => (j.kind === 'http' ? j.round.map(s => `${j.id}/${s.name}`) : []))
    const named = run.unloaded.map(u => `${u.location} ${u.journeyId}/${u.step}`)
    expect(named.sort()).toEqual(['REY', 'TAV'].flatMap(code => steps.map(s => `${code} ${s}`)).sort())
    const { records, total } = await house.get<ExemplarsView>(`runs/${id}/exemplars?rehearsal=true&most=100`)
    expect(total).toBe(named.length)
    expect(sum(await house.receivedByStep(id, ' rehearsal'))).toBe(total)
    for (const r of records) {
      const { ms } = run.unloaded.find(
        u => u.location === run.generators[r.generator]!.location && u.journeyId === r.journeyId && u.step === r.step,
      )!
      expect([r.keptFor, r.timings.wholeMs]).toEqual(['rehearsal', ms])
      expect(r.request.headers).toContainEqual(['vornak-rehearsal', '1'])
    }
    const loaded = await house.get<ExemplarsView>(`runs/${id}/exemplars?most=200`)
    expect(loaded.total).toBeGreaterThan(0)
    expect(loaded.records.every(r => r.keptFor !== 'rehearsal')).toBe(true)
  }, 120_000)

  it('goes on without a generator that is killed, and declares what is not known', async () => {
    const id = await house.startPlan('quick')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 6000, 'to load for 6 s')
    process.kill(house.generatorPid('TAV-1'), 'SIGKILL')
    const run = await house.ended(id)
    expect(run.line.state).toBe('settled')
    expect(run.machines.find(m => m.name === 'TAV-1')!.state).toBe('lost')
    const { ledger, findings } = run.summary!
    const account = ledger.accounts.find(a => a.generator === 'TAV-1')!
    expect(account.open).toBeDefined()
    expect(ledger.accounts.filter(a => a.open).map(a => a.generator)).toEqual(['TAV-1'])
    const [received, merged] = [sum(await house.receivedByStep(id)), sum(await house.mergedByStep(id))]
    expect(received - merged).toBeGreaterThanOrEqual(0)
    expect(received - merged).toBeLessThanOrEqual(ledger.atMostUnknown)
    expect(findings.map(f => f.code)).toContain('generator-lost')
    expect(run.changes.some(c => c.event === 'generatorLost')).toBe(true)
  }, 120_000)

  it('starts the passes of a lost generator on the one that is left, as many a second as planned', async () => {
    const id = await house.startPlan('open')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 6000, 'to load for 6 s')
    process.kill(house.generatorPid('REY-2'), 'SIGKILL')
    const run = await house.ended(id)
    const { at, reason } = run.changes.find(c => c.event === 'generatorLost')!
    expect(reason).toMatch(/(\d+) of its \1 users’ worth of load go to REY-1\./)
    const seconds = await house.get<{ second: number, startedByGroup: number[] }[]>(`runs/${id}/seconds`)
    const perSecond = (from: number, to: number) =>
      seconds.filter(s => s.second >= from && s.second < to).reduce((total, s) => total + s.startedByGroup[0]!, 0) /
      (to - from)
    const lostS = Math.ceil((at - run.line.startAt!) / 1000)
    expect(lostS).toBeLessThan(20)
    // Half of it would be 10, twice of it 30; a busy computer starts some a second later.
    for (const n of [perSecond(2, 6), perSecond(lostS + 1, 25)]) expect(Math.abs(n - 20)).toBeLessThanOrEqual(3)
    const { ledger } = run.summary!
    const [received, merged] = [sum(await house.receivedByStep(id)), sum(await house.mergedByStep(id))]
    expect(received - merged).toBeGreaterThanOrEqual(0)
    expect(received - merged).toBeLessThanOrEqual(ledger.atMostUnknown)
  }, 120_000)

  it('loses not one sample when the server is killed and started again', async () => {
    const id = await house.startPlan('fleeting')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 4000, 'to load for 4 s')
    await house.kill('vornak')
    await new Promise(r => setTimeout(r, 3000))
    await house.startVornak()
    const run = await house.ended(id)
    expect([
      run.line.state,
      run.summary!.ledger.balanced,
      run.summary!.ledger.missing,
      run.summary!.ledger.atMostUnknown,
    ]).toEqual(['settled', true, 0, 0])
    expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
    expect(run.summary!.findings.map(f => f.code)).toContain('not-rehearsed')
    const seconds = await house.get<{ second: number }[]>(`runs/${id}/seconds`)
    expect(seconds.map(s => s.second)).toEqual(seconds.map((_, i) => i))
  }, 120_000)

  it('stops on request: users get their answers, the ledger balances', async () => {
    const id = await house.startPlan('fleeting')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 3000, 'to load for 3 s')
    expect((await house.post(`runs/${id}/stop`)).status).toBe(200)
    const run = await house.ended(id)
    expect([run.line.state, run.summary!.ledger.balanced, run.summary!.ledger.claimed.cut]).toEqual([
      'stopped',
      true,
      0,
    ])
    expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
    expect((await house.post(`runs/${id}/stop`)).body).toMatchObject({ code: 'not-under-way' })
  }, 120_000)

  it('says what it lacks when a machine is refused and the plan does not wait', async () => {
    const id = await house.startPlan('greedy')
    const run = await house.ended(id)
    expect(run.line.state).toBe('failed')
    expect(run.line.sentence).toMatch(/lacks \d of \d brisk-1 at TAV: osaki has no brisk-1 left/)
    expect(run.machines.filter(m => m.location === 'TAV').map(m => m.changes.at(-1)!.reason)).toEqual(
      Array.from({ length: 2 }, () => expect.stringMatching(/\w; it was never allocated$/)),
    )
    expect((await house.get<MeterView>('meter')).machinesOut).toBe(0)
  }, 60_000)
})

describe('bad input at the door', () => {
  it('is answered with a code, a sentence and a remedy, and nothing changes', async () => {
    const wrong = await house.post('plans/quick', { onVersion: 1, plan: { ...quick, questoin: 'x' } }, 'PUT')
    expect(wrong).toMatchObject({ status: 400, body: { code: 'form', remedy: expect.any(String) } })
    // Each fault at its place, what is missing too.
    const { question: _, ...without } = quick
    const many = { ...without, seed: 'x', groups: [{ ...quick.groups[0], letter: 'aa' }] }
    const faulty = await house.post('plans/quick', { onVersion: 1, plan: many }, 'PUT')
    expect(faulty.body).toMatchObject({ code: 'form' })
    expect(faulty.body.faults).toEqual(
      expect.arrayContaining([
        { at: 'plan.question', sentence: 'Is missing.' },
        { at: 'plan.seed', sentence: expect.any(String) },
        { at: 'plan.groups.0.letter', sentence: expect.any(String) },
      ]),
    )
    const old = await house.post('plans/quick', { onVersion: 0, plan: quick }, 'PUT')
    expect(old).toMatchObject({ status: 409, body: { code: 'saved-meanwhile' } })
    expect(await house.post('plans/none/start')).toMatchObject({ status: 404 })
    const half = { ...quick, placement: { A: { REY: 5000 }, B: { REY: 'rest' as const } } }
    expect((await house.post('plans/quick', { onVersion: 1, plan: half }, 'PUT')).status).toBe(200)
    expect(await house.post('plans/quick/start')).toMatchObject({
      status: 409,
      body: { code: 'in-the-way', sentence: 'Students: 50 % has no place.' },
    })
  })

  it('from elsewhere is turned away', async () => {
    const from = (headers: Record<string, string>) => fetch(`${house.url}/api/meter`, { headers }).then(r => r.status)
    expect(await from({ origin: 'http://evil.test' })).toBe(403)
    expect(
      (
        await fetch(`${house.url}/api/plans/quick/start`, {
          method: 'POST',
          body: 'x=1',
          headers: { 'content-type': 'application/x-www-form-urlencoded' },
        })
      ).status,
    ).toBe(415)
  })

  it('tells a taken port, a held folder and an unusable setting on the console', async () => {
    const start = (env: Record<string, string>) =>
      spawnSync(process.execPath, [join(__dirname, '../../dist/main.mjs')], {
        env: { ...process.env, VORNAK_DATA: house.folder, ...env },
        encoding: 'utf8',
        timeout: 20_000,
      })
    const taken = start({ VORNAK_PORT: String(house.ports.vornak) })
    expect([taken.status, taken.stderr]).toEqual([1, expect.stringContaining(`Port ${house.ports.vornak} is in use`)])
    const second = start({ VORNAK_PORT: String(await freePort()), VORNAK_GENERATORS_PORT: String(await freePort()) })
    expect([second.status, second.stderr]).toEqual([1, expect.stringMatching(/is held by process \d+ on/)])
    expect(start({ VORNAK_PORT: 'x' }).stderr).toContain('VORNAK_PORT is “x”')
  })

  it('a generator with a wrong token is told so and ends; one whose controller has another key tells it no token', async () => {
    const start = async (pin: string) => {
      const env = {
        PATH: process.env.PATH,
        VORNAK_CONTROLLER: `https://127.0.0.1:${house.ports.door}`,
        VORNAK_PIN: pin,
        VORNAK_TOKEN: 'made-up',
      }
      const program = join(__dirname, '../../dist/generator.mjs')
      return spawnSync(process.execPath, [program], { env, encoding: 'utf8', timeout: 8000 })
    }
    const known = await start(await pinAt(house.ports.door))
    expect([known.status, known.stderr]).toEqual([2, expect.stringContaining('This token is not known here')])
    const other = await start(`sha256//${'A'.repeat(43)}=`)
    // It goes on trying until its time is up, and says once why.
    expect([other.status, other.stderr.trim().split('\n')]).toEqual([
      143,
      [expect.stringMatching(/^The one that answers has the key sha256/)],
    ])
  })
})

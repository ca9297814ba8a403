/**
 * The evenings this is built for: answers that never come, machines that never boot, a provider that takes them back, a
 * server killed at every change of state. After each, no machine is forgotten, no cost uncounted, and anyone who
 * operates it is told.
 */
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'better-sqlite3'
import type { CostsView, FleetView, MeterView, RunView } from '../../api/views'
import type { HostTry, Site } from '../../core/fleet/site'
import type { Plan } from '../../core/plan/document'
import { DEMO_JOURNEYS, PORTAL_ID } from '../../demo/scenario'
import { NO_FAULTS } from '../../standins/nimbral-cloud/faults'
import { House, until } from '../build/house'
import { clientKey, OpenSshHost } from '../build/openssh'
import { hill, plan } from '../build/plans'

const at = (code: string, region: string, more: Partial<Plan['locations'][number]> = {}) => ({
  code,
  provider: 'nimbral',
  region,
  machineType: 'brisk-1',
  machines: 1,
  ...more,
})
const base = plan({
  targetId: PORTAL_ID,
  rehearse: false,
  groups: [{ letter: 'A', name: 'Lookers', journeyId: 'browse', profile: hill(12, 1, 5, 1) }],
  locations: [at('REY', 'reyk', { machines: 2 }), at('TAV', 'tavira')],
  placement: { A: { REY: 6000, TAV: 'rest' } },
  objectives: [],
  assumedUsersPerVcpu: 40,
})
const plans: Record<string, Plan> = {
  base,
  ten: {
    ...base,
    locations: [at('REY', 'reyk', { machines: 10 })],
    placement: { A: { REY: 'rest' } },
    groups: [{ ...base.groups[0]!, profile: hill(20, 1, 4, 1) }],
    waitForMachinesMin: 5,
  },
  reclaimed: {
    ...base,
    groups: [{ ...base.groups[0]!, profile: hill(12, 1, 18, 1) }],
    locations: [at('REY', 'reyk', { machines: 2, interruptible: true }), at('TAV', 'tavira')],
  },
  // Long enough for a slow computer to start the server twice meanwhile.
  heldLong: {
    ...base,
    groups: [{ ...base.groups[0]!, profile: hill(12, 1, 45, 1) }],
    locations: [at('REY', 'reyk', { machines: 2, interruptible: true }), at('TAV', 'tavira')],
  },
  hosted: {
    ...base,
    groups: [{ ...base.groups[0]!, profile: hill(12, 1, 12, 1) }],
    locations: [
      at('REY', 'reyk'),
      { code: 'OVK', provider: 'private', region: 'ovk', machineType: 'host', machines: 1 },
    ],
    placement: { A: { REY: 5000, OVK: 'rest' } },
  },
  killed: {
    ...base,
    locations: [
      at('REY', 'reyk'),
      { code: 'OVK', provider: 'private', region: 'ovk', machineType: 'host', machines: 1 },
    ],
    placement: { A: { REY: 5000, OVK: 'rest' } },
  },
}
let house: House
let host: OpenSshHost
const key = clientKey()
beforeAll(async () => {
  house = await House.build({
    plans,
    journeys: DEMO_JOURNEYS,
    env: { VORNAK_STAGE_S: '4-8' },
    cloud: {
      regions: [
        { name: 'reyk', quota: 20, bootS: 0.5 },
        { name: 'tavira', quota: 5, bootS: 0.5 },
      ],
      coresPerVcpu: 0.4,
      noticeS: 9,
      lingerS: 2,
    },
  })
  host = await new OpenSshHost('ovk-a', join(house.folder, 'ovk-a'), { publicKey: key.public }).start()
}, 60_000)
afterAll(async () => {
  await house?.close()
  await host?.stop()
}, 60_000)

beforeEach(() => cloud('/faults', 'PUT', NO_FAULTS))

const cloud = async <T>(path: string, method = 'GET', body?: object): Promise<T> =>
  (await (
    await fetch(`http://127.0.0.1:${house.ports.cloud}${path}`, {
      method,
      headers: { authorization: 'Bearer made-up-for-tests', 'content-type': 'application/json' },
      ...(body ? { body: JSON.stringify(body) } : {}),
    })
  ).json()) as T
const sum = (counts: Record<string, number>) => Object.values(counts).reduce((a, b) => a + b, 0)

/**
 * What the portal counted is what was merged, but for what is declared as unknown: never more and never less. With
 * nothing declared it is the same, step by step.
 */
async function allIsDeclared(id: number, run: RunView): Promise<void> {
  const { balanced, atMostUnknown } = run.summary!.ledger
  const [received, merged] = [await house.receivedByStep(id), await house.mergedByStep(id)]
  const unheard = sum(received) - sum(merged)
  expect([balanced, unheard >= 0, unheard <= atMostUnknown]).toEqual([true, true, true])
  if (atMostUnknown === 0) expect(merged).toEqual(received)
}

/** The provider's own list, by its own word: what still costs. */
async function stillThere(): Promise<string[]> {
  const [machines, attached] = await Promise.all([
    cloud<{ name: string, state: string }[]>('/v1/machines'),
    cloud<{ name: string, kind: string, state: string }[]>('/v1/attached'),
  ])
  return [
    ...machines.filter(m => m.state !== 'gone').map(m => m.name),
    ...attached.filter(a => a.state !== 'gone').map(a => `${a.kind} of ${a.name}`),
  ]
}

async function nothingLeft(): Promise<void> {
  await until(
    async () => (await house.get<MeterView>('meter')).machinesOut === 0 && (await stillThere()).length === 0,
    40_000,
    'everything to be given back',
  )
  const meter = await house.get<MeterView>('meter')
  expect([meter.strays, meter.unconfirmed, meter.silent]).toEqual([0, 0, []])
}

describe('after faults of a provider', () => {
  it('machines that break, never boot or were made unheard are found, replaced and paid for; what counts still agrees', async () => {
    await cloud('/faults', 'PUT', { unheard: 1, brokenBoots: 1, endlessBoots: 1, deafReleases: 1, clockOffS: 300 })
    const id = await house.startPlan('base')
    // Each of these faults has met another place by then: a place that fails twice is given up.
    await house.runUntil(id, r => r.machines.filter(m => m.allocatedAt !== undefined).length >= 3, 'to have three machines')
    await cloud('/faults', 'PUT', { html: 1, errors: 1 })
    const run = await house.ended(id)
    expect([run.line.state, run.summary!.ledger.balanced, run.summary!.ledger.missing]).toEqual(['settled', true, 0])
    expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
    // Three places, five machines: two failed on their way and were replaced, each once.
    expect(run.machines.map(m => m.state).sort()).toEqual(['failed', 'failed', 'released', 'released', 'released'])
    expect(run.machines.filter(m => m.again).length).toBe(2)
    expect(
      run.machines
        .filter(m => m.state === 'failed')
        .flatMap(m => m.changes.map(c => c.reason))
        .join('\n'),
    ).toMatch(/came up broken[\s\S]*|still booting after/)
    expect(run.machines.flatMap(m => m.changes.map(c => c.reason)).join('\n')).toContain(
      'had made it, though its answer was lost',
    )
    expect(run.summary!.findings.find(f => f.code === 'roll-call-clockOff')!.sentence).toMatch(
      /its clock is 300\.\d s off/,
    )
    await nothingLeft()
    await until(async () => (await house.get<CostsView>('costs')).runs[0]!.billed !== undefined, 20_000, 'the bills')
    const costs = (await house.get<CostsView>('costs')).runs[0]!
    expect(costs).toMatchObject({ runId: id, machines: 5 })
    // Reckoned from the moment a machine is noticed to the moment its end is: a grain of a minute more at most, each.
    expect(Math.abs(costs.cost - costs.billed!)).toBeLessThanOrEqual((5 * 0.066) / 60 + 1e-6)
  }, 300_000)

  it('3 of 10 machines never enrol: the run says so, is told to go with seven, and its load is lowered to 70 %', async () => {
    await cloud('/faults', 'PUT', { neverEnrol: 3 })
    const id = await house.startPlan('ten')
    await house.runUntil(id, r => r.gathering?.orders[0]!.there === 7, 'to have seven')
    // Those that take their places never enrol either.
    await cloud('/faults', 'PUT', { neverEnrol: 3 })
    const waiting = await house.runUntil(
      id,
      r =>
        r.gathering !== undefined &&
        r.gathering.orders[0]!.there === 7 &&
        r.machines.filter(m => m.state === 'failed').length === 6,
      'to have seven and know that three never come',
    )
    expect(waiting.gathering!.goFactor).toBeCloseTo(0.7)
    expect((await house.post(`runs/${id}/go`)).status).toBe(200)
    const run = await house.ended(id)
    expect(run.line.state).toBe('settled')
    expect(run.document.wentWith).toEqual({ machines: 7, wanted: 10, factor: 0.7 })
    expect(Math.max(...run.planned)).toBe(14)
    expect(run.summary!.findings.find(f => f.code === 'lowered')!.sentence).toContain('7 of 10 machines')
    expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
    await nothingLeft()
  }, 300_000)

  it('a machine taken back under load lets its users go first, and its account closes exactly', async () => {
    const id = await house.startPlan('reclaimed')
    await house.runUntil(id, r => r.line.state === 'loading' && r.now - r.line.startAt! > 3000, 'to load for 3 s')
    expect(await cloud<object[]>('/reclaim', 'POST', { count: 2 })).toHaveLength(2)
    const run = await house.ended(id)
    expect(run.machines.filter(m => m.location === 'REY').map(m => m.state)).toEqual(['reclaimed', 'reclaimed'])
    expect(run.changes.filter(c => c.event === 'reclaimNotice')).toHaveLength(2)
    expect([
      run.line.state,
      run.summary!.ledger.balanced,
      run.summary!.ledger.missing,
      run.summary!.ledger.atMostUnknown,
    ]).toEqual(['settled', true, 0, 0])
    expect(await house.mergedByStep(id)).toEqual(await house.receivedByStep(id))
    await nothingLeft()
  }, 300_000)

  it('and hands them over though the server is killed between the notice and that', async () => {
    const id = await house.startPlan('heldLong')
    await house.runUntil(id, r => r.line.state === 'loading' && r.now - r.line.startAt! > 2000, 'to load for 2 s')
    expect(await cloud<object[]>('/reclaim', 'POST', { count: 1 })).toHaveLength(1)
    await house.runUntil(id, r => r.changes.some(c => c.event === 'reclaimNotice'), 'to be told of it')
    await house.kill('vornak')
    await house.startVornak()
    // And once more when they have been handed over: nobody comes twice.
    await house.runUntil(id, r => r.changes.some(c => c.event === 'usersMoved'), 'to hand over')
    await house.kill('vornak')
    await house.startVornak()
    const run = await house.ended(id)
    expect(run.changes.filter(c => c.event === 'usersMoved').map(c => c.reason)).toEqual([
      expect.stringMatching(/^REY-[12] is taken back: [34] of its [34] users go to REY-[12]\.$/),
    ])
    const seconds = await house.get<{ second: number, usersByLocation: number[] }[]>(`runs/${id}/seconds`)
    // 6000 of 10,000 of 12 users, before they leave; how soon depends on how long the server takes to start twice.
    const late = seconds.filter(s => s.second >= 14 && s.second < 46).map(s => s.usersByLocation[0]!)
    expect([late.at(-1), Math.max(...late)]).toEqual([7, 7])
    expect([run.line.state, run.summary!.ledger.missing]).toEqual(['settled', 0])
    // On a slow computer starting twice takes longer than the notice: then what was not told in time is declared.
    await allIsDeclared(id, run)
    await nothingLeft()
  }, 300_000)
})

describe('a private host', () => {
  // A stage takes as long as the computer does, and here programs are brought, and servers started in between: who is
  // taken for stuck twice is given up, and a run without its host waits for somebody to decide.
  beforeAll(async () => {
    await house.kill('vornak')
    house.set({ VORNAK_STAGE_S: '60-120' })
    await house.startVornak()
  }, 60_000)

  it('whose generator is ended while nobody can reach it gives back the frames it left, and declares the rest', async () => {
    const site: Site = {
      id: 'ovk',
      code: 'OVK',
      name: 'Computing centre',
      template: {
        port: host.port,
        user: 'root',
        signIn: { kind: 'key', key: 'k' },
        folder: host.work,
        node: process.execPath,
      },
      hosts: [{ name: 'ovk-a', address: '127.0.0.1', cores: 1 }],
    }
    await house.post('hosts/keys', { name: 'k', key: key.private }, 'PUT')
    await house.post('hosts/sites', { site }, 'PUT')
    const tried = (await house.post('hosts/try', { hosts: ['ovk/ovk-a'] })).body as unknown as Record<string, HostTry>
    expect(tried['ovk/ovk-a']!.steps.filter(s => !s.ok && s.step !== 'idle')).toEqual([])
    const id = await house.startPlan('hosted')
    await house.runUntil(id, r => r.line.startAt !== undefined && r.now - r.line.startAt > 2500, 'to load for 2.5 s')
    await host.stop()
    await new Promise(r => setTimeout(r, 2500))
    const own = host.left().find(name => name.startsWith('vornak-') && !name.endsWith('.mjs'))!
    process.kill(Number(readFileSync(join(host.work, own, 'pid'), 'utf8')), 'SIGTERM')
    await host.start()
    const run = await house.ended(id)
    expect(run.changes.filter(c => c.event === 'salvage').map(c => c.reason)).toEqual([
      expect.stringMatching(/^OVK-1: \d+ frames that it could not send were brought back/),
    ])
    expect(run.summary!.ledger.accounts.find(a => a.generator === 'OVK-1')!.open).toBeDefined()
    await allIsDeclared(id, run)
    await nothingLeft()
    expect(host.left()).toEqual([])
  }, 300_000)
})

describe('the server is killed at every change of state in turn', () => {
  it('and started again each time: the run ends, and not one machine is unaccounted for', async () => {
    const store = new Database(join(house.folder, 'vornak.db'), { readonly: true })
    const machineStates = store.prepare<[number], { s: string }>(
      'SELECT DISTINCT c.to_state AS s FROM machine_changes c JOIN crew w ON w.machine_id = c.machine_id WHERE w.run_id = ?',
    )
    const runStates = store.prepare<[number], { s: string }>(
      'SELECT DISTINCT to_state AS s FROM run_changes WHERE run_id = ?',
    )
    const open = store.prepare<[], { n: number }>('SELECT COUNT(*) AS n FROM machines WHERE gone_at IS NULL')
    const ended = store.prepare<[number], { ended_at: number | null }>('SELECT ended_at FROM runs WHERE id = ?')
    const id = await house.startPlan('killed')
    const killedAt = new Set<string>()
    await until(
      async () => {
        const fresh = [
          ...machineStates.all(id).map(r => `machine ${r.s}`),
          ...runStates.all(id).map(r => `run ${r.s}`),
        ].find(s => !killedAt.has(s))
        if (fresh) {
          killedAt.add(fresh)
          await house.kill('vornak')
          await house.startVornak()
          return false
        }
        return ended.get(id)!.ended_at !== null && open.get()!.n === 0
      },
      100_000,
      'the run to end and every machine to be gone',
    ).catch(async (error: Error) => {
      throw new Error(
        `${error.message}; killed at ${[...killedAt].join(', ')}; ${JSON.stringify((await house.run(id)).machines.map(m => [m.name, m.state, m.changes.map(c => `${c.to}: ${c.reason}`)]))} ${JSON.stringify((await house.run(id)).changes.slice(-4))}`,
      )
    })
    store.close()
    const run = await house.run(id)
    expect(['settled', 'failed']).toContain(run.line.state)
    expect([...killedAt]).toEqual(
      expect.arrayContaining([
        'machine allocated',
        'machine enrolled',
        'machine ready',
        'machine releasing',
        'machine released',
        'run gathering',
        'run rollCall',
        'run armed',
      ]),
    )
    expect(run.machines.every(m => m.goneAt !== undefined)).toBe(true)
    await nothingLeft()
    expect(host.left()).toEqual([])
    expect((await house.get<FleetView>('fleet')).strays).toEqual([])
    if (run.line.state !== 'settled') return
    // A generator that nobody could hear for too long has stopped on its own: then what it had not told is declared,
    // never more and never less.
    await allIsDeclared(id, run)
  }, 240_000)
})

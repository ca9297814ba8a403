/** Leases, refusals, losses and strays, against a provider that does as it is told. */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import { Fleet } from '../../control/fleet/fleet'
import { ProviderSilent, type Provider, type ProviderMachine } from '../../control/fleet/providers/contract'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))
const NEVER: Cancel = { cancel() { /* nothing was set */ } }

/** A clock that stands until it is moved; nothing fires by itself. */
function standing(): Clock & { move(ms: number): void } {
  let now = 1_000_000
  return { now: () => now, after: () => NEVER, every: () => NEVER, move(ms) { now += ms } }
}

function house() {
  const store = openStore(join(folder, `${Math.random()}.db`))
  stores.push(store)
  const machines = machineStore(store)
  const runId = runStore(store).create('p', runDocument(), 0)
  const clock = standing()
  const listed = new Map<string, ProviderMachine>()
  const seen = { creates: [] as string[], releases: [] as string[], silent: false, refuse: '', passing: false, deaf: false }
  const provider: Provider = {
    id: 'nimbral', name: 'Nimbral', way: 'cloud', ownEnd: 'natively', mostBooting: 50, offers: () => Promise.resolve([]),
    create({ idempotencyKey, name, region, type }) {
      if (seen.silent) return Promise.reject(new ProviderSilent('Nimbral does not answer'))
      seen.creates.push(idempotencyKey)
      if (region === seen.refuse) return Promise.resolve({ refusal: { code: 'quota', sentence: 'The quota is used up.', passing: seen.passing } })
      if (!listed.has(idempotencyKey)) listed.set(idempotencyKey, { ref: idempotencyKey, name, region, type, state: 'pending' })
      return Promise.resolve({ ref: idempotencyKey })
    },
    list: () => seen.silent ? Promise.reject(new ProviderSilent('Nimbral does not answer')) : Promise.resolve([...listed.values()]),
    release(ref) {
      seen.releases.push(ref)
      if (listed.has(ref) && !seen.deaf) listed.get(ref)!.state = 'gone'
      return Promise.resolve()
    },
  }
  const connected = new Set<string>()
  const fleet = new Fleet({ machines, providers: new Map([['nimbral', provider]]), clock, controllerAddress: () => 'http://x', secret: 's', installation: 'vornak-test', connected: id => connected.has(id), listener: { onChange() { /* read from the store */ } } })
  const states = () => Object.fromEntries(machines.ofRun(runId).map(m => [m.name, m.state]))
  return { machines, runId, clock, listed, seen, connected, fleet, states, ask: () => {
    fleet.place(runId, runDocument(), 600_000)
    return fleet.fill().then(() => clock.move(2))
  } }
}

describe('the fleet', () => {
  it('orders once, however often it is asked, with the same keys', async () => {
    const h = house()
    await h.ask()
    await h.ask()
    expect(h.states()).toEqual({ 'REY-1': 'allocated', 'TAV-1': 'allocated' })
    expect(h.seen.creates).toEqual(['r1-rey-1-1', 'r1-tav-1-1'])
  })

  it('repeats an order the provider did not answer, and never doubles it', async () => {
    const h = house()
    h.seen.silent = true
    await h.ask()
    expect(h.machines.machine('r1-rey-1')!.waits).toMatchObject({ code: 'silent', sentence: 'Nimbral does not answer' })
    expect(h.states()).toEqual({ 'REY-1': 'asked', 'TAV-1': 'asked' })
    h.seen.silent = false
    h.clock.move(3000)
    await h.ask()
    expect(h.listed.size).toBe(2)
  })

  it('keeps the provider’s reason for a refusal, and owes it nothing', async () => {
    const h = house()
    h.seen.refuse = 'tavira'
    await h.ask()
    expect(h.states()).toEqual({ 'REY-1': 'allocated', 'TAV-1': 'refused' })
    expect(h.machines.changes('r1-tav-1').at(-1)).toMatchObject({ to: 'refused', reason: 'The quota is used up.' })
    expect(h.machines.out().map(m => m.name)).toEqual(['REY-1'])
  })

  it('follows the provider, and calls a machine released only when the provider confirms', async () => {
    const h = house()
    await h.ask()
    h.listed.get('r1-rey-1-1')!.state = 'running'
    await h.fleet.look()
    expect(h.states()['REY-1']).toBe('installing')
    await h.fleet.release(h.runId, 'over')
    expect(h.states()).toEqual({ 'REY-1': 'released', 'TAV-1': 'released' })
    expect(h.machines.out()).toEqual([])
  })

  it('says release unconfirmed when no confirmation comes, and goes on asking', async () => {
    const h = house()
    await h.ask()
    h.seen.deaf = true
    await h.fleet.releaseMachine('r1-rey-1', 'x')
    h.clock.move(31_000)
    await h.fleet.look()
    expect(h.machines.machine('r1-rey-1')!.state).toBe('releaseUnconfirmed')
    expect(h.seen.releases.filter(r => r === 'r1-rey-1-1').length).toBe(2)
    h.seen.deaf = false
    h.clock.move(6000)
    await h.fleet.look()
    await h.fleet.look()
    expect(h.machines.machine('r1-rey-1')!.state).toBe('released')
  })

  it('loses a loading machine that its provider says has ended, at once', async () => {
    const h = house()
    await h.ask()
    for (const e of ['running', 'enrolled', 'rollCallPassed', 'loadStarted'] as const) h.fleet.change('r1-rey-1', e, 'x')
    h.listed.get('r1-rey-1-1')!.state = 'gone'
    await h.fleet.look()
    expect(h.machines.machine('r1-rey-1')).toMatchObject({ state: 'lost', goneAt: h.clock.now() })
  })

  it('loses a machine that has not been heard for 20 s, and keeps one that came back', async () => {
    const h = house()
    await h.ask()
    for (const id of ['r1-rey-1', 'r1-tav-1']) for (const e of ['running', 'enrolled'] as const) h.fleet.change(id, e, 'x')
    await h.fleet.look()
    h.clock.move(15_000)
    h.connected.add('r1-tav-1')
    await h.fleet.look()
    h.clock.move(6000)
    await h.fleet.look()
    expect(h.states()).toEqual({ 'REY-1': 'lost', 'TAV-1': 'enrolled' })
  })

  it('releases what never enrolled, and what outlived its lease', async () => {
    const h = house()
    await h.ask()
    h.clock.move(241_000)
    await h.fleet.look()
    expect(h.states()).toEqual({ 'REY-1': 'failed', 'TAV-1': 'failed' })
    expect(h.seen.releases).toEqual(['r1-rey-1-1', 'r1-tav-1-1'])
    const other = house()
    await other.ask()
    for (const e of ['running', 'enrolled'] as const) other.fleet.change('r1-rey-1', e, 'x')
    other.connected.add('r1-rey-1')
    other.clock.move(601_000)
    await other.fleet.look()
    expect(other.seen.releases).toContain('r1-rey-1-1')
  })

  it('finds strays of its own, and leaves machines of others alone', async () => {
    const h = house()
    h.listed.set('x', { ref: 'x', name: 'vornak-test-r9-rey-1', region: 'reyk', type: 'brisk-1', state: 'running' })
    h.listed.set('y', { ref: 'y', name: 'somebody-else', region: 'reyk', type: 'brisk-1', state: 'running' })
    await h.fleet.look()
    expect(h.fleet.strays.map(s => s.machine.ref)).toEqual(['x'])
    await h.fleet.releaseStray('nimbral', 'x')
    await h.fleet.look()
    expect(h.fleet.strays).toEqual([])
  })

  it('remembers since when a provider is silent', async () => {
    const h = house()
    h.seen.silent = true
    await h.fleet.look()
    expect(h.fleet.silent.get('nimbral')!.sentence).toContain('does not answer')
    h.seen.silent = false
    await h.fleet.look()
    expect(h.fleet.silent.size).toBe(0)
  })
})

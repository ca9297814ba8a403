/** Leases, refusals, losses and strays, against a provider that does as it is told. */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import { Fleet } from '../../control/machines/fleet'
import type { FleetOptions } from '../../control/machines/fleet-tools'
import { ProviderSilent, type Provider, type ProviderMachine } from '../../control/machines/providers/contract'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const stores: { close(): void }[] = []
afterAll(() => stores.forEach(s => s.close()))
const NEVER: Cancel = {
  cancel() {
    /* nothing was set */
  },
}

/** A clock that stands until it is moved; nothing fires by itself. */
function standing(): Clock & { move(ms: number): void } {
  let now = 1_000_000
  return {
    now: () => now,
    after: () => NEVER,
    every: () => NEVER,
    move(ms) {
      now += ms
    },
  }
}

function house() {
  const store = openStore(join(folder, `${Math.random()}.db`))
  stores.push(store)
  const machines = machineStore(store)
  const runId = runStore(store).create('p', runDocument(), 0)
  const clock = standing()
  const listed = new Map<string, ProviderMachine>()
  const seen = {
    creates: [] as string[],
    keys: [] as string[],
    releases: [] as string[],
    silent: false,
    refuse: '',
    passing: false,
    deaf: false,
    unheard: false,
    left: undefined as Uint8Array | undefined,
  }
  const provider: Provider = {
    id: 'nimbral',
    name: 'Nimbral',
    way: 'cloud',
    ownEnd: 'natively',
    mostBooting: 50,
    offers: () => Promise.resolve([]),
    create({ idempotencyKey, name, region, type }) {
      if (seen.silent) return Promise.reject(new ProviderSilent('Nimbral does not answer'))
      seen.keys.push(idempotencyKey)
      // What is the same in every place; what tells them apart stands around it.
      const [, ref] = idempotencyKey.split('/') as [string, string]
      seen.creates.push(ref)
      if (region === seen.refuse)
        return Promise.resolve({ refusal: { code: 'quota', sentence: 'The quota is used up.', passing: seen.passing } })
      if (!listed.has(ref)) listed.set(ref, { ref, name, region, type, state: 'pending' })
      return seen.unheard
        ? Promise.reject(new ProviderSilent('Nimbral does not answer'))
        : Promise.resolve({ ref })
    },
    list: () =>
      seen.silent || seen.unheard
        ? Promise.reject(new ProviderSilent('Nimbral does not answer'))
        : Promise.resolve([...listed.values()]),
    release(ref) {
      seen.releases.push(ref)
      if (listed.has(ref) && !seen.deaf) listed.get(ref)!.state = 'gone'
      return Promise.resolve()
    },
  }
  provider.salvage = () => Promise.resolve(seen.left)
  const connected = new Set<string>()
  const word = { heardAt: clock.now(), graceOverAt: clock.now() + 62_000 }
  const options: FleetOptions = {
    machines,
    providers: new Map([['nimbral', provider]]),
    clock,
    door: { address: () => 'https://x', pin: undefined },
    secret: () => 's',
    installation: 'vornak-test',
    connected: id => connected.has(id),
    lastWord: id => (connected.has(id) ? { heardAt: clock.now(), graceOverAt: clock.now() + 62_000 } : word),
    listener: {
      onChange() {
        /* read from the store */
      },
    },
  }
  const fleet = new Fleet(options)
  const states = () => Object.fromEntries(machines.ofRun(runId).map(m => [m.name, m.state]))
  const another = () => runStore(store).create('p', runDocument(), 0)
  return {
    machines,
    another,
    runId,
    clock,
    listed,
    seen,
    connected,
    fleet,
    /** The fleet as another process of Vornak finds it. */
    restarted: () => new Fleet(options),
    states,
    ask: () => {
      fleet.place(runId, runDocument())
      return fleet.fill().then(() => clock.move(2))
    },
  }
}

describe('the fleet', () => {
  it('orders once, however often it is asked, with the same keys', async () => {
    const h = house()
    await h.ask()
    await h.ask()
    expect(h.states()).toEqual({ 'REY-1': 'allocated', 'TAV-1': 'allocated' })
    expect(h.seen.creates).toEqual(['r1-rey-1-1', 'r1-tav-1-1'])
  })

  it('of two places with the same runs on one account order with keys of their own', async () => {
    const [one, other] = [house(), house()]
    await one.ask()
    await other.ask()
    expect(one.seen.creates).toEqual(other.seen.creates)
    expect(new Set([...one.seen.keys, ...other.seen.keys]).size).toBe(4)
    // An answer that was lost is asked for by the same key, as its row has it.
    expect(one.machines.ofRun(one.runId).map(m => m.idempotencyKey)).toEqual(one.seen.keys)
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
    for (const e of ['running', 'enrolled', 'rollCallPassed', 'loadStarted'] as const)
      h.fleet.change('r1-rey-1', e, 'x')
    h.listed.get('r1-rey-1-1')!.state = 'gone'
    await h.fleet.look()
    expect(h.machines.machine('r1-rey-1')).toMatchObject({ state: 'lost', goneAt: h.clock.now() })
  })

  it('takes a machine for gone that several lists over a time do not have, never for one list that forgot it', async () => {
    const h = house()
    await h.ask()
    const kept = h.listed.get('r1-rey-1-1')!
    h.clock.move(1000)
    const look = async (isListed: boolean, afterMs: number) => {
      h.clock.move(afterMs)
      if (isListed) h.listed.set('r1-rey-1-1', kept)
      else h.listed.delete('r1-rey-1-1')
      await h.fleet.look()
      return h.machines.machine('r1-rey-1')!.goneAt !== undefined
    }
    // Three, but in less than ten seconds; then one that has it again.
    expect([await look(false, 0), await look(false, 100), await look(false, 100), await look(true, 100)]).toEqual([
      false, false, false, false,
    ])
    expect([await look(false, 0), await look(false, 10_000), await look(false, 100)]).toEqual([false, false, true])
    expect(h.machines.changes('r1-rey-1').at(-1)!.reason).toBe('Nimbral does not list it any more')
  })

  it('loses a machine that has not been heard for 20 s, and keeps one that came back', async () => {
    const h = house()
    await h.ask()
    for (const id of ['r1-rey-1', 'r1-tav-1'])
      for (const e of ['running', 'enrolled'] as const) h.fleet.change(id, e, 'x')
    await h.fleet.look()
    h.clock.move(15_000)
    h.connected.add('r1-tav-1')
    await h.fleet.look()
    h.clock.move(6000)
    await h.fleet.look()
    expect(h.states()).toEqual({ 'REY-1': 'lost', 'TAV-1': 'enrolled' })
  })

  it('leaves a machine that loads its grace, however long it says nothing: until then it may drive on', async () => {
    const h = house()
    await h.ask()
    for (const e of ['running', 'enrolled', 'rollCallPassed', 'loadStarted'] as const)
      h.fleet.change('r1-rey-1', e, 'x')
    h.clock.move(61_000)
    await h.fleet.look()
    expect(h.states()['REY-1']).toBe('loading')
    h.clock.move(1500)
    await h.fleet.look()
    expect(h.states()['REY-1']).toBe('lost')
    expect(h.machines.changes('r1-rey-1').at(-1)!.reason).toContain('its grace is over')
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
    other.clock.move(851_000)
    await other.fleet.look()
    expect(other.seen.releases).toContain('r1-rey-1-1')
  })

  it('begins a stage’s time again with itself: while Vornak was away no machine could enrol', async () => {
    const h = house()
    await h.ask()
    h.clock.move(241_000)
    const fleet = h.restarted()
    await fleet.look()
    expect(h.states()).toEqual({ 'REY-1': 'allocated', 'TAV-1': 'allocated' })
    h.clock.move(241_000)
    await fleet.look()
    expect(h.states()).toEqual({ 'REY-1': 'failed', 'TAV-1': 'failed' })
  })

  it('gives the time a machine waited for quota to nobody: its lease is as long as it was meant to be', async () => {
    const h = house()
    Object.assign(h.seen, { refuse: 'reyk', passing: true })
    await h.ask()
    for (let i = 0; i < 20; i++) {
      h.clock.move(16_000)
      await h.fleet.fill()
    }
    h.seen.refuse = ''
    h.clock.move(16_000)
    await h.fleet.fill()
    // 4 min to gather, 10 s of load, 10 min beyond it.
    expect(h.machines.machine('r1-rey-1')!.leaseEndsAt - h.clock.now()).toBe(850_000)
  })

  it('orders machines for a peak when their time has come, not before, for as long as the peak lasts', async () => {
    const h = house()
    const shift = { fromMs: 300_000, toMs: 400_000, leadMs: 60_000, above: { A: 5 }, others: 5 }
    const document = runDocument({
      fleet: [...runDocument().fleet, { ...runDocument().fleet[0]!, machines: 2, shift }],
    })
    h.fleet.place(h.runId, document)
    expect(h.machines.ofRun(h.runId).map(m => m.name)).toEqual(['REY-1', 'TAV-1'])
    const startAt = h.clock.now()
    for (let i = 0; i < 3; i++) h.fleet.placeLate(h.runId, document, startAt)
    await h.fleet.fill()
    expect(h.states()).toMatchObject({ 'REY-2': 'asked', 'REY-3': 'asked' })
    expect(h.machines.machine('r1-rey-2')!.waits).toMatchObject({ code: 'for-peak', nextAt: startAt + 240_000 })
    expect(h.seen.creates).toEqual(['r1-rey-1-1', 'r1-tav-1-1'])
    h.clock.move(239_000)
    await h.fleet.fill()
    expect(h.seen.creates).toHaveLength(2)
    h.clock.move(1000)
    await h.fleet.fill()
    expect(h.seen.creates.slice(2)).toEqual(['r1-rey-2-1', 'r1-rey-3-1'])
    // 4 min to come, 100 s of peak, 10 min beyond it.
    expect(h.machines.machine('r1-rey-2')!.leaseEndsAt - h.clock.now()).toBe(240_000 + 100_000 + 600_000)
  })

  it('gives a place of the peak another machine when one was lost on its way, and no place of the others while the run loads', async () => {
    const h = house()
    const document = runDocument({
      fleet: [
        ...runDocument().fleet,
        {
          ...runDocument().fleet[0]!,
          shift: { fromMs: 40_000, toMs: 90_000, leadMs: 40_000, above: { A: 5 }, others: 5 },
        },
      ],
    })
    h.fleet.place(h.runId, document)
    h.fleet.placeLate(h.runId, document, h.clock.now())
    await h.fleet.fill()
    for (const id of ['r1-rey-1', 'r1-rey-2']) h.fleet.change(id, 'broke', 'made up')
    h.fleet.placeLate(h.runId, document, h.clock.now())
    expect(h.machines.ofRun(h.runId).map(m => [m.id, m.state])).toEqual([
      ['r1-rey-1', 'failed'],
      ['r1-rey-2-again', 'asked'],
      ['r1-tav-1', 'allocated'],
    ])
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

  it('waits for what cannot be had now, says since when and why, and takes it when it can', async () => {
    const h = house()
    Object.assign(h.seen, { refuse: 'tavira', passing: true })
    await h.ask()
    expect(h.machines.machine('r1-tav-1')).toMatchObject({
      state: 'asked',
      waits: { code: 'quota', sentence: 'The quota is used up.', since: 1_000_000 },
    })
    h.clock.move(1000)
    await h.ask()
    expect(h.seen.creates.filter(k => k.includes('tav'))).toHaveLength(1)
    h.clock.move(10_000)
    h.seen.refuse = ''
    await h.ask()
    expect(h.states()['TAV-1']).toBe('allocated')
    expect(h.machines.machine('r1-tav-1')!.waits).toBeUndefined()
  })

  it('gives the place of a machine that failed on its way to another, elsewhere if it may, and once only', async () => {
    const h = house()
    const document = runDocument({
      fleet: [{ ...runDocument().fleet[0]!, elsewhere: ['osaki'] }, runDocument().fleet[1]!],
    })
    const again = async () => {
      h.fleet.place(h.runId, document)
      await h.fleet.fill()
      h.clock.move(2)
    }
    await again()
    h.fleet.change('r1-rey-1', 'broke', 'it came up broken')
    await again()
    expect(h.machines.machine('r1-rey-1-again')).toMatchObject({
      region: 'osaki',
      location: 'REY',
      name: 'REY-1',
      attempt: 2,
      state: 'allocated',
    })
    h.fleet.change('r1-rey-1-again', 'broke', 'so did this one')
    await again()
    expect(h.machines.ofRun(h.runId).map(m => `${m.name} ${m.state} ${m.attempt}`)).toEqual([
      'REY-1 failed 2',
      'TAV-1 allocated 1',
    ])
    expect(h.machines.everOfRun(h.runId)).toHaveLength(3)
    // What failed is given back without being asked.
    expect(h.seen.releases.sort()).toEqual(['r1-rey-1-1', 'r1-rey-1-again-1'])
  })

  it('keeps machines warm for the next run, which takes them before it orders any', async () => {
    const h = house()
    await h.ask()
    for (const id of ['r1-rey-1', 'r1-tav-1']) {
      for (const e of ['running', 'enrolled', 'rollCallPassed', 'loadStarted', 'loadEnded'] as const)
        h.fleet.change(id, e, 'x')
      h.connected.add(id)
    }
    await h.fleet.keep(h.runId, h.clock.now() + 300_000, 'over')
    expect(h.machines.idle().map(m => [m.state, m.leaseEndsAt - h.clock.now()])).toEqual([
      ['ready', 300_000],
      ['ready', 300_000],
    ])
    const next = h.another()
    h.fleet.place(next, runDocument())
    await h.fleet.fill()
    expect(h.machines.ofRun(next).map(m => [m.id, m.state])).toEqual([
      ['r1-rey-1', 'enrolled'],
      ['r1-tav-1', 'enrolled'],
    ])
    expect(h.machines.machine('r1-rey-1')!.leaseEndsAt - h.clock.now()).toBe(850_000)
    expect(h.listed.size).toBe(2)
    expect(h.machines.crewOf('r1-rey-1').map(c => [c.runId, c.leftAt !== undefined])).toEqual([
      [h.runId, true],
      [next, false],
    ])
  })

  it('finds a machine again whose answer was lost, by its name', async () => {
    const h = house()
    h.seen.unheard = true
    await h.ask()
    h.seen.unheard = false
    expect(h.states()).toEqual({ 'REY-1': 'asked', 'TAV-1': 'asked' })
    await h.fleet.look()
    expect(h.states()).toEqual({ 'REY-1': 'allocated', 'TAV-1': 'allocated' })
    expect(h.machines.changes('r1-rey-1').at(-1)!.reason).toContain('though its answer was lost')
    expect(h.seen.creates).toHaveLength(2)
  })

  it('given up while its answer is awaited, gives it back when it turns up, and forgets it when it never does', async () => {
    const h = house()
    h.seen.unheard = true
    await h.ask()
    h.listed.delete('r1-tav-1-1')
    await h.fleet.release(h.runId, 'stopped')
    expect(h.states()).toEqual({ 'REY-1': 'releasing', 'TAV-1': 'releasing' })
    h.seen.unheard = false
    h.clock.move(16_000)
    await h.fleet.look()
    await h.fleet.look()
    expect(h.seen.releases).toContain('r1-rey-1-1')
    expect(h.machines.changes('r1-tav-1').at(-1)!.reason).toBe('was never allocated')
    h.clock.move(5)
    await h.fleet.look()
    expect(h.machines.out()).toEqual([])
  })

  it('tells strays of disks and addresses, and releases again what was given back and is still there', async () => {
    const h = house()
    await h.ask()
    h.listed.set('attached d1', {
      ref: 'attached d1',
      name: 'vornak-test-r1-rey-1',
      region: 'reyk',
      type: 'disk',
      state: 'running',
      kind: 'disk',
    })
    await h.fleet.look()
    expect(h.fleet.strays).toEqual([])
    await h.fleet.release(h.runId, 'over')
    h.clock.move(1000)
    await h.fleet.look()
    // Disks go after their machine: not at once a stray.
    expect(h.fleet.strays).toEqual([])
    h.clock.move(11_000)
    await h.fleet.look()
    expect(h.fleet.strays).toMatchObject([{ machine: { ref: 'attached d1', kind: 'disk' }, why: 'outlived' }])
    expect(h.seen.releases).toContain('attached d1')
  })

  it('brings back what a generator left: frames behind their lengths', async () => {
    const h = house()
    await h.ask()
    expect(await h.fleet.salvage('r1-rey-1')).toEqual([])
    h.seen.left = Uint8Array.of(0, 0, 0, 2, 7, 8, 0, 0, 0, 1, 9)
    expect((await h.fleet.salvage('r1-rey-1')).map(f => [...f])).toEqual([[7, 8], [9]])
  })
})

/**
 * A process that ends at any moment leaves no machine behind: the fleet is killed before and after every single thing
 * it writes and every single call it makes, started again each time, and at the end the provider has nothing of ours
 * and made nothing twice.
 */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import { Fleet } from '../../control/machines/fleet'
import { ProviderSilent, type Provider, type ProviderMachine } from '../../control/machines/providers/contract'
import { machineStore, type MachineStore } from '../../control/store/machines'
import { openStore, type Store } from '../../control/store/open'
import { runStore } from '../../control/store/runs'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const NEVER: Cancel = {
  cancel() {
    /* nothing was set */
  },
}
let files = 0

class Killed extends Error {}

/** A process that ends at the nth thing it does. */
class Life {
  dead = false
  did = 0
  constructor(
    private readonly endsAt: number,
    private readonly when: 'before' | 'after',
  ) {}

  step<T>(act: () => T): T {
    if (this.dead) throw new Killed()
    const last = this.did++ === this.endsAt
    if (last && this.when === 'before') this.end()
    const result = act()
    if (last) this.end()
    return result
  }

  private end(): never {
    this.dead = true
    throw new Killed()
  }
}

const READS = [
  'machine',
  'ofRun',
  'everOfRun',
  'crewOf',
  'crewSince',
  'out',
  'idle',
  'outSince',
  'unbilled',
  'changes',
  'changesSince',
  'stageTimes',
  'lastChangeId',
  'enrolment',
  'enrolmentOf',
  'log',
]

function mortal(machines: MachineStore, life: () => Life): MachineStore {
  return new Proxy(machines, {
    get(target, name: keyof MachineStore) {
      const real = target[name] as (...args: unknown[]) => unknown
      if (name === 'together') return target.together
      return (...args: unknown[]) => {
        if (READS.includes(name)) {
          if (life().dead) throw new Killed()
          return real(...args)
        }
        return life().step(() => real(...args))
      }
    },
  })
}

/** A cloud that never dies: a machine per key, listed until it is ended. */
function cloud(life: () => Life) {
  const made = new Map<string, ProviderMachine>()
  const provider: Provider = {
    id: 'nimbral',
    name: 'Nimbral',
    way: 'cloud',
    ownEnd: 'natively',
    mostBooting: 50,
    offers: () => Promise.resolve([]),
    create: ({ idempotencyKey, name, region, type }) =>
      Promise.resolve().then(() =>
        life().step(() => {
          if (!made.has(idempotencyKey))
            made.set(idempotencyKey, { ref: `ref-${idempotencyKey}`, name, region, type, state: 'running' })
          return { ref: `ref-${idempotencyKey}` }
        }),
      ),
    list: () => Promise.resolve().then(() => life().step(() => [...made.values()].map(m => ({ ...m })))),
    release: ref =>
      Promise.resolve().then(() =>
        life().step(() => {
          for (const m of made.values()) if (m.ref === ref) m.state = 'gone'
        }),
      ),
  }
  return { made, provider }
}

/**
 * One life of two machines, from asking to release, with a process that may be killed at any step. @returns steps it
 * took in all, and what is left
 */
async function live(endsAt: number, when: 'before' | 'after') {
  const store: Store = openStore(join(folder, `${++files}.db`))
  const runId = runStore(store).create('p', runDocument(), 0)
  const real = () => machineStore(store)
  let now = 1_000_000
  const clock: Clock = { now: () => now, after: () => NEVER, every: () => NEVER }
  let life = new Life(endsAt, when)
  const { made, provider } = cloud(() => life)
  const start = () =>
    new Fleet({
      machines: mortal(machineStore(store), () => life),
      providers: new Map([['nimbral', provider]]),
      clock,
      door: { address: () => 'https://x', pin: undefined },
      secret: () => 's',
      installation: 'vornak-test',
      connected: () => true,
      lastWord: () => ({ heardAt: clock.now(), graceOverAt: Number.POSITIVE_INFINITY }),
      listener: {
        onChange() {
          /* read from the store */
        },
      },
    })
  let fleet = start()
  let crashes = 0
  /** Does something until it is done, with as many processes as it takes. */
  const done = async (act: (f: Fleet) => Promise<void> | void, is: () => boolean) => {
    for (let i = 0; i < 60 && !is(); i++) {
      try {
        await act(fleet)
      }
      catch (error) {
        if (!(error instanceof Killed) && !(error instanceof ProviderSilent)) throw error
      }
      // Whatever the dead one still had under way comes to nothing.
      await new Promise(r => setImmediate(r))
      if (life.dead) {
        crashes++
        fleet.stop()
        life = new Life(Number.POSITIVE_INFINITY, when)
        fleet = start()
      }
      now += 6000
    }
    expect(is()).toBe(true)
  }
  const states = () =>
    real()
      .ofRun(runId)
      .map(m => m.state)
  await done(
    async (f) => {
      f.place(runId, runDocument())
      await f.fill()
    },
    () => states().length === 2 && states().every(s => s === 'installing'),
  )
  await done(
    f =>
      real()
        .ofRun(runId)
        .forEach((m) => {
          for (const e of ['enrolled', 'rollCallPassed', 'loadStarted', 'drainStarted', 'loadEnded'] as const)
            f.change(m.id, e, 'made up')
        }),
    () => states().every(s => s === 'ready'),
  )
  const before = life.did
  await done(
    f => f.release(runId, 'over'),
    () => real().out().length === 0,
  )
  const left = [...made.values()].filter(m => m.state !== 'gone')
  const result = {
    left,
    made: made.size,
    states: states(),
    crashes,
    steps: life.did,
    before,
    strays: fleet.strays.length,
  }
  fleet.stop()
  store.close()
  return result
}

describe('a fleet whose process is killed', () => {
  it('ends with nothing at the provider and nothing made twice, whenever it happens', async () => {
    const whole = await live(Number.POSITIVE_INFINITY, 'after')
    expect(whole).toMatchObject({ left: [], made: 2, crashes: 0, states: ['released', 'released'] })
    expect(whole.steps).toBeGreaterThan(30)
    for (let step = 0; step < whole.steps; step++)
      for (const when of ['before', 'after'] as const) {
        const result = await live(step, when)
        expect([step, when, result.left, result.made, result.crashes, result.states]).toEqual([
          step,
          when,
          [],
          2,
          1,
          ['released', 'released'],
        ])
      }
  }, 120_000)
})

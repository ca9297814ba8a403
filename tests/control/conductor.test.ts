/**
 * What a process does that takes a run up which another began: nothing that generators bring may fall on the floor,
 * however early they are back.
 */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import type { Connection } from '../../control/link/generator-hub'
import type { ActiveRun } from '../../control/run/active-run'
import { ControlError } from '../../control/errors'
import { Conductor } from '../../control/run/conductor'
import { leaveWorkOfEnded } from '../../control/run/work-of-ended'
import { factStore } from '../../control/store/facts'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { outboxStore } from '../../control/store/outbox'
import { runStore } from '../../control/store/runs'
import { FREE } from '../../core/offers/cost'
import { ownFolder } from '../build/folder'
import type { Approval, Target } from '../../core/journey/target'
import { runDocument, target } from '../build/plans'

const folder = ownFolder()
let files = 0
const NEVER: Cancel = {
  cancel() {
    /* nothing was set */
  },
}

/** A store in which a run loads on two machines, as a process left it that is gone. */
function leftBehind() {
  const store = openStore(join(folder, `vornak-${++files}.db`))
  const [machines, runs] = [machineStore(store), runStore(store)]
  const runId = runs.create('p', runDocument(), 0)
  for (const id of ['REY-1', 'TAV-1']) {
    machines.create({
      id,
      runId,
      provider: 'nimbral',
      region: 'reyk',
      location: id.slice(0, 3),
      place: 0,
      name: id,
      type: 'brisk-1',
      idempotencyKey: id,
      askedAt: 0,
      leaseEndsAt: 600_000,
      price: FREE,
    })
    machines.change(id, { at: 0, from: 'ready', to: 'loading', event: 'loadStarted', reason: 'made up' })
  }
  runs.setStart(runId, 1000)
  runs.change(runId, { at: 1000, from: 'armed', to: 'loading', event: 'started', reason: 'made up' }, false)
  return { store, machines, runs, runId }
}

/** A process that finds it, 4 s after the run began, 2.6 s after the one before was last alive. */
function takenUp({ draining = false, rehearsing = false } = {}) {
  const left = leftBehind()
  const { store, machines, runs } = left
  if (rehearsing) {
    runs.change(left.runId, { at: 2000, from: 'rollCall', to: 'rehearsing', event: 'rollCalled', reason: 'x' }, false)
    for (const id of ['REY-1', 'TAV-1'])
      machines.change(id, { at: 2000, from: 'enrolled', to: 'ready', event: 'rollCallPassed', reason: 'x' })
  }
  if (draining)
    runs.change(left.runId, { at: 2000, from: 'loading', to: 'draining', event: 'planOver', reason: 'x' }, false)
  const did: unknown[][] = []
  let now = 5000
  let look = () => {
    /* set below */
  }
  const clock: Clock = { now: () => now, after: () => NEVER, every: (_, call) => ((look = call), NEVER) }
  const facts = factStore(store)
  facts.set('aliveAt', '2400')
  const ingest = {
    open: (id: number) => did.push(['open', id]),
    frame: (id: number, generator: number) => did.push(['frame', id, generator]),
    exemplars: (id: number, _: string, generator: number) => did.push(['exemplars', id, generator]),
    leave() {
      /* nobody goes */
    },
    settle: (id: number) => {
      did.push(['settle', id])
      return Promise.reject(new Error('a second has no figures'))
    },
  }
  const connections = new Map(
    ['REY-1', 'TAV-1'].map(id => [
      id,
      {
        machineId: id,
        work: { state: 'loading', runId: '1' },
        clock: { uncertaintyAt: () => 1, offsetAt: () => 0 },
        close: () => did.push(['closed', id]),
        say(message: { kind: string }) {
          if (message.kind === 'abort') did.push(['abort', id])
        },
      },
    ]),
  )
  const releasing = { fails: false }
  const secrets = { fault: new Error('nobody thought of this') as Error }
  const agreed: { target: Target | undefined } = { target: target() }
  const told = { target: true }
  const hub = { connections, heardAt: () => now, graceOverAt: () => now + 62_000 }
  const conductor = new Conductor({
    store,
    outbox: outboxStore(store),
    facts,
    clock,
    runs,
    machines,
    hub,
    ingest,
    fleet: {
      change: () => undefined,
      release: () => {
        did.push(['release'])
        return releasing.fails ? Promise.reject(new TypeError('nobody thought of this')) : Promise.resolve()
      },
    },
    rollCaller: { judge: () => ({ called: [], findings: [] }) },
    library: {
      target: () => agreed.target,
      secretsOf() {
        throw secrets.fault
      },
    },
    runFile: () => 'x',
    active: new Map(),
    loadNotBefore: () => undefined,
    targetIsJudgeable: () => told.target,
    targetFile: () => '/nowhere/target.db',
    selfTestS: 0,
    disk: { trouble: undefined },
    onChange() {
      /* nobody listens */
    },
  } as never)
  return {
    ...left,
    agreed,
    secrets,
    releasing,
    told,
    connections,
    did,
    look: () => look(),
    conductor,
    move: (ms: number) => {
      now += ms
    },
  }
}

describe('a process that takes a run up', () => {
  it('keeps frames and exchanges that come before it has looked at the run for the first time', () => {
    const { runId, did, look, conductor, store } = takenUp()
    conductor.intake.onFrame('TAV-1', new Uint8Array(3))
    conductor.onMessage({ machineId: 'REY-1' } as never, {
      kind: 'exemplars',
      passes: [],
      runId: '1',
      incarnation: 1,
      batch: 1,
      records: [],
      dropped: 0,
    })
    conductor.intake.onFrame('REY-1', new Uint8Array(3))
    conductor.intake.onFrame('somebody else', new Uint8Array(3))
    // Opened once, before anything is put into it.
    expect(did).toEqual([
      ['open', runId],
      ['frame', runId, 1],
      ['exemplars', runId, 0],
      ['frame', runId, 0],
    ])
    look()
    expect(did.filter(([what]) => what === 'open')).toHaveLength(1)
    conductor.shutDown()
    store.close()
  })

  it('tries a result that cannot be made again, later and later, and then keeps the run as failed, with its frames', async () => {
    const { runs, runId, did, look, conductor, move, store } = takenUp({ draining: true })
    look()
    conductor.onFinished(runId, [0, 1])
    const settles: number[] = []
    let at = 0
    for (; at < 120 && runs.run(runId)!.state === 'draining'; at++) {
      const before = did.filter(([what]) => what === 'settle').length
      look()
      await new Promise(r => setImmediate(r))
      if (did.filter(([what]) => what === 'settle').length > before) settles.push(at)
      move(1000)
    }
    // Seconds at which it was tried: each pause twice the one before.
    expect(settles).toEqual([0, 2, 6, 14, 30])
    expect([runs.run(runId)!.state, runs.run(runId)!.summary]).toEqual(['failed', undefined])
    expect(runs.changes(runId).at(-1)).toMatchObject({
      event: 'resultFailed',
      reason: expect.stringMatching(/^The result could not be made: a second has no figures\. It was tried 5 times; what was measured is kept/),
    })
    conductor.shutDown()
    store.close()
  })

  it('waits for what the answer is held against of the target’s own figures, and says so once', async () => {
    const { runs, runId, did, look, conductor, move, told, store } = takenUp({ draining: true })
    told.target = false
    look()
    conductor.onFinished(runId, [0, 1])
    for (let i = 0; i < 5; i++) {
      look()
      move(1000)
    }
    expect(did.filter(([what]) => what === 'settle')).toHaveLength(0)
    expect(runs.changes(runId).filter(c => c.event === 'targetAwaited')).toHaveLength(1)
    told.target = true
    look()
    await new Promise(r => setImmediate(r))
    expect(did.filter(([what]) => what === 'settle')).toHaveLength(1)
    conductor.shutDown()
    store.close()
  })

  it('tells the run how long nobody led it, and what that touched', () => {
    const { runs, runId, conductor, store } = takenUp()
    const away = runs.changes(runId).find(c => c.event === 'vornakAway')!
    expect(away.reason).toMatch(/^Vornak was away from \+1 s to \+4 s \(3 s\)\. Generators drove on by themselves/)
    conductor.shutDown()
    store.close()
  })

  it('closes the link of one that sent a frame that cannot be read, three times at most, and says it once', () => {
    const { runs, runId, did, look, conductor, move, store } = takenUp()
    look()
    for (let i = 0; i < 8; i++) {
      conductor.intake.onAside(runId, 1, 'frame', 'frame: checksum does not match')
      move(i % 2 === 0 ? 500 : 11_000)
    }
    expect(did.filter(([what]) => what === 'closed')).toEqual([
      ['closed', 'TAV-1'],
      ['closed', 'TAV-1'],
      ['closed', 'TAV-1'],
    ])
    expect(
      runs
        .changes(runId)
        .filter(c => c.event === 'setAside')
        .map(c => c.reason),
    ).toEqual([expect.stringContaining('TAV-1: a frame could not be read: frame: checksum')])
    conductor.shutDown()
    store.close()
  })

  it('begins a merge anew that could not go on, after a moment, over new links', () => {
    const { runs, runId, did, look, conductor, move, store } = takenUp()
    look()
    conductor.onBroken('The disk is full.', runId)
    look()
    expect(did.filter(([what]) => what === 'open')).toHaveLength(1)
    move(2500)
    look()
    expect(did.slice(-3)).toEqual([
      ['open', runId],
      ['closed', 'REY-1'],
      ['closed', 'TAV-1'],
    ])
    expect(runs.changes(runId).find(c => c.event === 'mergeBroken')!.reason).toContain('The disk is full.')
    conductor.shutDown()
    store.close()
  })
})

describe('what the owner of a target agrees to', () => {
  const { approval } = target()
  const to = (more: Partial<Approval>): Target => target({ approval: { ...approval!, ...more } })

  it.each<[string, Target | undefined, string]>([
    ['is withdrawn', { ...target(), approval: undefined } as never, 'is not approved'],
    ['is gone with the target', undefined, 'is not approved'],
    ['ends', to({ until: '1970-01-01T01:00:03+01:00' }), 'ended at'],
    ['becomes less', to({ mostUsers: 3 }), 'agreed to at most 3'],
    ['does not name the host any more', to({ hosts: ['127.0.0.1:2'] }), 'is not among the approved hosts'],
    ['is for other hours', to({ window: { from: '03:00', to: '04:00', zone: 'UTC' } }), 'from 03:00 to 04:00'],
  ])('drains what loads within a second when it %s', (_, now, sentence) => {
    const { agreed, look, move, runs, runId } = takenUp()
    look()
    expect(runs.run(runId)!.state).toBe('loading')
    agreed.target = now
    move(1000)
    look()
    expect(runs.run(runId)!.state).toBe('draining')
    expect(runs.changes(runId).at(-1)!.reason).toContain(sentence)
  })

  it('is a moment, in whatever zone it is written', () => {
    const { agreed, look, move, runs, runId } = takenUp()
    // Smaller as a text than the moment it is now, and half an hour later.
    agreed.target = to({ until: '1969-12-31T19:30:05-05:00' })
    move(1000)
    look()
    expect(runs.run(runId)!.state).toBe('loading')
  })
})

describe('a run that was ended', () => {
  it('is left by everyone who still has work of it, once over each link, and by nobody else', () => {
    const told: string[] = []
    const link = (machineId: string, work: Connection['work']) =>
      ({ machineId, work, say: (m: { kind: string }) => told.push(`${m.kind} ${machineId}`) }) as unknown as Connection
    const connections = new Map(
      [
        link('armed', { state: 'prepared', runId: '7' }),
        link('loads', { state: 'loading', runId: '7' }),
        link('has ended', { state: 'finished', runId: '7' }),
        link('waits', { state: 'idle', runId: '' }),
        link('of another run', { state: 'loading', runId: '8' }),
      ].map(c => [c.machineId, c]),
    )
    const active = new Map([[8, {} as ActiveRun]])
    leaveWorkOfEnded({ connections }, active)
    leaveWorkOfEnded({ connections }, active)
    expect(told).toEqual(['abort armed', 'abort loads'])
    // One that comes back later with the same work is told as well.
    connections.set('armed', link('armed', { state: 'loading', runId: '7' }))
    leaveWorkOfEnded({ connections }, active)
    expect(told).toEqual(['abort armed', 'abort loads', 'abort armed'])
  })
})

describe('a run that cannot be led on', () => {
  it('ends in words when it is known why; anything else is told once and tried again', async () => {
    const { runs, runId, secrets, look, conductor, store } = takenUp({ rehearsing: true })
    for (let i = 0; i < 4; i++) look()
    expect(runs.run(runId)!.state).toBe('rehearsing')
    expect(runs.changes(runId).filter(c => c.event === 'trouble').map(c => c.reason)).toEqual(['nobody thought of this'])
    secrets.fault = new ControlError('secret-elsewhere', 400, 'The secret a was given for b.', 'Give it again.')
    look()
    expect(runs.run(runId)!.state).toBe('failed')
    expect(runs.changes(runId).at(-1)).toMatchObject({
      event: 'rehearsalFailed',
      reason: 'The secret a was given for b. Give it again.',
    })
    conductor.shutDown()
    // Its errands have been begun.
    await new Promise(r => setImmediate(r))
    store.close()
  })
})

describe('an errand that fails as nobody thought of', () => {
  it('ends nothing: it is said once with the run, and tried again, less and less often', async () => {
    const { did, look, move, conductor, releasing, runs, runId } = takenUp()
    runs.change(runId, { at: 1, from: 'loading', to: 'armed', event: 'started', reason: 'made up' }, false)
    conductor.takeUp(runId)
    releasing.fails = true
    conductor.abort(runId, 'by hand')
    const tries = async (ms: number) => {
      move(ms)
      look()
      await new Promise(setImmediate)
      return did.filter(([what]) => what === 'release').length
    }
    const seen = [await tries(0), await tries(1000), await tries(1000), await tries(2000), await tries(2000)]
    expect(seen).toEqual([1, 1, 2, 2, 3])
    expect(runs.changes(runId).filter(c => c.event === 'trouble').map(c => c.reason)).toEqual([
      'giving its machines back failed, and is tried again: nobody thought of this',
    ])
    releasing.fails = false
    expect([await tries(8000), await tries(60_000)]).toEqual([4, 4])
  })
})

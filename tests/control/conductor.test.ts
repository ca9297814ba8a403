/**
 * What a process does that takes a run up which another began: nothing that generators bring may fall on the floor,
 * however early they are back.
 */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import { Conductor } from '../../control/run/conductor'
import { factStore } from '../../control/store/facts'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { outboxStore } from '../../control/store/outbox'
import { runStore } from '../../control/store/runs'
import { FREE } from '../../core/offers/cost'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

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
function takenUp() {
  const left = leftBehind()
  const { store, machines, runs } = left
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
  }
  const connections = new Map(
    ['REY-1', 'TAV-1'].map(id => [
      id,
      {
        machineId: id,
        work: { state: 'loading', runId: '1' },
        clock: { uncertaintyAt: () => 1 },
        close: () => did.push(['closed', id]),
        say() {
          /* not read */
        },
      },
    ]),
  )
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
    fleet: {},
    rollCaller: {},
    library: {},
    runFile: () => 'x',
    selfTestS: 0,
    onChange() {
      /* nobody listens */
    },
  } as never)
  return {
    ...left,
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

  it('tells the run how long nobody led it, and what that touched', () => {
    const { runs, runId, conductor, store } = takenUp()
    const away = runs.changes(runId).find(c => c.event === 'vornakAway')!
    expect(away.reason).toMatch(/^Vornak was away from \+1 s to \+4 s \(3 s\)\. Generators drove on by themselves/)
    conductor.shutDown()
    store.close()
  })

  it('closes the link of whoever sent a frame that cannot be read, three times at most, and says it once', () => {
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

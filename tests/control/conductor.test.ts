/** What a process does that takes a run up which another began: nothing that generators bring may fall on the floor, however early they are back. */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import { Conductor } from '../../control/run/conductor'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { outboxStore } from '../../control/store/outbox'
import { runStore } from '../../control/store/runs'
import { FREE } from '../../core/fleet/cost'
import { ownFolder } from '../build/folder'
import { runDocument } from '../build/plans'

const folder = ownFolder()
const NEVER: Cancel = { cancel() { /* nothing was set */ } }

/** A store in which a run loads on two machines, as a process left it that is gone. */
function leftBehind() {
  const store = openStore(join(folder, 'vornak.db'))
  const [machines, runs] = [machineStore(store), runStore(store)]
  const runId = runs.create('p', runDocument(), 0)
  for (const id of ['REY-1', 'TAV-1']) {
    machines.create({ id, runId, provider: 'nimbral', region: 'reyk', location: id.slice(0, 3), place: 0, name: id, type: 'brisk-1', idempotencyKey: id, askedAt: 0, leaseEndsAt: 600_000, price: FREE })
    machines.change(id, { at: 0, from: 'ready', to: 'loading', event: 'loadStarted', reason: 'made up' })
  }
  runs.setStart(runId, 1000)
  runs.change(runId, { at: 1000, from: 'armed', to: 'loading', event: 'started', reason: 'made up' }, false)
  return { store, machines, runs, runId }
}

describe('a process that takes a run up', () => {
  it('keeps frames and exchanges that come before it has looked at the run for the first time', () => {
    const { store, machines, runs, runId } = leftBehind()
    const did: unknown[][] = []
    let look = () => { /* set below */ }
    const clock: Clock = { now: () => 5000, after: () => NEVER, every: (_, call) => (look = call, NEVER) }
    const ingest = { open: (id: number) => did.push(['open', id]), frame: (id: number, generator: number) => did.push(['frame', id, generator]), exemplars: (id: number, _: string, generator: number) => did.push(['exemplars', id, generator]) }
    const conductor = new Conductor({ store, outbox: outboxStore(store), clock, runs, machines, hub: { connections: new Map() }, ingest, fleet: {}, rollCaller: {}, library: {}, runFile: () => 'x', selfTestS: 0, onChange() { /* nobody listens */ } } as never)
    conductor.onFrame('TAV-1', new Uint8Array(3))
    conductor.onMessage({ machineId: 'REY-1' } as never, { kind: 'exemplars', runId: '1', incarnation: 1, batch: 1, records: [], dropped: 0 })
    conductor.onFrame('REY-1', new Uint8Array(3))
    conductor.onFrame('somebody else', new Uint8Array(3))
    // Opened once, before anything is put into it.
    expect(did).toEqual([['open', runId], ['frame', runId, 1], ['exemplars', runId, 0], ['frame', runId, 0]])
    look()
    expect(did.filter(([what]) => what === 'open')).toHaveLength(1)
    conductor.shutDown()
    store.close()
  })
})

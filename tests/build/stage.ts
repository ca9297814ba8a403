/** A run whose machines and answers are made up, for looking at one phase at a time; the store is real. */
import { join } from 'node:path'
import type { Cancel, Clock } from '../../control/clock'
import type { Connection } from '../../control/link/generator-hub'
import { afterEvent, type MachineEvent } from '../../core/run/machine-life'
import { RollCaller } from '../../control/link/roll-caller'
import type { ActiveRun, PhaseTools } from '../../control/run/active-run'
import { Steering } from '../../control/run/steering'
import { StressWatch } from '../../core/soundness/stress-watch'
import { machineStore } from '../../control/store/machines'
import { openStore } from '../../control/store/open'
import { rollCallStore } from '../../control/store/roll-calls'
import { runStore } from '../../control/store/runs'
import { FREE } from '../../core/offers/cost'
import type { RollCallReport } from '../../core/fleet/roll-call'
import type { RunDocument } from '../../core/run/document'
import type { ToGenerator } from '../../protocol/messages'
import { RELEASE } from '../../protocol/version'
import { runDocument } from './plans'
import { Parts } from '../../control/run/parts'

export const REACHED = {
  host: '127.0.0.1:1',
  ok: true,
  addresses: ['127.0.0.1'],
  lookupMs: -1,
  connectMs: 0.5,
  tlsMs: -1,
  firstByteMs: 2,
  status: 200,
  challenge: false,
  from: '127.0.0.1',
}
export const REPORT: RollCallReport = {
  nonce: '',
  program: RELEASE,
  speed: 50,
  memoryFreeBytes: 1e9,
  descriptors: 65_536,
  ports: 28_232,
  diskFreeBytes: 1e10,
  reached: [REACHED],
  runtimes: [],
}
const NEVER: Cancel = {
  cancel() {
    /* nothing was set */
  },
}
let files = 0

/**
 * A run with a machine at each of two locations, and everything its phases look at. @param folder for its store, which
 * `close` closes
 */
export function stageIn(folder: string, document: RunDocument = runDocument()) {
  const store = openStore(join(folder, `${++files}.db`))
  const machines = machineStore(store)
  const runs = runStore(store)
  const runId = runs.create('p', document, 0)
  let now = 1_000_000
  const clock: Clock = { now: () => now, after: () => NEVER, every: () => NEVER }
  const said: [machine: string, message: ToGenerator][] = []
  const connections = new Map<string, Connection>()
  /** When each machine was last heard; left out: just now. */
  const heard = new Map<string, number>()
  const order = (location: string, place: number) => {
    const id = `${location}-${place + 1}`
    machines.create({
      id,
      runId,
      provider: 'nimbral',
      region: 'reyk',
      location,
      place,
      name: id,
      type: 'brisk-1',
      idempotencyKey: id,
      askedAt: now,
      leaseEndsAt: now + 600_000,
      price: FREE,
    })
  }
  const connect = (id: string, offsetMs: number) =>
    connections.set(id, {
      machineId: id,
      heardAt: now,
      echo: 0,
      work: { state: 'idle', runId: '' },
      clock: { samples: 8, uncertaintyAt: () => 2, offsetAt: () => offsetMs } as unknown as Connection['clock'],
      say: message => said.push([id, message]),
      close() {
        /* nothing */
      },
    })
  for (const [i, location] of ['REY', 'TAV'].entries()) {
    order(location, 0)
    connect(`${location}-1`, 100 * (i + 1))
  }
  const released: string[] = []
  const change = (id: string, event: MachineEvent, reason: string) => {
    const from = machines.machine(id)!.state
    const to = afterEvent(from, event)
    if (to) machines.change(id, { at: now, from, to, event, reason })
  }
  const rollCaller = new RollCaller(machines, { connections } as never, rollCallStore(store), clock, () => {
    /* read from the store */
  })
  const opened: unknown[] = []
  const tools = {
    clock,
    runs,
    machines,
    hub: {
      connections,
      heardAt: (id: string) => heard.get(id) ?? now,
      graceOverAt: (id: string) => (heard.get(id) ?? now) + 62_000,
    },
    fleet: {
      change,
      place() {
        /* placed above */
      },
      placeLate() {
        /* placed by the test */
      },
      extend: () => Promise.resolve(),
      releaseMachine: (id: string) => Promise.resolve(released.push(id)),
    },
    rollCaller,
    ingest: {
      open: (...args: unknown[]) => opened.push(args),
      leave() {
        /* nothing is merged */
      },
    },
    library: { secretsOf: () => ({}), store: { file: () => undefined }, feed: () => undefined },
    runFile: () => 'x',
    loadNotBefore: () => undefined,
    targetIsJudgeable: () => true,
    targetFile: () => '/nowhere/target.db',
    selfTestS: 0,
  } as unknown as PhaseTools
  const run: ActiveRun = {
    id: runId,
    brokenSoFar: [],
    document,
    stored: runs.run(runId)!,
    since: now,
    generators: [],
    rehearsals: new Map(),
    unprepared: new Map(),
    comingBack: new Map(),
    parts: new Parts(),
    asides: new Map(),
    mergeNotBefore: 0,
    shifted: new Map(),
    toldTaken: new WeakMap(),
    told: new WeakMap(),
    stress: new StressWatch(document),
    steering: new Steering(document),
    toldNotReached: new Set(),
    merging: false,
    closing: false,
    targetAwaited: false,
    lookedAt: 0,
    clocksNotedAt: 0,
    approvedAt: Number.NEGATIVE_INFINITY,
    prolonged: false,
    salvaged: new Map(),
    unmade: { times: 0, sentence: '' },
  }
  const all = (...events: MachineEvent[]) => {
    for (const id of connections.keys()) for (const event of events) change(id, event, 'made up')
  }
  const states = () => machines.ofRun(runId).map(m => m.state)
  /** A generator's answer to what it was last asked. */
  const answer = (id: string, over: Partial<RollCallReport> = {}) => {
    const asked = said.findLast(([to, m]) => to === id && m.kind === 'rollCall')?.[1] as Extract<
      ToGenerator,
      { kind: 'rollCall' }
    >
    rollCaller.take(connections.get(id)!, { ...REPORT, nonce: asked.nonce, ...over })
  }
  return {
    run,
    tools,
    runs,
    answer,
    heard,
    said,
    connections,
    order,
    connect,
    released,
    change,
    all,
    states,
    opened,
    now: () => now,
    move: (ms: number) => {
      now += ms
    },
    close: () => store.close(),
  }
}

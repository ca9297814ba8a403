/**
 * `link`: 1,000 generators over TLS sockets at the generators' door, 10 steps at 1 Hz, merged, kept and acknowledged by
 * the real worker: cores in all, and the delay of the controller's loop. All of them send at the same moment. The same
 * over plain sockets is the reference; and the same beside the reading of a target's own figures.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { generateKeyPairSync } from 'node:crypto'
import { once } from 'node:events'
import { mkdtempSync, rmSync } from 'node:fs'
import type { AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { fileURLToPath } from 'node:url'
import WebSocket, { WebSocketServer } from 'ws'
import { realClock } from '../control/clock'
import { Inbox } from '../control/target/inbox'
import { RunWatch } from '../control/target/run-watch'
import { Ingest } from '../control/ingest/ingest'
import { DoorKey } from '../control/link/door-key'
import { GeneratorHub, hashOf, NOBODY } from '../control/link/generator-hub'
import { InnerFaults } from '../control/store/faults'
import { factStore } from '../control/store/facts'
import { machineStore } from '../control/store/machines'
import { openStore } from '../control/store/open'
import { runStore } from '../control/store/runs'
import { sealingWith } from '../control/store/sealing'
import { FREE } from '../core/offers/cost'
import { seededRandom } from '../core/random/seeded'
import { generatorsDoor, speakWith } from '../main/generators-door'
import { readToGenerator, type FromGenerator } from '../protocol/messages'
import { PinnedAgent } from '../protocol/pin'
import type { Recorder } from '../protocol/recorder'
import { LINK_PATH, PROTOCOL_VERSION } from '../protocol/version'
import { GENERATORS, LOCATIONS, manyDocument, recorderOfOne, recordSecond, STEPS } from './many'
import { offeredSeries } from './account'
import { tell } from './measure'

const TLS_CORES_GOAL = 0.6
const DELAY_GOAL_MS = 20

/** No frame is about a later second of the run. */
const AHEAD_S = 3600

interface Measured {
  cores: number
  delayP99Ms: number
}

export async function benchLink(program: string, quick: boolean): Promise<void> {
  const [generators, seconds] = quick ? [50, 3] : [GENERATORS, 20]
  const plain = await measured(program, false, generators, seconds)
  const secure = await measured(program, true, generators, seconds)
  const about = `${generators} generators over TLS, ${STEPS} steps, 1 Hz`
  tell({
    bench: 'link',
    case: about,
    value: secure.cores,
    unit: 'cores',
    reference: plain.cores,
    ratio: secure.cores / plain.cores,
    goal: `value ≤ ${TLS_CORES_GOAL}`,
  })
  tell({
    bench: 'link',
    case: `${about}: loop delay p99`,
    value: secure.delayP99Ms,
    unit: 'ms',
    reference: plain.delayP99Ms,
    ratio: secure.delayP99Ms / plain.delayP99Ms,
    goal: `value ≤ ${DELAY_GOAL_MS}`,
  })
  const beside = await measured(program, true, generators, seconds, true)
  tell({
    bench: 'link',
    case: `${about}: loop delay p99, while ${READ_SERIES} series are read at 1 Hz besides`,
    value: beside.delayP99Ms,
    unit: 'ms',
    reference: secure.delayP99Ms,
    ratio: beside.delayP99Ms / secure.delayP99Ms,
    goal: `value ≤ ${DELAY_GOAL_MS}`,
  })
}

/** Of those a page of 2,000 offers. */
const READ_SERIES = 100

async function measured(
  program: string,
  tls: boolean,
  generators: number,
  seconds: number,
  isRead = false,
): Promise<Measured> {
  const folder = mkdtempSync(join(tmpdir(), 'vornak-bench-'))
  const house = await openHouse(folder, tls, generators)
  const child = spawn(process.execPath, [program, 'link-generators', house.address, house.pin, String(generators)], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  })
  await said(child, 'enrolled')
  const reading = isRead ? await readBeside(program, folder) : undefined
  const delay = monitorEventLoopDelay({ resolution: 1 })
  delay.enable()
  const [before, began] = [process.cpuUsage(), performance.now()]
  child.send({ seconds })
  await said(child, 'sent')
  await house.acknowledged(generators * seconds)
  const used = process.cpuUsage(before)
  delay.disable()
  const cores = (used.user + used.system) / 1000 / (performance.now() - began)
  child.kill()
  await reading?.close()
  house.close()
  rmSync(folder, { recursive: true, force: true })
  // The histogram counts from its own resolution on.
  return { cores, delayP99Ms: Math.max(0, delay.percentile(99) / 1e6 - 1) }
}

function said(child: ChildProcess, what: string): Promise<void> {
  return new Promise((resolve, reject) => {
    child.on('message', message => message === what && resolve())
    child.once('exit', code => reject(new Error(`the generators ended with ${code}`)))
  })
}

/** Reads a page of another process, as a run does. */
async function readBeside(program: string, folder: string) {
  const page = spawn(process.execPath, [program, 'metrics-page'], { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] })
  const [port] = (await once(page, 'message')) as [number]
  const series = Array.from({ length: READ_SERIES }, (_, i) => offeredSeries(i * 20))
  const { target: own } = manyDocument()
  const target = {
    ...own,
    approval: { ...own.approval!, addressRanges: ['127.0.0.1/32'], readFrom: [`127.0.0.1:${port}`] },
    sources: [{ name: 'page', kind: 'metrics' as const, address: `http://127.0.0.1:${port}/`, everyS: 1, series }],
  }
  const news: string[] = []
  const watch = new RunWatch({
    runId: 1,
    target,
    secrets: {},
    commands: { open: () => Promise.reject(new Error('no hosts')) },
    inbox: new Inbox(),
    path: join(folder, 'target.db'),
    clock: realClock,
    onNews: ({ sentence }) => news.push(sentence),
  })
  return {
    async close() {
      const values = watch.file.lines().length
      await watch.close()
      page.kill()
      if (values !== READ_SERIES) throw new Error(`${values} series were read: ${news.join(' ')}`)
    },
  }
}

/** The controller's side: store, hub, merge worker, and a door. */
async function openHouse(folder: string, tls: boolean, generators: number) {
  const store = openStore(join(folder, 'vornak.db'))
  const machines = machineStore(store)
  const document = manyDocument()
  const runId = runStore(store).create('bench', document, Date.now())
  const numbers = new Map<string, number>()
  for (let g = 0; g < generators; g++) {
    const id = `m${g}`
    numbers.set(id, g)
    machines.create({
      id,
      runId,
      provider: 'bench',
      region: 'r',
      location: 'L',
      place: g,
      name: id,
      type: 't',
      idempotencyKey: id,
      askedAt: Date.now(),
      leaseEndsAt: Date.now() + 3_600_000,
      price: FREE,
    })
    machines.addEnrolment(hashOf(`token-${g}`), id, Date.now() + 3_600_000)
  }
  const ingest = new Ingest(fileURLToPath(new URL('./merge-worker.mjs', import.meta.url)), (error) => {
    throw error
  })
  let fed = 0
  const hub = new GeneratorHub(machines, realClock, 1, {
    ...NOBODY,
    onFrame: (id, bytes) => ingest.frame(runId, numbers.get(id)!, bytes, AHEAD_S),
  })
  let acknowledged = 0
  const lastAck = new Map<number, number>()
  ingest.listener = {
    onAck(_, { generator, incarnation, worker, upTo }) {
      acknowledged += upTo - (lastAck.get(generator) ?? 0)
      lastAck.set(generator, upTo)
      hub.connections.get(`m${generator}`)?.say({ kind: 'ack', incarnation, worker, upTo })
    },
    // As for one browser that watches.
    onBrokenSoFar: () => undefined,
    onSeconds: (_, figures) => void (fed += JSON.stringify(figures).length),
    onExemplars: () => undefined,
    onFinished: () => undefined,
    onGrown: () => undefined,
    onAside: (_run, _generator, _what, sentence) => {
      throw new Error(sentence)
    },
    onBroken: (sentence) => {
      throw new Error(sentence)
    },
  }
  ingest.open(
    runId,
    join(folder, 'run.db'),
    document,
    [...numbers].map(([machineId, g]) => ({ machineId, name: machineId, location: g % LOCATIONS })),
  )
  const sealing = sealingWith(join(folder, 'key'))
  const key = new DoorKey({ facts: factStore(store), sealing, clock: realClock })
  const coordinator = {
    acceptGenerator: hub.accept.bind(hub),
    doorCertificate: () => key.certificate(),
    generatorProgram: () => new Uint8Array(),
    faults: new InnerFaults(realClock),
  }
  const door = tls ? await generatorsDoor({ host: '127.0.0.1', port: 0 }) : undefined
  await door?.open(coordinator)
  const plain = tls ? undefined : new WebSocketServer({ host: '127.0.0.1', port: 0, perMessageDeflate: false })
  if (plain) await once(plain, 'listening')
  plain?.on('connection', (socket, request) => speakWith(coordinator, socket, request))
  const { port } = door ?? (plain!.address() as AddressInfo)
  return {
    address: `${tls ? 'wss' : 'ws'}://127.0.0.1:${port}${LINK_PATH}`,
    pin: tls ? key.pin! : '',
    async acknowledged(frames: number) {
      while (acknowledged < frames) await new Promise(r => setTimeout(r, 50))
    },
    close() {
      hub.stop()
      door?.close()
      plain?.close()
      ingest.stop()
      store.close()
      if (fed === 0) throw new Error('nothing was fed')
    },
  }
}

/** The generators' side, in a process of its own: they enrol, answer beats, and send a frame each second. */
export async function linkGenerators(address: string, pin: string, generators: number): Promise<void> {
  const publicKey = generateKeyPairSync('ed25519').publicKey.export({ type: 'spki', format: 'pem' }).toString()
  const links: { socket: WebSocket, recorder: Recorder }[] = []
  for (let g = 0; g < generators; g++) links.push(await enrolled(address, pin, publicKey, g))
  process.send!('enrolled')
  const { seconds } = await new Promise<{ seconds: number }>(r => process.once('message', m => r(m as never)))
  const random = seededRandom(5)
  const began = performance.now()
  for (let s = 0; s < seconds; s++) {
    links.forEach(({ recorder }, g) => recordSecond(recorder, g, s, random))
    await new Promise(r => setTimeout(r, Math.max(0, began + (s + 1) * 1000 - performance.now())))
  }
  process.send!('sent')
}

function enrolled(address: string, pin: string, publicKey: string, g: number) {
  const socket = new WebSocket(address, {
    perMessageDeflate: false,
    ...(pin ? { agent: new PinnedAgent(pin) } : {}),
  })
  const say = (message: FromGenerator) => socket.send(JSON.stringify(message))
  return new Promise<{ socket: WebSocket, recorder: Recorder }>((resolve, reject) => {
    socket.on('error', reject)
    socket.on('message', (data: Buffer, binary) => {
      if (binary) return
      const message = readToGenerator(data.toString())
      if (message.kind === 'hello')
        say({
          kind: 'enrol',
          version: PROTOCOL_VERSION,
          token: `token-${g}`,
          publicKey,
          facts: { hostname: 'h', platform: 'p', node: 'n', cores: 1, memoryBytes: 1, descriptors: 1 },
        })
      else if (message.kind === 'enrolled')
        resolve({ socket, recorder: recorderOfOne(f => socket.send(f.bytes)) })
      else if (message.kind === 'beat') {
        const now = Date.now()
        say({ kind: 'beatReply', t1: message.t1, t2: now, t3: now })
      }
    })
  })
}

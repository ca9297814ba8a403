/**
 * A generator that speaks the protocol but sends nothing: its users live in a {@link World}. For demo history, benches
 * and tests.
 */
import { generateKeyPairSync, type KeyPairKeyObjectResult } from 'node:crypto'
import WebSocket from 'ws'
import {
  drawThinkMs,
  meanThinkMs,
  requestsOf,
  stepsOf,
  type Journey,
  type RequestPart,
  type ThinkTime,
} from '../core/journey/journey'
import { readStatuses } from '../core/journey/answers'
import { measuresOf } from '../core/journey/measures'
import type { PassExchange } from '../core/journey/pass-record'
import type { RunDocument } from '../core/run/document'
import { sliceFor, type Slice, type SlicedUser } from '../core/run/slice'
import { NO_HEALTH } from '../core/capacity/signals'
import { readToGenerator, type FromGenerator, type ToGenerator, type WorkState } from '../protocol/messages'
import { PinnedAgent } from '../protocol/pin'
import { Recorder } from '../protocol/recorder'
import { NOT_ON_THE_LINE } from '../protocol/series-second'
import { LINK_PATH, PROTOCOL_VERSION, RELEASE } from '../protocol/version'
import { SimPasses } from './sim-passes'
import type { World } from './world'
import { present } from '../core/values/present'

export interface SimOptions {
  controller: string
  /** The controller's key. */
  pin?: string
  token: string
  name: string
  world: World
  /** The controller's clock, as this generator sees it, ms since 1970. */
  now: () => number
  /** Users that use up the CPU granted. */
  usersAtFullCpu: number
}

export class SimGenerator {
  private readonly socket: WebSocket
  private readonly keys: KeyPairKeyObjectResult = generateKeyPairSync('ed25519')
  private work: { state: WorkState, runId: string } = { state: 'idle', runId: '' }
  private prepared: { document: RunDocument, slice: Slice } | undefined
  private recorder: Recorder | undefined
  private active = 0
  private over = false
  private readonly incarnation = 1
  private batch = 0
  private startAt = 0
  private readonly passes = new SimPasses(passes =>
    this.say({
      kind: 'exemplars',
      runId: this.work.runId,
      incarnation: this.incarnation,
      batch: ++this.batch,
      records: [],
      passes,
      dropped: 0,
    }))

  constructor(private readonly options: SimOptions) {
    this.socket = new WebSocket(options.controller.replace(/^http/, 'ws') + LINK_PATH, {
      perMessageDeflate: false,
      ...(options.pin ? { agent: new PinnedAgent(options.pin) } : {}),
    })
    this.socket.on('message', (data: Buffer, binary) => {
      if (!binary) this.take(readToGenerator(data.toString()))
    })
    this.socket.on('error', () => {
      /* close follows */
    })
  }

  close(): void {
    this.socket.close()
  }

  private say(message: FromGenerator): void {
    if (this.socket.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message))
  }

  // eslint-disable-next-line max-lines-per-function -- one calculation or case after the other, with what they share
  private take(message: ToGenerator): void {
    const { options } = this
    switch (message.kind) {
      case 'hello':
        return this.say({
          kind: 'enrol',
          version: PROTOCOL_VERSION,
          token: options.token,
          publicKey: this.keys.publicKey.export({ type: 'spki', format: 'pem' }).toString(),
          facts: {
            hostname: options.name,
            platform: 'simulated',
            node: process.version,
            cores: 1,
            memoryBytes: 2 ** 31,
            descriptors: 65_536,
          },
        })
      case 'beat':
        return this.say({ kind: 'beatReply', t1: message.t1, t2: options.now(), t3: options.now() })
      case 'rollCall':
        return this.say({
          kind: 'rollCallReply',
          nonce: message.nonce,
          program: RELEASE,
          speed: 60 * (0.97 + 0.06 * options.world.random()),
          memoryFreeBytes: 2 ** 30,
          descriptors: 65_536,
          ports: 28_232,
          diskFreeBytes: 8e9,
          reached: message.hosts.map(({ host }) => ({
            host,
            ok: true,
            addresses: [host.slice(0, host.lastIndexOf(':'))],
            lookupMs: -1,
            connectMs: 0.6 + options.world.random(),
            tlsMs: -1,
            firstByteMs: 2 + options.world.random(),
            status: 200,
            challenge: false,
            from: '',
          })),
          runtimes: message.runtimes.map(r => ({ program: r.program, ok: true, said: 'simulated' })),
          ...(message.selfTestS > 0 ? { selfTest: { requests: 20_000, cpuUsPerRequest: 150, mostPerS: 5000 } } : {}),
        })
      case 'rehearse':
        return this.say({
          kind: 'rehearsed',
          runId: message.runId,
          steps: message.document.journeys.flatMap(j =>
            simulated(j).map(s => ({
              journeyId: j.id,
              step: s.name,
              ok: true,
              status: firstStatus(s),
              durationMs: 20 + 60 * options.world.random(),
            })),
          ),
        })
      case 'prepare': {
        this.prepared = {
          document: message.document,
          slice: sliceFor(message.document, message.generators, message.post),
        }
        this.work = { state: 'prepared', runId: message.runId }
        return this.say({ kind: 'prepared', runId: message.runId, users: this.prepared.slice.users.length })
      }
      case 'go': {
        this.work = { ...this.work, state: 'loading' }
        this.say({ kind: 'going', runId: message.runId })
        return this.begin(message.startAt)
      }
      case 'drain':
      case 'abort': {
        this.over = true
        return
      }
      case 'release':
        return this.close()
      default:
    }
  }

  /** Puts every user's stays, and the cutting of frames, into the world's time. */
  private begin(startAt: number): void {
    this.startAt = startAt
    const { world } = this.options
    const { document, slice } = present(this.prepared, 'what was prepared')
    const recorder = (this.recorder = new Recorder({
      incarnation: this.incarnation,
      worker: 0,
      groups: document.plan.groups.length,
      startedAt: startAt,
      health: () => ({
        ...NO_HEALTH,
        cpuShare: (this.active / this.options.usersAtFullCpu) * (0.9 + 0.2 * world.random()),
        loopDelayP99Ms: 0.6 + world.random(),
        scheduleLagP99Ms: 0.4 + world.random(),
        memoryShare: 0.05,
        socketShare: this.active / 65_536,
      }),
      onFrame: ({ bytes }) => this.socket.send(bytes),
    }))
    recorder.begin(world.now)
    let lastStop = 0
    for (const { group, atMs, numbers, kindOf, kinds } of slice.arrivals) {
      // A user who arrives goes once round; a minute is long enough for any of the demo's journeys.
      atMs.forEach((at, i) => {
        lastStop = Math.max(lastStop, at)
        world.at(startAt + at, () =>
          this.stay({ group, number: numbers[i]!, ...kinds[kindOf[i]!]!, stays: [] }, startAt + at + 60_000, 1),
        )
      })
    }
    for (const user of slice.users)
      for (const stay of user.stays) {
        // One that joins a run that loads does not know who was there before.
        if (startAt + stay.stopMs <= world.now) continue
        lastStop = Math.max(lastStop, stay.stopMs)
        world.at(startAt + stay.startMs, () => this.stay(user, startAt + stay.stopMs))
      }
    const everySecond = (second: number) => {
      recorder.roll(world.now)
      if ((world.now >= startAt + lastStop || this.over) && this.active === 0) return this.finish()
      world.at(startAt + (second + 1) * 1000, () => everySecond(second + 1))
    }
    const first = Math.max(1, Math.ceil((world.now - startAt) / 1000))
    world.at(startAt + first * 1000, () => everySecond(first))
  }

  /** @param passes after this many rounds the user goes; left out: when its stay ends */
  private stay(user: SlicedUser, until: number, passes = Number.POSITIVE_INFINITY): void {
    if (this.over) return
    const { world } = this.options
    const { document } = present(this.prepared, 'what was prepared')
    const recorder = present(this.recorder, 'a recorder, under load')
    const network = document.networks?.find(n => n.id === user.network)
    let connected = false
    let rounds = 0
    const { journeyId, letter } = document.plan.groups[user.group]!
    const steps = simulated(present(document.journeys.find(j => j.id === journeyId), 'the journey of a group'))
    const meanMs = steps.reduce((sum, s) => sum + meanThinkMs(s.think), 0) / steps.length
    recorder.roll(world.now)
    recorder.present[user.group]!++
    this.active++
    let asking = false
    let gone = false
    const walk = this.passes.walk({ group: letter, journeyId, network: user.network, user: user.number })
    const leave = () => {
      if (gone) return
      gone = true
      walk.end(world.now - this.startAt, true)
      recorder.roll(world.now)
      recorder.present[user.group]!--
      if (!asking) this.active--
    }
    world.at(until, leave)
    const act = (index: number) => {
      if (gone || this.over) return leave()
      if (index === 0 && rounds++ >= passes) return leave()
      const step = steps[index]!
      if (index === 0) {
        walk.begin(world.now - this.startAt)
        recorder.passBegan(user.firstSeries + step.measure, world.now)
      }
      // A round trip to ask, one more to connect at first; jitter on both.
      const addedMs = network ? Math.max(0, network.latencyMs + network.jitterMs * (world.random() * 3.46 - 1.73)) : 0
      const connectMs = connected ? -1 : addedMs + 0.6
      connected = true
      asking = true
      recorder.started(user.firstSeries + step.measure, world.now)
      const began = world.now
      const answer = world.request(step.name)
      const answeredAt = answer.at + addedMs + Math.max(0, connectMs)
      const endsAt = Math.min(answeredAt, began + step.timeoutMs)
      world.at(endsAt, () => {
        asking = false
        walk.add(this.record(user.firstSeries + step.measure, step, began, answeredAt, answer.right, connectMs))
        if (gone) {
          this.active--
          return
        }
        world.at(world.now + drawThinkMs(step.think, world.random), () => act((index + 1) % steps.length))
      })
    }
    world.at(world.now + world.random() * meanMs, () => act(0))
  }

  private record(
    series: number,
    step: SimulatedStep,
    began: number,
    answeredAt: number,
    right: boolean,
    connectMs: number,
  ): PassExchange {
    const { world } = this.options
    const took = world.now - began
    const isLate = answeredAt > world.now
    const [status, bytes] = isLate ? [0, 0] : right ? [200, 600] : [503, 40]
    const on = { ...NOT_ON_THE_LINE, status, bytes, connectMs }
    const failure = isLate ? ('timeout' as const) : right ? undefined : ('status' as const)
    const firstByteMs = took * 0.95
    if (!failure) this.recorder?.right(series, world.now, took, took, firstByteMs, on)
    else this.recorder?.failed(series, world.now, failure, 'sent', isLate ? step.timeoutMs : took, on)
    return {
      step: step.name,
      beganAtMs: began - this.startAt,
      endedAtMs: world.now - this.startAt,
      status,
      ...(failure ? { failure } : {}),
      lookupMs: -1,
      connectMs,
      tlsMs: -1,
      firstByteMs: isLate ? -1 : firstByteMs,
      bytes,
      bytesSent: 0,
    }
  }

  private finish(): void {
    this.recorder?.finish(this.options.world.now)
    this.passes.send()
    this.work = { ...this.work, state: 'finished' }
    this.say({ kind: 'finished', runId: this.work.runId, reason: 'the plan is over' })
  }
}

/** A request as simulated users send it: one after the other, bundles too. Spans are left to real generators. */
type SimulatedStep = RequestPart & { name: string, measure: number, think: ThinkTime }

function simulated(journey: Journey): SimulatedStep[] {
  if (journey.kind !== 'http') return []
  const measures = measuresOf(journey)
  return stepsOf(journey, 'round').flatMap(step =>
    requestsOf(step).map((part, i, all) => ({
      ...part,
      measure: measures.findIndex(m => m.name === part.name && m.kind === 'request'),
      think: i + 1 < all.length ? { kind: 'none' as const } : step.think,
    })),
  )
}

function firstStatus(part: RequestPart): number {
  const status = part.expect?.find(e => e.kind === 'status')
  return status ? Math.min(...readStatuses(status.allow)) : 200
}

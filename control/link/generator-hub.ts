/**
 * Everything said with generators: enrolment with a one-time token, proof of the key when one comes back, heartbeats
 * and clocks. Knows sockets only as something to send on, so tests can be generators themselves.
 */
import { createHash, randomBytes, verify } from 'node:crypto'
import { ClockEstimate, offsetOf } from '../../core/clock/offset'
import {
  MessageError,
  readFromGenerator,
  type FromGenerator,
  type HostFacts,
  type ToGenerator,
  type WorkState,
} from '../../protocol/messages'
import { PROTOCOL_VERSION } from '../../protocol/version'
import type { Clock } from '../clock'
import type { Enrolment, MachineStore } from '../store/machines'
import { messageOf } from '../../core/values/thrown'

/** A socket as the hub needs it. */
export interface Wire {
  send(data: string): void
  close(): void
  /** Ends it at once, for nobody answers at its other end; left out: as `close`. */
  drop?(): void
}

/** A generator that is connected now. */
export interface Connection {
  readonly machineId: string
  readonly clock: ClockEstimate
  heardAt: number
  work: { state: WorkState, runId: string }
  /**
   * The last answer to a heartbeat that was heard, as its generator dated it: told back to it, for from then on it
   * counts its grace.
   */
  echo: number
  say(message: ToGenerator): void
  close(): void
}

/** Nobody listens yet. */
export const NOBODY: HubListener = {
  onEnrolled() {},
  onConnected() {},
  onDisconnected() {},
  onMessage() {},
  onFrame() {},
  onTokenReused() {},
}

export interface HubListener {
  onEnrolled(machineId: string, facts: HostFacts): void
  /** Came back, or came for the first time. */
  onConnected(connection: Connection): void
  onDisconnected(machineId: string): void
  onMessage(connection: Connection, message: FromGenerator): void
  onFrame(machineId: string, bytes: Uint8Array): void
  /** A token no machine was ordered with: an invitation somebody took there, perhaps. */
  onUnknownToken?(hash: string): Enrolment | undefined
  /** A token was presented a second time. */
  onTokenReused(machineId: string): void
  /** It said something that cannot be read; the link is closed, and it may come back. */
  onUnreadable?(machineId: string, sentence: string): void
}

/** Pause between heartbeats while a clock's filter fills, and afterwards, ms. */
const BEAT_FIRST_MS = 100
const BEAT_MS = 1000
const SAMPLES_AT_FIRST = 8
/** This many beats may be unanswered before the oldest is given up. */
const BEATS_KEPT = 200
/** A generator may load this long without hearing anything, ms. */
export const GRACE_MS = 60_000
/** Beyond its grace a generator may still have what it had begun in hand, and its clock may run a little slower, ms. */
const GRACE_MARGIN_MS = 2000
/** A link on which nothing was heard for so long is given up: a new one is better than one that may be dead, ms. */
const UNHEARD_MS = 10_000
/**
 * Messages that cannot be read close a link so often within this time, ms; after that they are set aside: closing would
 * not help.
 */
const MOST_UNREADABLE = 5
const UNREADABLE_WITHIN_MS = 60_000
/** A generator that does not introduce itself is let go, ms. */
const INTRODUCTION_MS = 10_000

export class GeneratorHub {
  readonly connections = new Map<string, Connection>()
  /**
   * When anything was last heard of each machine, and when it last proved that it had heard us; on the controller's
   * clock, ms. They outlive the links.
   */
  private readonly words = new Map<string, { heardAt: number, provedAt: number }>()
  private readonly unreadable = new Map<string, number[]>()
  /** Beats of each link that were not answered yet. */
  private readonly asked = new WeakMap<Connection, number[]>()
  /** A generator that an earlier process heard may have heard that process until now. */
  private readonly beganAt: number

  /** @param graceMs how long a generator may load without being heard, as it is told */
  constructor(
    private readonly machines: MachineStore,
    private readonly clock: Clock,
    readonly epoch: number,
    /** Those who are told; before the first generator comes. */
    public listener: HubListener = NOBODY,
    private readonly graceMs = GRACE_MS,
  ) {
    this.beganAt = clock.now()
  }

  /** When anything was last heard of a machine, ms; of one that this process has not heard, when the process began. */
  heardAt(machineId: string): number {
    return this.words.get(machineId)?.heardAt ?? this.beganAt
  }

  /**
   * From when on a machine that is not heard any more surely loads nobody, ms: it counts its grace from the last answer
   * of its own that it knows was heard, so neither words that arrive late nor a link that carries one way only can
   * lengthen it.
   */
  graceOverAt(machineId: string): number {
    return (this.words.get(machineId)?.provedAt ?? this.beganAt) + this.graceMs + GRACE_MARGIN_MS
  }

  /** Takes a new socket. Call the returned functions with what arrives on it. */
  /** @param from address it comes from; undefined: not over the network */
  accept(wire: Wire, from?: string): { message(data: string | Uint8Array): void, closed(): void } {
    const nonce = randomBytes(24).toString('base64url')
    const say = (message: ToGenerator) => wire.send(JSON.stringify(message))
    let connection: Connection | undefined
    const patience = this.clock.after(INTRODUCTION_MS, () => {
      if (!connection) wire.close()
    })
    const refuse = (code: string, sentence: string) => {
      patience.cancel()
      say({ kind: 'refused', code, sentence })
      wire.close()
    }
    say({ kind: 'hello', version: PROTOCOL_VERSION, epoch: this.epoch, nonce })

    const introduce = (message: FromGenerator): void => {
      if (message.kind !== 'enrol' && message.kind !== 'resume') return refuse('order', 'Enrol first.')
      if (message.version !== PROTOCOL_VERSION)
        return refuse(
          'version',
          `This generator speaks version ${message.version} of the protocol, the controller version ${PROTOCOL_VERSION}: start both from the same release.`,
        )
      const known = message.kind === 'enrol' ? this.enrol(message, nonce, refuse) : this.resume(message, nonce, refuse)
      if (!known) return
      patience.cancel()
      if (from !== undefined) this.machines.setAddress(known, from)
      connection = this.connect(
        known,
        wire,
        message.kind === 'resume' ? { state: message.state, runId: message.runId } : { state: 'idle', runId: '' },
      )
    }

    return {
      message: (data) => {
        if (typeof data !== 'string') return connection && this.takeFrame(connection, data)
        let message: FromGenerator
        try {
          message = readFromGenerator(data)
        }
        catch (error) {
          const sentence = error instanceof MessageError ? error.message : 'not understood'
          return connection ? this.takeUnreadable(connection, sentence) : refuse('message', sentence)
        }
        if (!connection) return introduce(message)
        this.heard(connection)
        if (message.kind === 'beatReply') return this.noteBeat(connection, message)
        this.noteWork(connection, message)
        const from = connection
        this.hand(from, () => this.listener.onMessage(from, message))
      },
      closed: () => {
        patience.cancel()
        if (connection) this.forget(connection)
      },
    }
  }

  stop(): void {
    const open = [...this.connections.values()]
    // Forgotten first, so that no heartbeat follows.
    this.connections.clear()
    for (const connection of open) connection.close()
  }

  private enrol(
    message: Extract<FromGenerator, { kind: 'enrol' }>,
    nonce: string,
    refuse: (code: string, sentence: string) => void,
  ): string | undefined {
    const hash = hashOf(message.token)
    const enrolment = this.machines.enrolment(hash) ?? this.listener.onUnknownToken?.(hash)
    if (!enrolment)
      return void refuse(
        'token',
        'This token is not known here. Give the machine the token its controller made for it, and the address of that controller.',
      )
    if (enrolment.usedAt !== undefined) {
      // Our answer may have been lost: the same generator, as its key proves, is taken up again.
      if (isSame(enrolment, message, nonce) && this.isThere(enrolment.machineId)) return enrolment.machineId
      this.listener.onTokenReused(enrolment.machineId)
      return void refuse(
        'token-used',
        'This token was used before. A token enrols one generator once; take a new machine.',
      )
    }
    if (enrolment.expiresAt < this.clock.now())
      return void refuse('token-expired', 'This token is no longer valid. Take a new machine.')
    if (!this.isThere(enrolment.machineId))
      return void refuse('machine-gone', 'The machine of this token has been released.')
    if (!this.machines.useEnrolment(hash, message.publicKey, this.clock.now()))
      return void refuse('token-used', 'This token was used before.')
    this.listener.onEnrolled(enrolment.machineId, message.facts)
    return enrolment.machineId
  }

  private resume(
    message: Extract<FromGenerator, { kind: 'resume' }>,
    nonce: string,
    refuse: (code: string, sentence: string) => void,
  ): string | undefined {
    const key = this.machines.enrolmentOf(message.generatorId)?.publicKey
    if (!key || !proves(key, nonce, message.signature))
      return void refuse('proof', 'This generator could not prove who it is.')
    if (!this.isThere(message.generatorId)) return void refuse('machine-gone', 'This machine has been released.')
    return message.generatorId
  }

  private isThere(machineId: string): boolean {
    const machine = this.machines.machine(machineId)
    return machine !== undefined && machine.goneAt === undefined
  }

  private heard(connection: Connection): void {
    const now = this.clock.now()
    connection.heardAt = now
    // Made when it connected.
    this.words.get(connection.machineId)!.heardAt = now
  }

  private takeFrame(connection: Connection, data: Uint8Array): void {
    this.heard(connection)
    this.hand(connection, () => this.listener.onFrame(connection.machineId, data))
  }

  /** Whatever a generator says, what it brings about goes no further than its own link. */
  private hand(connection: Connection, take: () => void): void {
    try {
      take()
    }
    catch (error) {
      this.takeUnreadable(connection, messageOf(error))
    }
  }

  /** The link is closed, not the generator refused: what was damaged on its way comes again over a new one. */
  private takeUnreadable(connection: Connection, sentence: string): void {
    const { machineId } = connection
    const now = this.clock.now()
    const before = (this.unreadable.get(machineId) ?? []).filter(at => at > now - UNREADABLE_WITHIN_MS)
    this.unreadable.set(machineId, [...before, now].slice(-MOST_UNREADABLE - 1))
    if (before.length > MOST_UNREADABLE) return
    this.listener.onUnreadable?.(machineId, sentence)
    if (before.length === MOST_UNREADABLE) return
    connection.close()
    this.forget(connection)
  }

  /** It is not the machine's link any more. */
  private forget(connection: Connection): void {
    if (this.connections.get(connection.machineId) !== connection) return
    this.connections.delete(connection.machineId)
    this.listener.onDisconnected(connection.machineId)
  }

  private connect(machineId: string, wire: Wire, work: Connection['work']): Connection {
    // Of two sockets for one generator the newer is alive.
    this.connections.get(machineId)?.close()
    const connection: Connection = {
      machineId,
      work,
      clock: new ClockEstimate(),
      heardAt: this.clock.now(),
      echo: 0,
      say: message => wire.send(JSON.stringify(message)),
      close: () => wire.close(),
    }
    this.connections.set(machineId, connection)
    // Its introduction is an answer to our greeting.
    this.words.set(machineId, { heardAt: connection.heardAt, provedAt: connection.heardAt })
    connection.say({
      kind: 'enrolled',
      generatorId: machineId,
      epoch: this.epoch,
      leaseMs: this.leaseMs(machineId),
      graceMs: this.graceMs,
    })
    this.beat(connection, wire)
    this.listener.onConnected(connection)
    return connection
  }

  private leaseMs(machineId: string): number {
    return Math.max(0, (this.machines.machine(machineId)?.leaseEndsAt ?? 0) - this.clock.now())
  }

  private beat(connection: Connection, wire: Wire): void {
    if (this.connections.get(connection.machineId) !== connection) return
    const now = this.clock.now()
    if (now - connection.heardAt > UNHEARD_MS) {
      ;(wire.drop ?? wire.close).call(wire)
      return this.forget(connection)
    }
    this.asked.set(connection, [...(this.asked.get(connection) ?? []), now].slice(-BEATS_KEPT))
    connection.say({ kind: 'beat', t1: now, leaseMs: this.leaseMs(connection.machineId), echo: connection.echo })
    this.clock.after(connection.clock.samples < SAMPLES_AT_FIRST ? BEAT_FIRST_MS : BEAT_MS, () =>
      this.beat(connection, wire),
    )
  }

  /** Only an answer to a beat that was sent says anything. */
  private noteBeat(connection: Connection, { t1, t2, t3 }: Extract<FromGenerator, { kind: 'beatReply' }>): void {
    const t4 = this.clock.now()
    const asked = this.asked.get(connection)
    if (!asked?.includes(t1)) return
    this.asked.set(
      connection,
      asked.filter(at => at > t1),
    )
    // Made when it connected.
    this.words.get(connection.machineId)!.provedAt = t4
    connection.echo = Math.max(connection.echo, t3)
    connection.clock.add(offsetOf(t1, t2, t3, t4))
  }

  private noteWork(connection: Connection, message: FromGenerator): void {
    if (message.kind === 'prepared') connection.work = { state: 'prepared', runId: message.runId }
    if (message.kind === 'going') connection.work = { state: 'loading', runId: message.runId }
    if (message.kind === 'finished') connection.work = { state: 'finished', runId: message.runId }
  }
}

export function hashOf(token: string): string {
  return createHash('sha256').update(token).digest('hex')
}

/** Whether it is the same generator that has enrolled with this token before. */
function isSame(
  { publicKey }: { publicKey: string | undefined },
  message: Extract<FromGenerator, { kind: 'enrol' }>,
  nonce: string,
): boolean {
  const { signature } = message
  return publicKey === message.publicKey && signature !== undefined && proves(message.publicKey, nonce, signature)
}

/** Whether a signature over the nonce was made with the private half of this key. */
function proves(publicKey: string, nonce: string, signature: string): boolean {
  try {
    return verify(null, Buffer.from(nonce), publicKey, Buffer.from(signature, 'base64'))
  }
  catch {
    return false
  }
}

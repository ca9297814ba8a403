/**
 * The link to the controller: speaks over whatever transport it is given, enrols with a one-time token, proves itself
 * with its key when it comes back, and keeps trying until its lease ends.
 */
import { generateKeyPairSync, sign } from 'node:crypto'
import {
  readToGenerator,
  type FromGenerator,
  type HostFacts,
  type ToGenerator,
  type WorkState,
} from '../../protocol/messages'
import { PROTOCOL_VERSION } from '../../protocol/version'
import type { Transport, ControllerWire } from './transport'
import { messageOf } from '../../core/values/thrown'

/** First and longest pause before trying again, ms; doubled in between. */
const RETRY_FIRST_MS = 200
const RETRY_MOST_MS = 2000
/** Refusals that words damaged on their way can bring about: this many in a row are tried again. */
const PASSING_REFUSALS = ['message', 'order', 'proof']
const MOST_REFUSALS = 5
/** Bytes the socket may hold back before frames wait for the next round. */
const MOST_BUFFERED = 16 * 1024 * 1024
/**
 * The controller beats once a second: a link on which nothing is heard for so long is dead, though nobody has said so,
 * ms.
 */
const UNHEARD_MS = 10_000
/** How often that is looked at, ms. */
const WATCH_MS = 500

export interface LinkOptions {
  transport: Transport
  token: string
  facts: HostFacts
  /** What to say when a link is taken up again. */
  work: () => { state: WorkState, runId: string }
  onMessage: (message: Exclude<ToGenerator, { kind: 'hello' | 'refused' | 'enrolled' }>) => void
  /** Enrolled or taken up again; frames may be sent. */
  onUp: (terms: {
    leaseMs: number
    graceMs: number
    /** When it had introduced itself, monotonic, ms. */ since: number
  }) => void
  /** The controller will not have this generator, now or ever. */
  onRefused: (code: string, sentence: string) => void
}

export class Link {
  private wire: ControllerWire | undefined
  private up = false
  private generatorId: string | undefined
  private epoch = 0
  private retryMs = RETRY_FIRST_MS
  private stopped = false
  private refusals = 0
  /** Monotonic, ms. */
  private heardAt = 0
  private introducedAt = 0
  private watch: NodeJS.Timeout | undefined
  private readonly keys = generateKeyPairSync('ed25519')

  constructor(private readonly options: LinkOptions) {}

  connect(): void {
    if (this.stopped) return
    this.watch ??= setInterval(() => this.dropSilent(), WATCH_MS).unref()
    this.options.transport({
      onText: (wire, text) => {
        this.heardAt = performance.now()
        // Of two connections the newer is alive.
        if (this.wire !== wire) {
          this.wire = wire
          this.up = false
        }
        this.take(wire, text)
      },
      onClose: (wire) => {
        if (this.stopped || (this.wire !== undefined && this.wire !== wire)) return
        this.up = false
        this.wire = undefined
        setTimeout(() => this.connect(), this.retryMs)
        this.retryMs = Math.min(RETRY_MOST_MS, this.retryMs * 2)
      },
    })
  }

  /** Says something, if the link is up; what must not be lost is spooled elsewhere. */
  say(message: FromGenerator): void {
    if (this.up) this.wire?.send(JSON.stringify(message))
  }

  /** Sends a frame if the link is up and not choked. */
  sendFrame(bytes: Uint8Array): boolean {
    const { wire } = this
    if (!this.up || !wire || wire.buffered() > MOST_BUFFERED) return false
    wire.send(bytes)
    return true
  }

  stop(): void {
    this.stopped = true
    clearInterval(this.watch)
    this.wire?.close()
  }

  /** A new one is opened when its end is told. */
  private dropSilent(): void {
    if (this.wire && performance.now() - this.heardAt > UNHEARD_MS) this.wire.drop()
  }

  private take(wire: ControllerWire, json: string): void {
    let message: ToGenerator
    try {
      message = readToGenerator(json)
    }
    catch (error) {
      // Damaged on its way, or not a controller of ours: whatever is not acknowledged is sent again over a new link.
      this.say({ kind: 'trouble', sentence: `${messageOf(error)}; the link is opened anew` })
      return wire.close()
    }
    switch (message.kind) {
      case 'hello':
        return this.greet(wire, message)
      case 'refused': {
        if (PASSING_REFUSALS.includes(message.code) && ++this.refusals <= MOST_REFUSALS) return wire.close()
        this.stop()
        return this.options.onRefused(message.code, message.sentence)
      }
      case 'enrolled': {
        this.generatorId = message.generatorId
        this.epoch = message.epoch
        this.up = true
        this.refusals = 0
        this.retryMs = RETRY_FIRST_MS
        return this.options.onUp({ ...message, since: this.introducedAt })
      }
      default:
        return this.options.onMessage(message)
    }
  }

  private greet(wire: ControllerWire, { version, epoch, nonce }: Extract<ToGenerator, { kind: 'hello' }>): void {
    if (version !== PROTOCOL_VERSION) {
      this.stop()
      return this.options.onRefused(
        'version',
        `The controller speaks version ${version} of the protocol, this generator version ${PROTOCOL_VERSION}: start both from the same release.`,
      )
    }
    this.introducedAt = performance.now()
    // A controller of an earlier epoch has been replaced and must not be obeyed.
    if (epoch < this.epoch) return wire.close()
    if (this.generatorId === undefined) {
      const publicKey = this.keys.publicKey.export({ type: 'spki', format: 'pem' }).toString()
      wire.send(
        JSON.stringify({
          kind: 'enrol',
          version: PROTOCOL_VERSION,
          token: this.options.token,
          publicKey,
          signature: this.signed(nonce),
          facts: this.options.facts,
        } satisfies FromGenerator),
      )
    }
    else {
      wire.send(
        JSON.stringify({
          kind: 'resume',
          version: PROTOCOL_VERSION,
          generatorId: this.generatorId,
          signature: this.signed(nonce),
          ...this.options.work(),
        } satisfies FromGenerator),
      )
    }
  }

  private signed(nonce: string): string {
    return sign(null, Buffer.from(nonce), this.keys.privateKey).toString('base64')
  }
}

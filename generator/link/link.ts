/**
 * The link to the controller: speaks over whatever transport it is given, enrols with a one-time token, proves itself with its key when it comes back, and keeps
 * trying until its lease ends.
 */
import { generateKeyPairSync, sign } from 'node:crypto'
import { readToGenerator, type FromGenerator, type HostFacts, type ToGenerator, type WorkState } from '../../protocol/messages'
import { PROTOCOL_VERSION } from '../../protocol/version'
import type { Transport, Wire } from './transport'

/** First and longest pause before trying again, ms; doubled in between. */
const RETRY_FIRST_MS = 200
const RETRY_MOST_MS = 2000
/** Bytes the socket may hold back before frames wait for the next round. */
const MOST_BUFFERED = 16 * 1024 * 1024

export interface LinkOptions {
  transport: Transport
  token: string
  facts: HostFacts
  /** What to say when a link is taken up again. */
  work: () => { state: WorkState, runId: string }
  onMessage: (message: Exclude<ToGenerator, { kind: 'hello' | 'refused' | 'enrolled' }>) => void
  /** Enrolled or taken up again; frames may be sent. */
  onUp: (terms: { leaseMs: number, graceMs: number }) => void
  /** The controller will not have this generator, now or ever. */
  onRefused: (code: string, sentence: string) => void
}

export class Link {
  private wire: Wire | undefined
  private up = false
  private generatorId: string | undefined
  private epoch = 0
  private retryMs = RETRY_FIRST_MS
  private stopped = false
  private readonly keys = generateKeyPairSync('ed25519')

  constructor(private readonly options: LinkOptions) {}

  connect(): void {
    if (this.stopped) return
    this.options.transport({
      onText: (wire, text) => {
        // Of two connections the newer is alive.
        if (this.wire !== wire) {
          this.wire = wire
          this.up = false
        }
        this.take(wire, text)
      },
      onClose: (wire) => {
        if (this.stopped || (this.up && this.wire !== wire)) return
        this.up = false
        setTimeout(() => this.connect(), this.retryMs)
        this.retryMs = Math.min(RETRY_MOST_MS, this.retryMs * 2)
      },
    })
  }

  /** Says something, if the link is up; what must not be lost is spooled elsewhere. */
  say(message: FromGenerator): void {
    if (this.up) this.wire!.send(JSON.stringify(message))
  }

  /** Sends a frame if the link is up and not choked. */
  sendFrame(bytes: Uint8Array): boolean {
    if (!this.up || this.wire!.buffered() > MOST_BUFFERED) return false
    this.wire!.send(bytes)
    return true
  }

  stop(): void {
    this.stopped = true
    this.wire?.close()
  }

  private take(wire: Wire, json: string): void {
    let message: ToGenerator
    try { message = readToGenerator(json) }
    catch (error) {
      this.say({ kind: 'trouble', sentence: (error as Error).message })
      return
    }
    switch (message.kind) {
      case 'hello': return this.greet(wire, message)
      case 'refused': {
        this.stop()
        return this.options.onRefused(message.code, message.sentence)
      }
      case 'enrolled': {
        this.generatorId = message.generatorId
        this.epoch = message.epoch
        this.up = true
        this.retryMs = RETRY_FIRST_MS
        return this.options.onUp(message)
      }
      default: return this.options.onMessage(message)
    }
  }

  private greet(wire: Wire, { version, epoch, nonce }: Extract<ToGenerator, { kind: 'hello' }>): void {
    if (version !== PROTOCOL_VERSION) {
      this.stop()
      return this.options.onRefused('version', `The controller speaks version ${version} of the protocol, this generator version ${PROTOCOL_VERSION}: start both from the same release.`)
    }
    // A controller of an earlier epoch has been replaced and must not be obeyed.
    if (epoch < this.epoch) return wire.close()
    if (this.generatorId === undefined) {
      const publicKey = this.keys.publicKey.export({ type: 'spki', format: 'pem' }).toString()
      wire.send(JSON.stringify({ kind: 'enrol', version: PROTOCOL_VERSION, token: this.options.token, publicKey, facts: this.options.facts } satisfies FromGenerator))
    }
    else {
      const signature = sign(null, Buffer.from(nonce), this.keys.privateKey).toString('base64')
      wire.send(JSON.stringify({ kind: 'resume', version: PROTOCOL_VERSION, generatorId: this.generatorId, signature, ...this.options.work() } satisfies FromGenerator))
    }
  }
}

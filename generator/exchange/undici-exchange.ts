/**
 * One user's exchanges over undici's `dispatch`, its fast path: a connection of the user's own, no promise, no stream, no header
 * object. Outcome and dispatch handler are reused by every exchange, so a request allocates next to nothing.
 */
import { Client, type Dispatcher, type buildConnector } from 'undici'
import { classify } from './classify'
import type { Exchange, Outcome, PreparedRequest } from './exchange'

const DECODER = new TextDecoder()
/** Idle connections are kept this long unless the target says less, ms: longer than any usual think time. */
const KEEP_ALIVE_MS = 600_000
/** Answers longer than this are not kept as text, bytes. */
const MOST_BODY_BYTES = 8 * 1024 * 1024

export class UndiciExchange implements Exchange, Outcome {
  status = 0
  body = ''
  bytes = 0
  beganAt = 0
  firstByteAt = 0
  endedAt = 0
  connectMs = -1
  failure: Outcome['failure'] = undefined
  reach: Outcome['reach'] = 'sent'
  problem = ''

  private client: Client | undefined
  private handler: ConnectionHandler | undefined
  private origin = ''
  private request: PreparedRequest | undefined
  private chunks: Uint8Array[] | undefined
  private abort: ((error?: Error) => void) | undefined
  /** One timer per exchange, the same object for as long as the time-out stays the same: `refresh` is all the hot path pays. */
  private timer: NodeJS.Timeout | undefined
  private timerMs = 0
  private busy = false

  /**
   * @param connector makes this user's connections
   * @param ended called at the end of every exchange, with this object as its outcome
   */
  constructor(private readonly connector: buildConnector.connector, private readonly ended: (outcome: Outcome) => void) {}

  send(request: PreparedRequest): void {
    this.status = 0
    this.bytes = 0
    this.firstByteAt = 0
    this.connectMs = -1
    this.failure = undefined
    this.reach = 'sent'
    this.abort = undefined
    this.request = request
    this.busy = true
    if (request.wantsBody) {
      this.chunks = []
      this.body = ''
    }
    if (!this.client || this.origin !== request.origin) this.openClient(request.origin)
    this.beganAt = performance.now()
    if (this.timerMs === request.timeoutMs) this.timer!.refresh()
    else this.armTimer(request.timeoutMs)
    this.client!.dispatch(request as unknown as Dispatcher.DispatchOptions, this.handler!)
  }

  cut(): void {
    this.busy = false
    this.dropClient()
  }

  close(): void {
    this.dropClient()
  }

  // Called by the handler of the present connection.

  sentOn(abort: (error?: Error) => void): void {
    this.abort = abort
  }

  head(status: number): void {
    this.firstByteAt = performance.now()
    this.status = status
  }

  part(chunk: Buffer): void {
    this.bytes += chunk.length
    if (this.chunks && this.bytes <= MOST_BODY_BYTES) this.chunks.push(chunk)
  }

  complete(): void {
    if (!this.busy) return
    this.busy = false
    // It holds on to the whole request.
    this.abort = undefined
    this.endedAt = performance.now()
    if (this.chunks) {
      this.body = DECODER.decode(this.chunks.length === 1 ? this.chunks[0] : Buffer.concat(this.chunks))
      this.chunks = undefined
    }
    this.ended(this)
  }

  broke(error: Error): void {
    if (!this.busy) return
    const { failure, reach } = classify(error, this.abort !== undefined)
    this.fail(failure, this.status > 0 ? 'sent' : reach, error.message)
  }

  private fail(failure: NonNullable<Outcome['failure']>, reach: Outcome['reach'], problem: string): void {
    this.busy = false
    this.endedAt = performance.now()
    this.failure = failure
    this.reach = reach
    this.problem = problem
    this.chunks = undefined
    this.ended(this)
  }

  private timedOut(): void {
    if (!this.busy) return
    const request = this.request!
    const reach = this.status > 0 ? 'sent' : this.abort ? 'unclear' : 'neverSent'
    // What is on the wire is broken off with its connection, as a user who gives up would do.
    this.busy = false
    this.dropClient()
    this.busy = true
    this.fail('timeout', reach, `no whole answer within ${request.timeoutMs} ms`)
    this.endedAt = Math.max(this.endedAt, this.beganAt + request.timeoutMs)
  }

  private armTimer(ms: number): void {
    clearTimeout(this.timer)
    this.timerMs = ms
    this.timer = setTimeout(() => this.timedOut(), ms)
    this.timer.unref()
  }

  private openClient(origin: string): void {
    this.dropClient()
    this.origin = origin
    this.handler = new ConnectionHandler(this)
    this.client = new Client(origin, {
      connect: (options, callback) => {
        const began = performance.now()
        this.connector(options, (error, socket) => {
          this.connectMs = performance.now() - began
          if (error) callback(error, null)
          else callback(null, socket!)
        })
      },
      pipelining: 1,
      headersTimeout: 0,
      bodyTimeout: 0,
      keepAliveTimeout: KEEP_ALIVE_MS,
      keepAliveMaxTimeout: KEEP_ALIVE_MS,
    })
  }

  private dropClient(): void {
    clearTimeout(this.timer)
    this.timer = undefined
    this.timerMs = 0
    const client = this.client
    if (this.handler) this.handler.owner = undefined
    this.handler = undefined
    this.client = undefined
    this.origin = ''
    if (client) client.destroy().catch(() => { /* already gone */ })
  }
}

/**
 * What undici calls for one connection. A connection that has been given up still reports its end later, when the next exchange may be under
 * way on another: from then on nobody is told.
 */
class ConnectionHandler implements Dispatcher.DispatchHandler {
  constructor(public owner: UndiciExchange | undefined) {}

  onConnect(abort: (error?: Error) => void): void {
    this.owner?.sentOn(abort)
  }

  onHeaders(status: number): boolean {
    this.owner?.head(status)
    return true
  }

  onData(chunk: Buffer): boolean {
    this.owner?.part(chunk)
    return true
  }

  onComplete(): void {
    this.owner?.complete()
  }

  onError(error: Error): void {
    this.owner?.broke(error)
  }
}

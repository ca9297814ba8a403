/**
 * One user's exchanges over undici's `dispatch`, its fast path: connections of the user's own, no promise, no stream,
 * no header object. Outcome and dispatch handler are reused by every exchange, so a request allocates next to nothing.
 */
import { Client, type Dispatcher } from 'undici'
import type { Connector, Visitor } from './approved-connector'
import { classify } from './classify'
import { MOST_ANSWER_BYTES, type Exchange, type Handshake, type Outcome, type PreparedRequest } from './exchange'

/** Idle connections are kept this long unless the target says less, ms: longer than any usual think time. */
const KEEP_ALIVE_MS = 600_000
/**
 * A time-out that fires this late was held up by this program itself, ms; then what has come is read for so long at
 * most, ms.
 */
const STANDSTILL_MS = 50
const MOST_READING_MS = 1000
const NO_HEADERS: Buffer[] = []

export class UndiciExchange implements Exchange, Outcome {
  status = 0
  rawHeaders: Buffer[] = NO_HEADERS
  chunks: Buffer[] = []
  bytes = 0
  beganAt = 0
  firstByteAt = 0
  endedAt = 0
  connectMs = -1
  handshake: Handshake | undefined = undefined
  failure: Outcome['failure'] = undefined
  reach: Outcome['reach'] = 'sent'
  readLate = false
  problem = ''

  /** The connection in use, and those to other origins. */
  private line: Line | undefined
  private readonly others = new Map<string, Line>()
  private request: PreparedRequest | undefined
  private abort: ((error?: Error) => void) | undefined
  /**
   * One timer per exchange, the same object for as long as the time-out stays the same: `refresh` is all the hot path
   * pays.
   */
  private timer: NodeJS.Timeout | undefined
  private timerMs = 0
  private busy = false

  /**
   * @param connector makes this user's connections
   * @param visitor who connects
   * @param ended called at the end of every exchange, with this object as its outcome
   */
  constructor(
    private readonly connector: Connector,
    private readonly visitor: Visitor,
    private readonly http2: boolean,
    private readonly ended: (outcome: Outcome) => void,
  ) {}

  send(request: PreparedRequest): void {
    this.status = 0
    this.bytes = 0
    this.firstByteAt = 0
    this.connectMs = -1
    this.handshake = undefined
    this.failure = undefined
    this.reach = 'sent'
    this.readLate = false
    this.abort = undefined
    this.request = request
    this.busy = true
    if (request.saysHost !== undefined && !this.mayName(request)) return
    if (this.chunks.length > 0) this.chunks = []
    const line = this.line?.origin === request.origin ? this.line : this.takeLine(request.origin)
    this.beganAt = performance.now()
    if (this.timerMs === request.timeoutMs) this.timer?.refresh()
    else this.armTimer(request.timeoutMs)
    // A prepared request has all that it wants, and more that it lets pass.
    line.client.dispatch(request as unknown as Dispatcher.DispatchOptions, line.handler)
  }

  /** It goes to an approved host and must say so, too. @returns whether it does; told otherwise */
  private mayName({ saysHost, origin }: PreparedRequest): boolean {
    if (this.connector.approvesName(saysHost ?? '', origin.startsWith('https:'))) return true
    this.beganAt = performance.now()
    // As every outcome: not before `send` has returned.
    queueMicrotask(() => {
      if (this.busy) this.fail('notApproved', 'neverSent', `the header says host: ${saysHost}, which is not approved`)
    })
    return false
  }

  cut(): void {
    this.busy = false
    this.close()
  }

  close(): void {
    this.dropLine()
    for (const line of this.others.values()) drop(line)
    this.others.clear()
  }

  // Called by the handler of the present connection.

  sentOn(abort: (error?: Error) => void): void {
    this.abort = abort
  }

  head(status: number, rawHeaders: Buffer[]): void {
    // 1xx announce, they do not answer.
    if (status < 200) return
    this.firstByteAt = performance.now()
    this.status = status
    this.rawHeaders = rawHeaders
  }

  part(chunk: Buffer): void {
    // An answer comes to a request.
    const { keepBytes, needsWhole } = this.request!
    this.bytes += chunk.length
    if (this.bytes - chunk.length < keepBytes) this.chunks.push(chunk)
    if (this.bytes > MOST_ANSWER_BYTES || (needsWhole && this.bytes > keepBytes)) {
      if (!this.busy) return
      this.dropLine()
      this.fail(
        'tooLarge',
        'sent',
        `the answer is longer than ${Math.round(Math.min(MOST_ANSWER_BYTES, needsWhole ? keepBytes : MOST_ANSWER_BYTES) / 1024 / 1024)} MB`,
      )
    }
  }

  complete(): void {
    if (!this.busy) return
    this.busy = false
    // It holds on to the whole request.
    this.abort = undefined
    this.endedAt = performance.now()
    this.ended(this)
    this.release()
  }

  broke(error: Error): void {
    if (!this.busy) return
    const { failure, reach } = classify(error, this.abort !== undefined)
    const endedAt = performance.now()
    // The client is still telling of it, and must have nothing new until it has done: the next exchange may follow at
    // once.
    queueMicrotask(() => {
      if (!this.busy) return
      this.fail(failure, this.status > 0 ? 'sent' : reach, error.message, endedAt)
    })
  }

  private fail(
    failure: NonNullable<Outcome['failure']>,
    reach: Outcome['reach'],
    problem: string,
    endedAt = performance.now(),
  ): void {
    this.busy = false
    this.endedAt = endedAt
    this.failure = failure
    this.reach = reach
    this.problem = problem
    if (this.status === 0) this.rawHeaders = NO_HEADERS
    this.ended(this)
    this.release()
  }

  /**
   * Headers and chunks are views on what the socket read, 64 kB at a time: held through a pause they would keep all of
   * it. Nothing of a next exchange can have come yet.
   */
  private release(): void {
    this.rawHeaders = NO_HEADERS
    if (this.chunks.length > 0) this.chunks = []
  }

  /**
   * Timers are called before sockets are read: after a standstill of this program an answer may lie there that came in
   * good time.
   */
  private timedOut(): void {
    if (!this.busy) return
    // The timer runs for a request.
    const lateMs = performance.now() - this.beganAt - this.request!.timeoutMs
    if (lateMs < STANDSTILL_MS) return this.giveUp()
    const { beganAt } = this
    this.readLate = true
    setTimeout(
      () => {
        if (this.busy && this.beganAt === beganAt) this.giveUp()
      },
      Math.min(lateMs, MOST_READING_MS),
    )
  }

  private giveUp(): void {
    // As above.
    const request = this.request!
    this.readLate = false
    const reach = this.status > 0 ? 'sent' : this.abort ? 'unclear' : 'neverSent'
    // What is on the wire is broken off with its connection, as a user who gives up would do.
    this.busy = false
    this.dropLine()
    this.fail('timeout', reach, `no whole answer within ${Math.round(request.timeoutMs)} ms`)
    this.endedAt = Math.max(this.endedAt, this.beganAt + request.timeoutMs)
  }

  private armTimer(ms: number): void {
    clearTimeout(this.timer)
    this.timerMs = ms
    this.timer = setTimeout(() => this.timedOut(), ms)
    this.timer.unref()
  }

  /** Makes the connection to an origin the present one; the one before waits for its next turn. */
  private takeLine(origin: string): Line {
    if (this.line) this.others.set(this.line.origin, this.line)
    const waiting = this.others.get(origin)
    this.others.delete(origin)
    this.line = waiting ?? this.openLine(origin)
    return this.line
  }

  private openLine(origin: string): Line {
    const handler = new LineHandler(this)
    const client = new Client(origin, {
      connect: (options, callback) => {
        const began = performance.now()
        this.connector(options, this.visitor, (error, socket, handshake) => {
          this.connectMs = performance.now() - began
          this.handshake = handshake
          if (socket) callback(null, socket)
          else callback(error ?? new Error('There is no connection.'), null)
        })
      },
      pipelining: 1,
      headersTimeout: 0,
      bodyTimeout: 0,
      keepAliveTimeout: KEEP_ALIVE_MS,
      keepAliveMaxTimeout: KEEP_ALIVE_MS,
      allowH2: this.http2,
    })
    return { origin, client, handler }
  }

  private dropLine(): void {
    clearTimeout(this.timer)
    this.timer = undefined
    this.timerMs = 0
    if (this.line) drop(this.line)
    this.line = undefined
  }
}

/** A connection to one origin. */
interface Line {
  origin: string
  client: Client
  handler: LineHandler
}

function drop(line: Line): void {
  line.handler.owner = undefined
  line.client.destroy().catch(() => {
    /* already gone */
  })
}

/**
 * What undici calls for one connection. A connection that has been given up still reports its end later, when the next
 * exchange may be under way on another: from then on nobody is told.
 */
class LineHandler implements Dispatcher.DispatchHandler {
  constructor(public owner: UndiciExchange | undefined) {}

  onConnect(abort: (error?: Error) => void): void {
    this.owner?.sentOn(abort)
  }

  onHeaders(status: number, rawHeaders: Buffer[]): boolean {
    this.owner?.head(status, rawHeaders)
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

/**
 * A socket as a user on a worse network would have it: stands between the client (or TLS) and the real connection, and
 * lets bytes through when the simulated network would. Both directions; the real connection is read no faster than the
 * user could take it.
 */
import type { Socket } from 'node:net'
import { Duplex } from 'node:stream'
import type { Pipe } from '../../core/network/pipe'
import type { UserNetwork } from './user-network'

/** Bytes that may wait for their turn to be sent before the real connection is no longer read, or the writer waits. */
const MOST_WAITING_BYTES = 64 * 1024
/** What is due within this is due now: timers keep whole ms, so half of them comes early and half late. */
const EARLY_MS = 0.5

/**
 * Lateness of this side's timers that is made good at the next turn, at most, ms: a busy generator must not look like a
 * quick network.
 */
const MOST_CREDIT_MS = 2

/** Bytes in order: what waits to be sent, and what is under way behind it. */
class Direction {
  /** Chunks with bytes not yet delivered. */
  private readonly chunks: Buffer[] = []
  /** Bytes of the first chunk that were delivered already. */
  private offset = 0
  /** Bytes not yet given to the pipe, and since when each stretch waits. */
  private readonly waiting: { at: number, bytes: number }[] = []
  /** Bytes not delivered yet. */
  held = 0
  /** Of these, bytes the window has not asked for yet. */
  waitingBytes = 0
  /** No more will come. */
  ended = false

  constructor(private readonly pipe: Pipe) {}

  add(chunk: Buffer, now: number): void {
    this.chunks.push(chunk)
    this.held += chunk.length
    if (this.waiting.length === 0 && this.pipe.bytesUnderway < this.pipe.appetite && chunk.length <= this.pipe.appetite)
      this.pipe.send(now, chunk.length)
    else {
      this.waiting.push({ at: now, bytes: chunk.length })
      this.waitingBytes += chunk.length
    }
    this.feed()
  }

  /**
   * Only as much goes under way as the window asks for: what one connection has booked, the user's others must wait
   * behind.
   */
  private feed(): void {
    const { pipe, waiting } = this
    while (waiting.length > 0 && pipe.bytesUnderway < pipe.appetite) {
      const first = waiting[0]!
      const bytes = Math.min(first.bytes, Math.ceil((pipe.appetite - pipe.bytesUnderway) / 1460) * 1460)
      pipe.send(first.at, bytes)
      first.bytes -= bytes
      this.waitingBytes -= bytes
      if (first.bytes === 0) waiting.shift()
    }
  }

  get nextAt(): number {
    return this.pipe.nextAt
  }

  /** Hands on everything that has arrived. */
  deliver(now: number, to: (chunk: Buffer) => void): void {
    for (;;) {
      let bytes = this.pipe.take(now)
      if (bytes === 0) return
      this.held -= bytes
      while (bytes > 0) {
        const chunk = this.chunks[0]!
        const part = Math.min(bytes, chunk.length - this.offset)
        to(this.offset === 0 && part === chunk.length ? chunk : chunk.subarray(this.offset, this.offset + part))
        this.offset += part
        bytes -= part
        if (this.offset < chunk.length) continue
        this.chunks.shift()
        this.offset = 0
      }
      this.feed()
    }
  }
}

export class ShapedSocket extends Duplex {
  private readonly down: Direction
  private readonly up: Direction
  private timer: NodeJS.Timeout | undefined
  private timerAt = Number.POSITIVE_INFINITY
  /** What was delivered too late last: the next bytes, either way, count as there so much earlier. */
  private creditMs = 0
  private writerWaits: ((error?: Error | null) => void) | undefined
  private ending: ((error?: Error | null) => void) | undefined

  /**
   * @param real an open connection
   * @param realRttMs its measured round-trip time
   * @param lateMs how much too late it was handed over
   */
  constructor(
    private readonly real: Socket,
    network: UserNetwork,
    realRttMs: number,
    lateMs: number,
  ) {
    super({ allowHalfOpen: true, autoDestroy: true, emitClose: true })
    this.credit(lateMs)
    this.down = new Direction(network.pipe('down', realRttMs))
    this.up = new Direction(network.pipe('up', realRttMs))
    real.on('data', (chunk: Buffer) => {
      const now = performance.now()
      this.down.add(chunk, now - this.creditMs)
      this.creditMs = 0
      if (this.down.waitingBytes > MOST_WAITING_BYTES) real.pause()
      this.move(now)
    })
    real.on('end', () => {
      this.down.ended = true
      this.move(performance.now())
    })
    real.on('error', error => this.destroy(error))
    real.on('close', () => {
      if (!this.down.ended) this.destroy()
    })
  }

  get remoteAddress(): string | undefined {
    return this.real.remoteAddress
  }

  get remotePort(): number | undefined {
    return this.real.remotePort
  }

  get localAddress(): string | undefined {
    return this.real.localAddress
  }

  get localPort(): number | undefined {
    return this.real.localPort
  }

  ref(): this {
    this.real.ref()
    return this
  }

  unref(): this {
    this.real.unref()
    return this
  }

  setNoDelay(): this {
    return this
  }

  setKeepAlive(): this {
    return this
  }

  setTimeout(ms: number, callback?: () => void): this {
    this.real.setTimeout(ms, callback)
    return this
  }

  override _read(): void {
    // What has arrived is pushed as it arrives; how much may be under way is bounded where it comes in.
  }

  override _write(chunk: Buffer, _: BufferEncoding, done: (error?: Error | null) => void): void {
    const now = performance.now()
    this.up.add(chunk, now - this.creditMs)
    this.creditMs = 0
    if (this.up.waitingBytes > MOST_WAITING_BYTES) this.writerWaits = done
    else done()
    // The writer may be in the middle of reading: what has arrived waits for the timer.
    this.move(now, false)
  }

  override _final(done: (error?: Error | null) => void): void {
    this.ending = done
    this.move(performance.now(), false)
  }

  override _destroy(error: Error | null, done: (error?: Error | null) => void): void {
    clearTimeout(this.timer)
    this.timer = undefined
    this.real.destroy()
    done(error)
  }

  private credit(lateMs: number): void {
    this.creditMs = Math.min(MOST_CREDIT_MS, Math.max(0, lateMs))
  }

  private readonly onTimer = (): void => {
    this.timer = undefined
    this.timerAt = Number.POSITIVE_INFINITY
    this.move(performance.now())
  }

  /** Delivers what is due, and sets the timer for what is next. */
  private move(now: number, alsoDown = true): void {
    if (this.destroyed) return
    const { up, down, real } = this
    const due = now + EARLY_MS
    if (up.nextAt <= due) {
      this.credit(now - up.nextAt)
      real.cork()
      up.deliver(due, chunk => real.write(chunk))
      real.uncork()
      if (this.writerWaits && up.waitingBytes <= MOST_WAITING_BYTES / 2) {
        const done = this.writerWaits
        this.writerWaits = undefined
        done()
      }
    }
    if (alsoDown && down.nextAt <= due) {
      this.credit(now - down.nextAt)
      // At once, not piece by piece: HTTP/2 over TLS over a stream stalled when a second piece came while the first was
      // being read (half of all exchanges).
      const arrived: Buffer[] = []
      down.deliver(due, chunk => arrived.push(chunk))
      if (arrived.length > 0) this.push(arrived.length === 1 ? arrived[0] : Buffer.concat(arrived))
      if (real.isPaused() && down.waitingBytes <= MOST_WAITING_BYTES / 2) real.resume()
    }
    if (alsoDown && down.ended && down.held === 0 && !this.readableEnded) {
      down.ended = false
      this.push(null)
    }
    if (this.ending && up.held === 0) {
      real.end()
      const done = this.ending
      this.ending = undefined
      done()
    }
    // The one that took what arrived may have closed the connection.
    if (this.destroyed) return
    const next = Math.min(up.nextAt, down.nextAt)
    if (next >= this.timerAt && this.timer) return
    clearTimeout(this.timer)
    this.timer = undefined
    this.timerAt = next
    if (next < Number.POSITIVE_INFINITY)
      this.timer = setTimeout(this.onTimer, Math.max(1, Math.round(next - performance.now())))
  }
}

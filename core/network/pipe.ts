/**
 * One direction of one shaped connection, as the user would feel it: a simulated congestion window decides when each
 * segment leaves, the link how long it takes, latency and jitter when it arrives, loss whether it must be sent again.
 * Pure: it is told the time and never waits.
 *
 * Sources: window of 10 segments at first (RFC 6928), doubled each round trip, then one more a round trip; a loss
 * noticed by three later segments halves it and costs one round trip (RFC 5681, with each segment acknowledged by
 * itself as in RFC 2018); with fewer than three it takes the time-out SRTT + max(200 ms, 4·RTTVAR) (RFC 6298; the floor
 * of 200 ms is Linux's, from memory). After a pause longer than the time-out the window starts over (RFC 5681 §4.1).
 * There is no ceiling on throughput besides: that would count loss twice.
 */
import { SEGMENT_BYTES } from './profile'

export const INITIAL_WINDOW = 10
const LEAST_TIMEOUT_MS = 200
/** Time-outs double up to this factor. */
const MOST_BACKOFF = 64

/** The user's own line in one direction: all its connections share it. */
export class Lane {
  /** When the last bit booked so far has left, ms. */
  freeAt = Number.NEGATIVE_INFINITY
  private readonly msPerByte: number

  /** @param bps bits per second; undefined: no limit */
  constructor(bps: number | undefined) {
    this.msPerByte = bps === undefined ? 0 : 8000 / bps
  }

  /** Bytes that fit into a time; Infinity without a limit. */
  bytesIn(ms: number): number {
    return this.msPerByte === 0 ? Number.POSITIVE_INFINITY : ms / this.msPerByte
  }

  /** Books a segment. @returns when its last bit has left, ms */
  book(at: number, bytes: number): number {
    return (this.freeAt = Math.max(at, this.freeAt) + bytes * this.msPerByte)
  }
}

export interface PipeOptions {
  /** Added round-trip time and its deviation, ms. */
  latencyMs: number
  jitterMs: number
  /** Share of segments lost, 0–1. */
  loss: number
  /** Round-trip time of the real path, ms. */
  realRttMs: number
  lane: Lane
  /** Uniform in [0, 1). */
  random: () => number
}

/** A segment under way. */
interface TcpSegment {
  bytes: number
  arrivesAt: number
}

/** A lost segment nobody has noticed yet. */
interface Lost {
  segment: TcpSegment
  sentAt: number
  followers: number
  timeoutAt: number
}

export class Pipe {
  /** In the order sent: the head holds up all behind it. */
  private readonly underway: TcpSegment[] = []
  private head = 0
  private queued = 0
  /** When acknowledgements come back, in order. */
  private readonly acks: number[] = []
  private nextAck = 0
  private window = INITIAL_WINDOW
  private threshold = Number.POSITIVE_INFINITY
  private inFlight = 0
  private lastSentAt = Number.NEGATIVE_INFINITY
  private oneWayMs = 0
  private readonly rttMs: number
  private readonly timeoutMs: number
  private readonly mostSegments: number
  private lost: Lost[] = []
  /** Moments at which a loss is noticed, and whether by time-out. */
  private noticed: { at: number, timedOut: boolean }[] = []
  private recoversUntil = Number.NEGATIVE_INFINITY

  constructor(private readonly options: PipeOptions) {
    this.rttMs = options.latencyMs + options.realRttMs
    this.timeoutMs = this.rttMs + Math.max(LEAST_TIMEOUT_MS, 4 * options.jitterMs)
    this.mostSegments = 4 * INITIAL_WINDOW + Math.ceil((2 * options.lane.bytesIn(this.rttMs)) / SEGMENT_BYTES)
  }

  /** Bytes sent and not yet taken. */
  get bytesUnderway(): number {
    return this.queued
  }

  /** When the next bytes arrive, ms; Infinity when nothing is under way. */
  get nextAt(): number {
    return this.head < this.underway.length ? this.underway[this.head]!.arrivesAt : Number.POSITIVE_INFINITY
  }

  /**
   * Bytes that are worth having under way. Four windows: while a lost segment holds up all behind it nothing arrives,
   * and still the sender goes on for a round trip. No more than two of what the line itself holds: what is booked here
   * the user's other connections wait behind.
   */
  get appetite(): number {
    return Math.min(Math.ceil(this.window) * 4, this.mostSegments) * SEGMENT_BYTES
  }

  /**
   * Sends bytes that have been there since `availableAt`. They may leave later: when the window and the link allow.
   */
  send(availableAt: number, bytes: number): void {
    const { options } = this
    if (this.head === this.underway.length) this.beginBurst(availableAt)
    let at = Math.max(availableAt, this.lastSentAt)
    for (let left = bytes; left > 0; left -= SEGMENT_BYTES) {
      this.settleUntil(at)
      while (this.inFlight >= Math.floor(this.window)) {
        at = Math.max(at, this.nextEventAt())
        this.settleUntil(at)
      }
      const segment: TcpSegment = { bytes: Math.min(left, SEGMENT_BYTES), arrivesAt: 0 }
      const leftAt = options.lane.book(at, segment.bytes)
      segment.arrivesAt = leftAt + this.oneWayMs
      this.underway.push(segment)
      this.queued += segment.bytes
      this.inFlight++
      const isLost = options.loss > 0 && options.random() < options.loss
      if (this.lost.length > 0) this.followed(segment.arrivesAt)
      if (isLost) {
        const timeoutAt = leftAt + this.timeoutMs
        segment.arrivesAt = timeoutAt + this.oneWayMs
        this.lost.push({ segment, sentAt: leftAt, followers: 0, timeoutAt })
      }
      else this.acknowledge(segment.arrivesAt + this.backMs)
    }
    this.lastSentAt = at
  }

  /** Takes what has arrived. @returns bytes */
  take(now: number): number {
    let bytes = 0
    if (this.lost.length > 0) this.giveUpWaiting(now)
    while (this.head < this.underway.length && this.underway[this.head]!.arrivesAt <= now)
      bytes += this.underway[this.head++]!.bytes
    this.queued -= bytes
    if (this.head === this.underway.length) this.underway.length = this.head = 0
    else if (this.head > 1024) {
      this.underway.splice(0, this.head)
      this.head = 0
    }
    return bytes
  }

  private get backMs(): number {
    return this.rttMs - this.options.latencyMs / 2
  }

  /** Jitter is drawn once a burst: drawn for every segment, in order, the slowest of them would always win. */
  private beginBurst(at: number): void {
    const { latencyMs, jitterMs, random } = this.options
    // Half the variance each way.
    this.oneWayMs = Math.max(0, latencyMs / 2 + (jitterMs === 0 ? 0 : jitterMs * Math.SQRT1_2 * normal(random)))
    if (at - this.lastSentAt <= this.timeoutMs) return
    this.settleUntil(at)
    this.window = Math.min(this.window, INITIAL_WINDOW)
  }

  private acknowledge(at: number): void {
    const { acks } = this
    // Nearly always the last; only what was sent again comes out of order.
    let place = acks.length
    while (place > this.nextAck && acks[place - 1]! > at) place--
    if (place === acks.length) acks.push(at)
    else acks.splice(place, 0, at)
  }

  private nextEventAt(): number {
    const ack = this.nextAck < this.acks.length ? this.acks[this.nextAck]! : Number.POSITIVE_INFINITY
    const notice = this.noticed.length > 0 ? this.noticed[0]!.at : Number.POSITIVE_INFINITY
    const timeout = this.lost.length > 0 ? this.lost[0]!.timeoutAt : Number.POSITIVE_INFINITY
    return Math.min(ack, notice, timeout)
  }

  /** Lets everything happen that happens up to a moment. */
  private settleUntil(at: number): void {
    for (;;) {
      const next = this.nextEventAt()
      if (next > at) break
      const noticed = this.noticed[0]
      if (this.lost.length > 0 && this.lost[0]!.timeoutAt === next) this.giveUpWaiting(next)
      else if (noticed?.at === next) {
        this.noticed.shift()
        this.shrink(noticed)
      }
      else {
        this.nextAck++
        this.inFlight--
        if (next >= this.recoversUntil) this.window += this.window < this.threshold ? 1 : 1 / this.window
      }
    }
    if (this.nextAck === this.acks.length) this.acks.length = this.nextAck = 0
    else if (this.nextAck > 1024) {
      this.acks.splice(0, this.nextAck)
      this.nextAck = 0
    }
  }

  /** A later segment has left: the third one behind a loss makes it noticed. */
  private followed(arrivesAt: number): void {
    const { oneWayMs, backMs } = this
    const noticedAt = arrivesAt + backMs
    for (const lost of this.lost) lost.followers++
    for (let first = this.lost[0]; first && first.followers >= 3; first = this.lost[0]) {
      const { segment, timeoutAt } = first
      this.lost.shift()
      if (noticedAt >= timeoutAt) {
        this.notice(timeoutAt, true)
        this.sendAgain(segment, timeoutAt)
        continue
      }
      this.notice(noticedAt, false)
      segment.arrivesAt = noticedAt + oneWayMs
      this.sendAgain(segment, noticedAt)
    }
  }

  /** Losses whose time-out has come. */
  private giveUpWaiting(now: number): void {
    for (let first = this.lost[0]; first && first.timeoutAt <= now; first = this.lost[0]) {
      const { segment, timeoutAt } = first
      this.lost.shift()
      this.notice(timeoutAt, true)
      this.sendAgain(segment, timeoutAt)
    }
  }

  /** Sends a segment once more; that may be lost too, and then only the time-out notices. */
  private sendAgain(segment: TcpSegment, at: number): void {
    const { loss, random } = this.options
    let sentAt = at
    for (let backoff = 1; random() < loss; backoff = Math.min(backoff * 2, MOST_BACKOFF)) {
      sentAt += this.timeoutMs * backoff
      this.notice(sentAt, true)
    }
    segment.arrivesAt = sentAt + this.oneWayMs
    this.acknowledge(segment.arrivesAt + this.backMs)
  }

  private notice(at: number, timedOut: boolean): void {
    const place = this.noticed.findIndex(n => n.at > at)
    this.noticed.splice(place < 0 ? this.noticed.length : place, 0, { at, timedOut })
  }

  /** Losses of one window shrink it once. */
  private shrink({ at, timedOut }: { at: number, timedOut: boolean }): void {
    if (at < this.recoversUntil && !timedOut) return
    this.threshold = Math.max(2, this.window / 2)
    this.window = timedOut ? 1 : this.threshold
    this.recoversUntil = timedOut ? at : at + this.rttMs
  }
}

/** Standard normal (Box and Muller 1958). */
function normal(random: () => number): number {
  return Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random())
}

/** What is counted and timed of one series in one second, until it is written into a frame. */
import { SecondRecorder } from '../core/histogram/second-recorder'
import type { ByteWriter } from '../core/histogram/varint'
import { FAILURE_KINDS } from '../core/journey/failure-kinds'
import { NOT_STARTED } from '../core/load/drive'
import { TIMINGS, writeCounts, type SeriesCounts, type SeriesSum, type Timing } from '../core/merge/series-sum'

/** Counts and times of one series during a second. */
export class SeriesSecond implements SeriesCounts {
  started = 0
  right = 0
  neverSent = 0
  unclear = 0
  cut = 0
  redirects = 0
  bytes = 0
  bytesSent = 0
  passes = 0
  readonly notStarted = new Float64Array(NOT_STARTED.length)
  readonly answers = new Map<number, number>()
  readonly misses = new Map<number, number>()
  readonly failures = new Float64Array(FAILURE_KINDS.length)
  leastUs = Number.POSITIVE_INFINITY
  mostUs = 0
  touched = false
  readonly times: Readonly<Record<Timing, SecondRecorder>> = {
    right: new SecondRecorder(),
    failed: new SecondRecorder(),
    intended: new SecondRecorder(),
    connect: new SecondRecorder(),
    firstByte: new SecondRecorder(),
    lookup: new SecondRecorder(),
    tls: new SecondRecorder(),
    inside: new SecondRecorder(),
    onTheWay: new SecondRecorder(),
  }

  /** A time of something right, ms. */
  rightAfter(ms: number): void {
    const us = ms * 1000
    this.times.right.record(us)
    const whole = us < 1 ? 1 : Math.round(us)
    if (whole < this.leastUs) this.leastUs = whole
    if (whole > this.mostUs) this.mostUs = whole
  }

  answered(number: number): void {
    this.answers.set(number, (this.answers.get(number) ?? 0) + 1)
  }

  /** What an exchange took from the line and put on it. */
  onTheLine({ bytes, bytesSent, connectMs, lookupMs, tlsMs }: OnTheLine): void {
    this.bytes += bytes
    this.bytesSent += bytesSent
    if (connectMs < 0) return
    this.times.connect.record(connectMs * 1000)
    if (lookupMs >= 0) this.times.lookup.record(lookupMs * 1000)
    if (tlsMs >= 0) this.times.tls.record(tlsMs * 1000)
  }

  /** Adds exchanges that were added up elsewhere; passes and misses belong to the plan and journey they had. */
  addExchanges(sum: SeriesSum): void {
    this.started += sum.started
    this.right += sum.right
    this.neverSent += sum.neverSent
    this.unclear += sum.unclear
    this.cut += sum.cut
    this.redirects += sum.redirects
    this.bytes += sum.bytes
    this.bytesSent += sum.bytesSent
    this.leastUs = Math.min(this.leastUs, sum.leastUs)
    this.mostUs = Math.max(this.mostUs, sum.mostUs)
    sum.failures.forEach((n, kind) => {
      this.failures[kind]! += n
    })
    for (const [number, n] of sum.answers) this.answers.set(number, (this.answers.get(number) ?? 0) + n)
    for (const timing of TIMINGS) this.times[timing].add(sum.timings[timing])
  }

  clear(): void {
    this.started = this.right = this.neverSent = this.unclear = this.cut = 0
    this.redirects = this.bytes = this.bytesSent = this.passes = this.mostUs = 0
    this.leastUs = Number.POSITIVE_INFINITY
    this.notStarted.fill(0)
    this.failures.fill(0)
    this.answers.clear()
    this.misses.clear()
    this.touched = false
  }

  /** Writes it as an entry of a frame: its number, its counts, its times. @param part is written over */
  writeTo(frame: ByteWriter, number: number, part: ByteWriter): void {
    frame.varint(number)
    writeCounts(frame, this)
    frame.varint(TIMINGS.reduce((bits, timing, i) => (this.times[timing].length > 0 ? bits | (1 << i) : bits), 0))
    for (const timing of TIMINGS) {
      const times = this.times[timing]
      if (times.length === 0) continue
      part.length = 0
      times.cut(part)
      frame.varint(part.length)
      frame.raw(part.bytes.subarray(0, part.length))
    }
  }
}

/** How one exchange went on the line. */
export interface OnTheLine {
  /** Status of the answer, 0 when none came. */
  status: number
  /** Bytes of bodies, received and sent. */
  bytes: number
  bytesSent: number
  /** Time the connection took to be made, ms; −1 when one was open already. */
  connectMs: number
  /** Parts of it, ms; −1 where they did not happen. */
  lookupMs: number
  tlsMs: number
}

/** Nothing was sent. */
export const NOT_ON_THE_LINE: OnTheLine = {
  status: 0,
  bytes: 0,
  bytesSent: 0,
  connectMs: -1,
  lookupMs: -1,
  tlsMs: -1,
}

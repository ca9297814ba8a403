/**
 * What a worker measures, second by second of the run: counts and times per series, cut into one frame per second. A
 * sample belongs to the second in which it ended, a start to the second in which it began.
 */
import { ByteWriter } from '../core/histogram/varint'
import { NOT_STARTED, type NotStarted } from '../core/load/drive'
import { FAILURE_KINDS, OWN_FAULTS, type FailureKind, type SentState } from '../core/journey/failure-kinds'
import { NO_CLAIMS, type Claims } from '../core/merge/ledger'
import { answerNumber } from '../core/merge/series-sum'
import type { Health } from '../core/capacity/signals'
import { beginFrame, endFrame } from './frame'
import { SeriesSecond, type OnTheLine } from './series-second'

const KIND_INDEX = new Map(FAILURE_KINDS.map((kind, i) => [kind, i]))

export interface CutFrame {
  bytes: Uint8Array
  sequence: number
  second: number
}

export interface RecorderOptions {
  incarnation: number
  worker: number
  groups: number
  /** Monotonic moment of run second 0, ms. */
  startedAt: number
  health: () => Health
  onFrame: (frame: CutFrame) => void
}

export class Recorder {
  /** Users present per group, kept by the users themselves. */
  readonly present: number[]
  readonly claims: Claims = { ...NO_CLAIMS }
  private readonly series: SeriesSecond[] = []
  private touched: number[] = []
  private sequence = 0
  private second = 0
  /** Monotonic moment at which the current second ends. */
  private secondEndsAt: number
  private readonly frame = new ByteWriter(4096)
  private readonly part = new ByteWriter(1024)

  constructor(private readonly options: RecorderOptions) {
    this.present = new Array<number>(options.groups).fill(0)
    this.secondEndsAt = options.startedAt + 1000
  }

  /**
   * A generator that joins a run that loads has nothing to say of the seconds before. Call before anything is counted.
   */
  begin(now: number): void {
    const second = Math.max(0, Math.floor((now - this.options.startedAt) / 1000))
    this.second = second
    this.secondEndsAt = this.options.startedAt + (second + 1) * 1000
  }

  /** Cuts every second that ended before this moment. Cheap when none did. */
  roll(now: number): void {
    while (now >= this.secondEndsAt) this.cut(false)
  }

  started(series: number, now: number): void {
    if (now >= this.secondEndsAt) this.roll(now)
    this.touch(series).started++
    this.claims.started++
  }

  /**
   * @param responseMs from sending to the whole answer
   * @param intendedMs the same from the moment the request should have been sent
   * @param insideMs what the target says it took; −1 when it does not say
   */
  right(
    series: number,
    now: number,
    responseMs: number,
    intendedMs: number,
    firstByteMs: number,
    line: OnTheLine,
    insideMs = -1,
  ): void {
    if (now >= this.secondEndsAt) this.roll(now)
    const s = this.touch(series)
    s.right++
    s.rightAfter(responseMs)
    s.times.intended.record(intendedMs * 1000)
    s.times.firstByte.record(firstByteMs * 1000)
    if (insideMs >= 0) {
      s.times.inside.record(insideMs * 1000)
      s.times.onTheWay.record(Math.max(0, responseMs - insideMs) * 1000)
    }
    if (line.status > 0) s.answered(line.status)
    s.onTheLine(line)
    this.claims.right++
  }

  /** An answer missed one of what was expected of its step. @param number its place in the step's list */
  missed(series: number, now: number, number: number): void {
    if (now >= this.secondEndsAt) this.roll(now)
    const { misses } = this.touch(series)
    misses.set(number, (misses.get(number) ?? 0) + 1)
  }

  /** A pass begins. @param series the first of the user's journey */
  passBegan(series: number, now: number): void {
    if (now >= this.secondEndsAt) this.roll(now)
    this.touch(series).passes++
  }

  /** A pass that was due is not begun. @param series the first of the journey */
  passNotStarted(series: number, now: number, reason: NotStarted): void {
    if (now >= this.secondEndsAt) this.roll(now)
    this.touch(series).notStarted[NOT_STARTED.indexOf(reason)]!++
  }

  /** @param bytesSent of the body of the request that was redirected */
  redirected(series: number, now: number, bytesSent: number): void {
    if (now >= this.secondEndsAt) this.roll(now)
    const s = this.touch(series)
    s.redirects++
    s.bytesSent += bytesSent
  }

  /**
   * A bundle, span or round is over: timed, but in no claim, for its requests are counted themselves.
   *
   * @param failure that of its first request that failed
   */
  timed(series: number, now: number, ms: number, failure: FailureKind | undefined): void {
    if (now >= this.secondEndsAt) this.roll(now)
    const s = this.touch(series)
    s.started++
    if (failure === undefined) {
      s.right++
      s.rightAfter(ms)
    }
    else {
      // It has an index for each kind.
      s.failures[KIND_INDEX.get(failure)!]!++
      if (!OWN_FAULTS.includes(failure)) s.times.failed.record(ms * 1000)
    }
  }

  failed(
    series: number,
    now: number,
    kind: FailureKind,
    reach: SentState,
    responseMs: number,
    line: OnTheLine,
  ): void {
    if (now >= this.secondEndsAt) this.roll(now)
    const s = this.touch(series)
    // As above.
    const index = KIND_INDEX.get(kind)!
    s.failures[index]!++
    if (line.status > 0) s.answered(answerNumber(line.status, index))
    s.onTheLine(line)
    // What this generator read too late took some time that nobody knows.
    if (!OWN_FAULTS.includes(kind)) s.times.failed.record(responseMs * 1000)
    this.claims.failed++
    if (reach === 'neverSent') {
      s.neverSent++
      this.claims.neverSent++
    }
    else if (reach === 'unclear') {
      s.unclear++
      this.claims.unclear++
    }
  }

  /** The user had to go before the answer came. */
  cutOff(series: number, now: number): void {
    this.roll(now)
    this.touch(series).cut++
    this.claims.cut++
  }

  /** Cuts the last frame, at once. */
  finish(now: number): void {
    this.roll(now)
    this.cut(true)
  }

  private touch(number: number): SeriesSecond {
    const s = (this.series[number] ??= new SeriesSecond())
    if (!s.touched) {
      s.touched = true
      this.touched.push(number)
    }
    return s
  }

  private cut(last: boolean): void {
    const { frame, part, options } = this
    const entries = this.touched.sort((a, b) => a - b)
    this.sequence++
    beginFrame(
      frame,
      {
        incarnation: options.incarnation,
        worker: options.worker,
        sequence: this.sequence,
        second: this.second,
        last,
        claims: this.claims,
        usersByGroup: this.present,
        health: options.health(),
      },
      entries.length,
    )
    for (const number of entries) {
      const s = this.series[number]!
      s.writeTo(frame, number, part)
      s.clear()
    }
    this.touched = []
    options.onFrame({ bytes: endFrame(frame), sequence: this.sequence, second: this.second })
    this.second++
    this.secondEndsAt += 1000
  }
}

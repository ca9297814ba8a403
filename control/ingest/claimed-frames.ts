/**
 * Makes frames of what other programs told: counts and times of each second, filed as if a generator had sent them. A
 * start belongs to the second in which it fell, an answer to the second in which it came.
 */
import { NO_HEALTH } from '../../core/capacity/signals'
import { ByteWriter } from '../../core/histogram/varint'
import { failureOf, type ClaimedSample } from '../../core/elsewhere/sample'
import { FAILURE_KINDS } from '../../core/journey/failure-kinds'
import { NO_CLAIMS } from '../../core/merge/ledger'
import { answerNumber, type SeriesSum } from '../../core/merge/series-sum'
import { beginFrame, endFrame } from '../../protocol/frame'
import { SeriesSecond } from '../../protocol/series-second'

export interface ClaimedFrame {
  sender: number
  bytes: Uint8Array
}

/** What one program told. */
interface Told {
  sequence: number
  claims: typeof NO_CLAIMS
  seconds: Map<number, Map<number, SeriesSecond>>
}

export class ClaimedFrames {
  private readonly told: Told[]
  private readonly leftOpen = new Set<number>()
  private readonly frame = new ByteWriter(4096)
  private readonly part = new ByteWriter(1024)
  /** Series of single seconds that are not written yet. */
  open = 0

  /**
   * @param startAt moment of run second 0, ms
   * @param seriesOf number of the series of a step that a sender tells of
   * @param incarnation other than that of any who told before
   */
  constructor(
    senders: number,
    private readonly startAt: number,
    private readonly seriesOf: (sender: number, step: string) => number,
    private readonly incarnation = 1,
  ) {
    this.told = Array.from({ length: senders }, () => ({ sequence: 0, claims: { ...NO_CLAIMS }, seconds: new Map() }))
  }

  /** Run second of a moment; never before the first. */
  secondOf(ms: number): number {
    return Math.max(0, Math.floor((ms - this.startAt) / 1000))
  }

  add(sender: number, sample: ClaimedSample): void {
    const series = this.seriesOf(sender, sample.step)
    const took = sample.durationMs ?? 0
    const begun = this.secondOf(sample.beganMs)
    this.at(sender, begun, series).started++
    const s = this.at(sender, Math.max(begun, this.secondOf(sample.beganMs + took)), series)
    s.bytes += sample.bytes
    s.bytesSent += sample.sent
    if (sample.ok) {
      s.right++
      if (sample.durationMs !== undefined) s.rightAfter(took)
      if (sample.status > 0) s.answered(sample.status)
      return
    }
    const kind = FAILURE_KINDS.indexOf(failureOf(sample))
    s.failures[kind]!++
    if (sample.status > 0) s.answered(answerNumber(sample.status, kind))
    if (sample.durationMs !== undefined) s.times.failed.record(took * 1000)
  }

  /** Adds right answers whose times are known by their buckets alone. */
  addBuckets(sender: number, second: number, step: string, buckets: readonly [valueUs: number, times: number][]): void {
    const s = this.at(sender, second, this.seriesOf(sender, step))
    for (const [valueUs, times] of buckets) {
      s.started += times
      s.right += times
      for (let i = 0; i < times; i++) s.times.right.record(valueUs)
    }
  }

  /** Adds a step's exchanges that were added up elsewhere. */
  addSum(sender: number, second: number, step: string, sum: SeriesSum): void {
    this.at(sender, second, this.seriesOf(sender, step)).addExchanges(sum)
  }

  /** Some exchanges of it nobody saw the end of: it never says its last word. */
  leaveOpen(sender: number): void {
    this.leftOpen.add(sender)
  }

  /**
   * Writes what was told of seconds before one, each second of each sender as one frame, in the order of time.
   *
   * @param usersAt users of a sender in a second
   * @param last they have said their last word
   */
  cut(before: number, usersAt: (sender: number, second: number) => number, last = false): ClaimedFrame[] {
    return this.told.flatMap((told, sender) => {
      const isLast = last && !this.leftOpen.has(sender)
      const seconds = [...told.seconds.keys()].filter(s => s < before).sort((a, b) => a - b)
      return seconds.map((second, i): ClaimedFrame => {
        // It is one of its own keys.
        const cells = told.seconds.get(second)!
        told.seconds.delete(second)
        this.open -= cells.size
        return {
          sender,
          bytes: this.write(told, second, cells, usersAt(sender, second), isLast && i === seconds.length - 1),
        }
      })
    })
  }

  /** Notes that a sender was there in a second, whether it had anything to tell or not. */
  present(sender: number, second: number): void {
    const { seconds } = this.told[sender]!
    if (!seconds.has(second)) seconds.set(second, new Map())
  }

  private write(
    told: Told,
    second: number,
    cells: ReadonlyMap<number, SeriesSecond>,
    users: number,
    last: boolean,
  ): Uint8Array {
    for (const s of cells.values()) {
      told.claims.started += s.started
      told.claims.right += s.right
      told.claims.cut += s.cut
      told.claims.neverSent += s.neverSent
      told.claims.unclear += s.unclear
      for (const n of s.failures) told.claims.failed += n
    }
    told.sequence++
    beginFrame(
      this.frame,
      {
        incarnation: this.incarnation,
        worker: 0,
        sequence: told.sequence,
        second,
        last,
        claims: told.claims,
        usersByGroup: [users],
        health: NO_HEALTH,
      },
      cells.size,
    )
    for (const [number, s] of [...cells].sort((a, b) => a[0] - b[0])) s.writeTo(this.frame, number, this.part)
    return endFrame(this.frame)
  }

  private at(sender: number, second: number, series: number): SeriesSecond {
    const { seconds } = this.told[sender]!
    let cells = seconds.get(second)
    if (!cells) seconds.set(second, (cells = new Map()))
    let s = cells.get(series)
    if (!s) {
      cells.set(series, (s = new SeriesSecond()))
      this.open++
    }
    return s
  }
}

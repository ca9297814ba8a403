/**
 * What is known of one series over any stretch of time: counts and histograms, summed. Its encoding is the same in a
 * generator's frame, in the store and between workers, and is added straight from bytes.
 *
 * Encoding: LEB128 numbers started, right, never sent, unclear, cut, redirects, bytes received, bytes sent, passes; the
 * number of failure kinds in use and for each its index and count; the same for answers by status, for what answers
 * missed, and for why passes were not started; where something was right, the shortest and the longest time in µs (0:
 * not known); then which histograms hold anything, one bit each, and each of these behind its length in bytes.
 */
import { countSparse, Histogram } from '../histogram/histogram'
import { NOT_STARTED, type NotStarted } from '../load/drive'
import { BytesError, ByteWriter, type ByteReader } from '../histogram/varint'
import { FAILURE_KINDS, OWN_FAULTS, type FailureKind } from '../journey/failure-kinds'

/** The histograms of a series, in µs. The order is the wire's: add at the end only. */
export const TIMINGS = [
  'right',
  'failed',
  'intended',
  'connect',
  'firstByte',
  'lookup',
  'tls',
  'inside',
  'onTheWay',
] as const
export type Timing = (typeof TIMINGS)[number]

/**
 * How sums have been encoded: 1 knew no redirects and no misses, 2 no passes, 3 no status codes, no bytes sent, no
 * extremes and the first five histograms only, all of them written. Frames are in 4; run files in 5, where the length
 * of a histogram is doubled, and odd where it is written in blocks.
 */
export type SumEncoding = FrameEncoding | 5
export type FrameEncoding = 1 | 2 | 3 | 4
const FIRST_TIMINGS = TIMINGS.slice(0, 5)

/**
 * Under which number answers are counted: by their status, those that failed apart by the kind of failure.
 *
 * @param kind index of the failure's kind; left out: the answer was right
 */
export function answerNumber(status: number, kind = -1): number {
  return status + 1000 * (kind + 1)
}

/** The status of a number of {@link answerNumber}, and what became of it. */
export function answerOf(number: number): { status: number, failure: FailureKind | undefined } {
  return { status: number % 1000, failure: FAILURE_KINDS[Math.floor(number / 1000) - 1] }
}

export class SeriesSum {
  /** Exchanges begun in this stretch. */
  started = 0
  /** Answers that were right, ended in this stretch. */
  right = 0
  /** Failures by kind, ended in this stretch; indexed like FAILURE_KINDS. */
  readonly failures = new Float64Array(FAILURE_KINDS.length)
  /** Failures of which no byte can have left. */
  neverSent = 0
  /** Failures of which nobody knows whether the target got them. */
  unclear = 0
  /** Exchanges broken off because the user had to go: neither right nor failed. */
  cut = 0
  /** Further requests sent because an answer redirected. */
  redirects = 0
  /** Bytes of answers' bodies received. */
  bytes = 0
  /** Bytes of requests' bodies sent, those of redirected requests included. */
  bytesSent = 0
  /** Passes begun; filed under the first measure of the journey. */
  passes = 0
  /** Passes that were due and not started; indexed like NOT_STARTED. Filed like {@link passes}. */
  readonly notStarted = new Float64Array(NOT_STARTED.length)
  /** Answers that missed an expectation or lacked a value, by its number in the step's list. */
  readonly misses = new Map<number, number>()
  /** Answers of which the head came, by {@link answerNumber}. */
  readonly answers = new Map<number, number>()
  /**
   * Shortest and longest response time of right answers, µs. Infinity and 0: there is none; NaN: nobody knows more than
   * the histogram does.
   */
  leastUs = Number.POSITIVE_INFINITY
  mostUs = 0
  /**
   * Response times of right answers and of failures; right answers from their intended start; of connections that were
   * made: finding the address, connecting, TLS; first byte; what the target says it took inside, and the rest.
   */
  readonly timings: Record<Timing, Histogram> = {
    right: new Histogram(),
    failed: new Histogram(),
    intended: new Histogram(),
    connect: new Histogram(),
    firstByte: new Histogram(),
    lookup: new Histogram(),
    tls: new Histogram(),
    inside: new Histogram(),
    onTheWay: new Histogram(),
  }

  get failed(): number {
    let sum = 0
    for (const n of this.failures) sum += n
    return sum
  }

  /** Failures that are the generator's own fault. */
  get ownFaults(): number {
    return OWN_FAULTS.reduce((sum, kind) => sum + this.failures[FAILURE_KINDS.indexOf(kind)]!, 0)
  }

  /** Exchanges that ended in this stretch. */
  get ended(): number {
    return this.right + this.failed + this.cut
  }

  /** @param wanted histograms that are added */
  add(other: SeriesSum, wanted: readonly Timing[] = TIMINGS): void {
    this.addCounts(other)
    for (const timing of wanted) this.timings[timing].add(other.timings[timing])
  }

  /** Adds everything but the histograms. */
  addCounts(other: SeriesSum): void {
    this.started += other.started
    this.right += other.right
    this.neverSent += other.neverSent
    this.unclear += other.unclear
    this.cut += other.cut
    this.redirects += other.redirects
    this.bytes += other.bytes
    this.bytesSent += other.bytesSent
    this.passes += other.passes
    this.leastUs = Math.min(this.leastUs, other.leastUs)
    this.mostUs = Math.max(this.mostUs, other.mostUs)
    other.notStarted.forEach((n, reason) => {
      this.notStarted[reason]! += n
    })
    other.failures.forEach((n, kind) => {
      this.failures[kind]! += n
    })
    for (const [number, n] of other.misses) more(this.misses, number, n)
    for (const [number, n] of other.answers) more(this.answers, number, n)
  }

  /** Empties everything but the histograms, to be filled again. */
  clearCounts(): void {
    this.started = this.right = this.neverSent = this.unclear = this.cut = this.redirects = 0
    this.bytes = this.bytesSent = this.passes = 0
    this.leastUs = Number.POSITIVE_INFINITY
    this.mostUs = 0
    this.failures.fill(0)
    this.notStarted.fill(0)
    this.misses.clear()
    this.answers.clear()
  }

  /** Empties it, to be filled again. */
  clear(): void {
    this.clearCounts()
    for (const timing of TIMINGS) if (this.timings[timing].count > 0) this.timings[timing].clear()
  }

  /**
   * Adds an encoding, moving the reader past it.
   *
   * @param wanted histograms that are added; the others are passed over
   * @throws BytesError when it is none
   */
  addFrom(reader: ByteReader, encoding: SumEncoding = 4, wanted: readonly Timing[] = TIMINGS): void {
    this.addCountsFrom(reader, encoding)
    for (const timing of timingsIn(reader, encoding)) {
      const head = reader.varint()
      const length = encoding > 4 ? Math.floor(head / 2) : head
      const from = reader.skip(length)
      if (wanted !== TIMINGS && !wanted.includes(timing)) continue
      if (encoding > 4 && head % 2 === 1) this.timings[timing].addBlocks(reader.bytes, from, from + length)
      else this.timings[timing].addSparse(reader.bytes, from, from + length)
    }
  }

  /** Adds an encoding but for its histograms, moving the reader to them. @throws BytesError when it is none */
  addCountsFrom(reader: ByteReader, encoding: SumEncoding = 4): void {
    this.started += reader.varint()
    const right = reader.varint()
    this.right += right
    this.neverSent += reader.varint()
    this.unclear += reader.varint()
    this.cut += reader.varint()
    if (encoding > 1) this.redirects += reader.varint()
    this.bytes += reader.varint()
    if (encoding > 3) this.bytesSent += reader.varint()
    if (encoding > 2) this.passes += reader.varint()
    for (let kinds = reader.varint(); kinds > 0; kinds--) {
      this.failures[known(reader.varint(), FAILURE_KINDS.length, 'failure kind')]! += reader.varint()
    }
    for (let answers = encoding > 3 ? reader.varint() : 0; answers > 0; answers--)
      more(this.answers, reader.varint(), reader.varint())
    for (let misses = encoding > 1 ? reader.varint() : 0; misses > 0; misses--)
      more(this.misses, reader.varint(), reader.varint())
    for (let reasons = encoding > 2 ? reader.varint() : 0; reasons > 0; reasons--) {
      this.notStarted[known(reader.varint(), NOT_STARTED.length, 'reason of a pass not started')]! += reader.varint()
    }
    if (right === 0) return
    const leastUs = encoding > 3 ? reader.varint() : 0
    const mostUs = encoding > 3 ? reader.varint() : 0
    this.leastUs = Math.min(this.leastUs, leastUs || Number.NaN)
    this.mostUs = Math.max(this.mostUs, mostUs || Number.NaN)
  }

  /** @param encoding files of an earlier release go on in theirs; 3 and later can be written */
  writeTo(to: ByteWriter, encoding: SumEncoding = 4): void {
    writeCounts(to, this, encoding)
    const inUse = encoding > 3 ? TIMINGS.filter(timing => this.timings[timing].count > 0) : FIRST_TIMINGS
    if (encoding > 3) to.varint(inUse.reduce((bits, timing) => bits | (1 << TIMINGS.indexOf(timing)), 0))
    for (const timing of inUse) {
      part.length = 0
      const inBlocks = encoding > 4 && this.timings[timing].crowded
      if (inBlocks) this.timings[timing].writeBlocks(part)
      else this.timings[timing].writeSparse(part)
      to.varint(encoding > 4 ? part.length * 2 + Number(inBlocks) : part.length)
      to.raw(part.bytes.subarray(0, part.length))
    }
  }

  /** Failures by name, those that occurred only. */
  failuresByKind(): Partial<Record<FailureKind, number>> {
    const named: Partial<Record<FailureKind, number>> = {}
    FAILURE_KINDS.forEach((kind, i) => {
      if (this.failures[i]! > 0) named[kind] = this.failures[i]!
    })
    return named
  }

  notStartedByReason(): Partial<Record<NotStarted, number>> {
    const named: Partial<Record<NotStarted, number>> = {}
    NOT_STARTED.forEach((reason, i) => {
      if (this.notStarted[i]! > 0) named[reason] = this.notStarted[i]!
    })
    return named
  }
}

/** Where a histogram is written before its length is known. */
const part = new ByteWriter(1024)

/** Moves a reader past an encoding. @throws BytesError when it is none */
export function skipSum(reader: ByteReader, encoding: FrameEncoding = 4): void {
  new SeriesSum().addCountsFrom(reader, encoding)
  for (const _ of timingsIn(reader, encoding)) reader.skip(reader.varint())
}

function more(counts: Map<number, number>, number: number, n: number): void {
  counts.set(number, (counts.get(number) ?? 0) + n)
}

const TIMINGS_BY_BITS: (readonly Timing[] | undefined)[] = []

/** Which histograms follow. @throws BytesError when one of them is not known */
function timingsIn(reader: ByteReader, encoding: SumEncoding): readonly Timing[] {
  if (encoding < 4) return FIRST_TIMINGS
  const bits = known(reader.varint(), 1 << TIMINGS.length, 'histograms')
  return (TIMINGS_BY_BITS[bits] ??= TIMINGS.filter((_, i) => (bits & (1 << i)) > 0))
}

/** Where a series is added, by its number; undefined: nowhere. */
export type SumOf = (series: number) => SeriesSum | undefined

/** The sum of a series, or of what else sums are kept by; made where there is none yet. */
export function sumIn<Key>(sums: Map<Key, SeriesSum>, of: Key): SeriesSum {
  let sum = sums.get(of)
  if (!sum) sums.set(of, (sum = new SeriesSum()))
  return sum
}

/** What {@link readCounts} tells of one encoding. */
export interface ReadCounts {
  started: number
  right: number
  failed: number
  cut: number
  neverSent: number
  unclear: number
}

/**
 * Reads an encoding to its end without adding it anywhere, moving the reader past it.
 *
 * @param mayLackTimes whether right answers may have no time: what was told elsewhere does not always say
 * @throws BytesError when it is none, or when its histograms hold other numbers than its counts say
 */
export function readCounts(reader: ByteReader, encoding: FrameEncoding = 4, mayLackTimes = false): ReadCounts {
  const started = reader.varint()
  const right = reader.varint()
  const neverSent = reader.varint()
  const unclear = reader.varint()
  const cut = reader.varint()
  // Redirects, bytes received, bytes sent, passes.
  for (let i = encoding > 3 ? 4 : 3; i > 0; i--) reader.varint()
  const failures = new Float64Array(FAILURE_KINDS.length)
  let failed = 0
  for (let kinds = reader.varint(); kinds > 0; kinds--) {
    const kind = known(reader.varint(), FAILURE_KINDS.length, 'failure kind')
    const n = reader.varint()
    failures[kind]! += n
    failed += n
  }
  if (encoding > 3) readAnswers(reader, right, failures)
  for (let misses = reader.varint(); misses > 0; misses--) {
    reader.varint()
    reader.varint()
  }
  for (let reasons = reader.varint(); reasons > 0; reasons--) {
    known(reader.varint(), NOT_STARTED.length, 'reason of a pass not started')
    reader.varint()
  }
  if (encoding > 3 && right > 0 && reader.varint() > reader.varint())
    throw new BytesError('the shortest time is longer than the longest')
  const most: Record<Timing, number> = {
    right,
    failed,
    intended: right,
    connect: right + failed,
    firstByte: right,
    lookup: right + failed,
    tls: right + failed,
    inside: right,
    onTheWay: right,
  }
  let rightTimes = 0
  for (const timing of timingsIn(reader, encoding)) {
    const length = reader.varint()
    const from = reader.skip(length)
    const n = countSparse(reader.bytes, from, from + length)
    if (timing === 'right') rightTimes = n
    if (n > most[timing]) throw new BytesError(`${n} times of “${timing}” for ${most[timing]} answers`)
  }
  if (rightTimes !== right && !(mayLackTimes && rightTimes < right)) throw new BytesError(`${rightTimes} times of “right” for ${right} answers`)
  if (neverSent + unclear > failed)
    throw new BytesError(`${neverSent + unclear} of ${failed} failures never sent or unclear`)
  return { started, right, failed, cut, neverSent, unclear }
}

/** Reads answers by status. @throws BytesError when there are more of them than answers */
function readAnswers(reader: ByteReader, right: number, failures: Float64Array): void {
  let rightLeft = right
  for (let answers = reader.varint(); answers > 0; answers--) {
    const number = reader.varint()
    const n = reader.varint()
    const kind = known(Math.floor(number / 1000), FAILURE_KINDS.length + 1, 'failure kind') - 1
    const left = kind < 0 ? (rightLeft -= n) : (failures[kind]! -= n)
    if (left < 0) throw new BytesError(`status ${number % 1000} of more answers than there were`)
  }
}

/** @throws BytesError when an index lies beyond a table */
function known(index: number, length: number, what: string): number {
  if (index >= length) throw new BytesError(`${what} ${index} is not known`)
  return index
}

/** The counts of a series, without its histograms: see {@link SeriesSum}. */
export interface SeriesCounts {
  started: number
  right: number
  neverSent: number
  unclear: number
  cut: number
  redirects: number
  bytes: number
  bytesSent: number
  passes: number
  failures: Float64Array
  answers: ReadonlyMap<number, number>
  misses: ReadonlyMap<number, number>
  notStarted: Float64Array
  leastUs: number
  mostUs: number
}

/** Writes the first half of the encoding. */
export function writeCounts(to: ByteWriter, of: SeriesCounts, encoding: SumEncoding = 4): void {
  to.varint(of.started)
  to.varint(of.right)
  to.varint(of.neverSent)
  to.varint(of.unclear)
  to.varint(of.cut)
  to.varint(of.redirects)
  to.varint(of.bytes)
  if (encoding > 3) to.varint(of.bytesSent)
  to.varint(of.passes)
  writeNonZero(to, of.failures)
  if (encoding > 3) writeMap(to, of.answers)
  writeMap(to, of.misses)
  writeNonZero(to, of.notStarted)
  if (encoding < 4 || of.right === 0) return
  const exact = of.mostUs > 0
  to.varint(exact ? of.leastUs : 0)
  to.varint(exact ? of.mostUs : 0)
}

function writeMap(to: ByteWriter, counts: ReadonlyMap<number, number>): void {
  to.varint(counts.size)
  for (const [number, n] of counts) {
    to.varint(number)
    to.varint(n)
  }
}

function writeNonZero(to: ByteWriter, counts: Float64Array): void {
  let kinds = 0
  for (const n of counts) if (n > 0) kinds++
  to.varint(kinds)
  counts.forEach((n, kind) => {
    if (n === 0) return
    to.varint(kind)
    to.varint(n)
  })
}

/**
 * What is known of one series over any stretch of time: counts and histograms, summed. Its encoding is the same in a
 * generator's frame, in the store and between workers, and is added straight from bytes.
 *
 * Encoding: LEB128 numbers started, right, never sent, unclear, cut, redirects, bytes, passes; the number of failure
 * kinds in use and for each its index and count; the same for what answers missed, and for why passes were not started;
 * then five sparse histograms, each behind its length in bytes.
 */
import { countSparse, Histogram } from '../histogram/histogram'
import { NOT_STARTED, type NotStarted } from '../load/drive'
import { BytesError, ByteWriter, type ByteReader } from '../histogram/varint'
import { FAILURE_KINDS, OWN_FAULTS, type FailureKind } from '../journey/failure-kinds'

/** The histograms of a series, in µs. */
export const TIMINGS = ['right', 'failed', 'intended', 'connect', 'firstByte'] as const
export type Timing = (typeof TIMINGS)[number]

/** How sums have been encoded: 1 knew no redirects and no misses, 2 no passes. */
export type SumEncoding = 1 | 2 | 3

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
  /** Bytes of answers received. */
  bytes = 0
  /** Passes begun; filed under the first measure of the journey. */
  passes = 0
  /** Passes that were due and not started; indexed like NOT_STARTED. Filed like {@link passes}. */
  readonly notStarted = new Float64Array(NOT_STARTED.length)
  /** Answers that missed an expectation or lacked a value, by its number in the step's list. */
  readonly misses = new Map<number, number>()
  /**
   * Response times of right answers and of failures, right answers from their intended start, connect and first-byte
   * times.
   */
  readonly timings: Record<Timing, Histogram> = {
    right: new Histogram(),
    failed: new Histogram(),
    intended: new Histogram(),
    connect: new Histogram(),
    firstByte: new Histogram(),
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

  add(other: SeriesSum): void {
    this.addCounts(other)
    for (const timing of TIMINGS) this.timings[timing].add(other.timings[timing])
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
    this.passes += other.passes
    other.notStarted.forEach((n, reason) => {
      this.notStarted[reason]! += n
    })
    other.failures.forEach((n, kind) => {
      this.failures[kind]! += n
    })
    for (const [number, n] of other.misses) this.misses.set(number, (this.misses.get(number) ?? 0) + n)
  }

  /** Adds an encoding, moving the reader past it. @throws BytesError when it is none */
  addFrom(reader: ByteReader, encoding: SumEncoding = 3): void {
    this.addCountsFrom(reader, encoding)
    for (const timing of TIMINGS) {
      const length = reader.varint()
      const from = reader.skip(length)
      this.timings[timing].addSparse(reader.bytes, from, from + length)
    }
  }

  /** Adds an encoding but for its histograms, moving the reader to them. @throws BytesError when it is none */
  addCountsFrom(reader: ByteReader, encoding: SumEncoding = 3): void {
    this.started += reader.varint()
    this.right += reader.varint()
    this.neverSent += reader.varint()
    this.unclear += reader.varint()
    this.cut += reader.varint()
    if (encoding > 1) this.redirects += reader.varint()
    this.bytes += reader.varint()
    if (encoding > 2) this.passes += reader.varint()
    for (let kinds = reader.varint(); kinds > 0; kinds--) {
      this.failures[known(reader.varint(), FAILURE_KINDS.length, 'failure kind')]! += reader.varint()
    }
    for (let misses = encoding > 1 ? reader.varint() : 0; misses > 0; misses--) {
      const number = reader.varint()
      this.misses.set(number, (this.misses.get(number) ?? 0) + reader.varint())
    }
    for (let reasons = encoding > 2 ? reader.varint() : 0; reasons > 0; reasons--) {
      this.notStarted[known(reader.varint(), NOT_STARTED.length, 'reason of a pass not started')]! += reader.varint()
    }
  }

  writeTo(to: ByteWriter): void {
    writeCounts(to, this, this.failures, this.misses, this.notStarted)
    const part = new ByteWriter(1024)
    for (const timing of TIMINGS) {
      part.length = 0
      this.timings[timing].writeSparse(part)
      to.varint(part.length)
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

/** Where a series is added, by its number; undefined: nowhere. */
export type SumOf = (series: number) => SeriesSum | undefined

/** The sum of a series; made where there is none yet. */
export function sumIn(sums: Map<number, SeriesSum>, series: number): SeriesSum {
  let sum = sums.get(series)
  if (!sum) sums.set(series, (sum = new SeriesSum()))
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
 * @throws BytesError when it is none, or when its histograms hold other numbers than its counts say
 */
export function readCounts(reader: ByteReader): ReadCounts {
  const started = reader.varint()
  const right = reader.varint()
  const neverSent = reader.varint()
  const unclear = reader.varint()
  const cut = reader.varint()
  // Redirects, bytes and passes.
  for (let i = 0; i < 3; i++) reader.varint()
  let failed = 0
  for (let kinds = reader.varint(); kinds > 0; kinds--) {
    known(reader.varint(), FAILURE_KINDS.length, 'failure kind')
    failed += reader.varint()
  }
  for (let misses = reader.varint(); misses > 0; misses--) {
    reader.varint()
    reader.varint()
  }
  for (let reasons = reader.varint(); reasons > 0; reasons--) {
    known(reader.varint(), NOT_STARTED.length, 'reason of a pass not started')
    reader.varint()
  }
  for (const timing of TIMINGS) {
    const length = reader.varint()
    const from = reader.skip(length)
    const n = countSparse(reader.bytes, from, from + length)
    const most = timing === 'failed' ? failed : timing === 'connect' ? right + failed : right
    if (n > most || (timing === 'right' && n !== most))
      throw new BytesError(`${n} times of “${timing}” for ${most} answers`)
  }
  if (neverSent + unclear > failed)
    throw new BytesError(`${neverSent + unclear} of ${failed} failures never sent or unclear`)
  return { started, right, failed, cut, neverSent, unclear }
}

/** @throws BytesError when an index lies beyond a table */
function known(index: number, length: number, what: string): number {
  if (index >= length) throw new BytesError(`${what} ${index} is not known`)
  return index
}

/** The counts of a series, without its histograms. */
export interface SeriesCounts {
  started: number
  right: number
  neverSent: number
  unclear: number
  cut: number
  redirects: number
  bytes: number
  passes: number
}

/** Writes the first half of the encoding. */
export function writeCounts(
  to: ByteWriter,
  counts: SeriesCounts,
  failures: Float64Array,
  misses: ReadonlyMap<number, number>,
  notStarted: Float64Array,
): void {
  to.varint(counts.started)
  to.varint(counts.right)
  to.varint(counts.neverSent)
  to.varint(counts.unclear)
  to.varint(counts.cut)
  to.varint(counts.redirects)
  to.varint(counts.bytes)
  to.varint(counts.passes)
  writeNonZero(to, failures)
  to.varint(misses.size)
  for (const [number, n] of misses) {
    to.varint(number)
    to.varint(n)
  }
  writeNonZero(to, notStarted)
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

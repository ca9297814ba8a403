/**
 * A frame: what one worker of a generator measured in one second of the run. Binary, little-endian; docs/protocol.md
 * lists it byte by byte.
 *
 * Head (u16 magic, u8 version, u8 flags, u32 incarnation, u16 worker, u32 sequence, u32 second), then LEB128: six
 * cumulative claims, users present per group, health, number of entries, entries (series number, series encoding); last
 * a CRC-32 of all before it.
 */
import { crc32 } from 'node:zlib'
import { ByteReader, BytesError, type ByteWriter } from '../core/histogram/varint'
import { NO_CLAIMS, type Claims, type FrameHead } from '../core/merge/ledger'
import { readCounts, skipSum, type FrameEncoding, type ReadCounts, type SeriesSum, type SumOf, type Timing } from '../core/merge/series-sum'
import { NO_HEALTH, SIGNAL_ORDER, type Health, type Signal } from '../core/capacity/signals'
import { keysIn } from '../core/values/written-out'

const MAGIC = 0x4e56 // "VN"
const FRAME_VERSION = 5
/** Frames of earlier releases: how many signals they held, and how their sums are encoded. */
const VERSIONS: Readonly<Record<number, { signals: number, sums: FrameEncoding }>> = {
  3: { signals: 5, sums: 3 },
  4: { signals: SIGNAL_ORDER.length, sums: 3 },
  [FRAME_VERSION]: { signals: SIGNAL_ORDER.length, sums: 4 },
}
const LAST = 1
/** Bytes before the first LEB128 number. */
const HEAD_BYTES = 18

/** Everything in a frame but its entries. */
export interface FrameTop extends FrameHead {
  /** Users present per group of the plan, at the end of the second. */
  usersByGroup: number[]
  health: Health
}

/** Writes a frame's top; entries follow with {@link beginEntry}, and {@link endFrame} closes it. */
export function beginFrame(to: ByteWriter, top: Omit<FrameTop, 'users'>, entries: number): void {
  to.length = 0
  to.u16(MAGIC)
  to.u8(FRAME_VERSION)
  to.u8(top.last ? LAST : 0)
  to.u32(top.incarnation)
  to.u16(top.worker)
  to.u32(top.sequence)
  to.u32(top.second)
  const c = top.claims
  for (const n of [c.started, c.right, c.failed, c.cut, c.neverSent, c.unclear]) to.varint(n)
  to.varint(top.usersByGroup.length)
  for (const n of top.usersByGroup) to.varint(n)
  for (const signal of SIGNAL_ORDER) to.varint(Math.max(0, Math.round(top.health[signal] * unitOf(signal))))
  to.varint(entries)
}

/** Shares travel in 1/10,000, times in µs. */
export function unitOf(signal: Signal): number {
  return signal.endsWith('Ms') ? 1e3 : 1e4
}

export function endFrame(to: ByteWriter): Uint8Array {
  const sum = crc32(to.bytes.subarray(0, to.length))
  to.u32(sum)
  return to.take()
}

/** A frame opened for reading. */
export interface OpenFrame {
  top: FrameTop
  entries: number
  /** Stands at the first entry. */
  reader: ByteReader
  /** How the entries are encoded. */
  encoding: FrameEncoding
}

/** @throws BytesError when the bytes are no frame, are damaged, or are of another version */
export function openFrame(bytes: Uint8Array): OpenFrame {
  if (bytes.length < HEAD_BYTES + 4) throw new BytesError('frame: too short')
  const reader = new ByteReader(bytes, 0, bytes.length - 4)
  if (reader.u16() !== MAGIC) throw new BytesError('frame: does not begin like one')
  const version = reader.u8()
  const of = VERSIONS[version]
  if (!of) throw new BytesError(`frame: version ${version}, ${FRAME_VERSION} expected`)
  const given = new ByteReader(bytes, bytes.length - 4).u32()
  if (given !== crc32(bytes.subarray(0, bytes.length - 4))) throw new BytesError('frame: checksum does not match')
  const last = (reader.u8() & LAST) !== 0
  const [incarnation, worker, sequence, second] = [reader.u32(), reader.u16(), reader.u32(), reader.u32()]
  const claims: Claims = {
    started: reader.varint(),
    right: reader.varint(),
    failed: reader.varint(),
    cut: reader.varint(),
    neverSent: reader.varint(),
    unclear: reader.varint(),
  }
  const groups = reader.varint()
  if (groups > 1000) throw new BytesError(`frame: ${groups} groups`)
  const usersByGroup = Array.from({ length: groups }, () => reader.varint())
  const health: Health = { ...NO_HEALTH }
  for (const signal of SIGNAL_ORDER.slice(0, of.signals)) health[signal] = reader.varint() / unitOf(signal)
  const entries = reader.varint()
  const users = usersByGroup.reduce((sum, n) => sum + n, 0)
  return {
    top: { incarnation, worker, sequence, second, last, claims, users, usersByGroup, health },
    entries,
    reader,
    encoding: of.sums,
  }
}

/** Series and counts of each entry of a frame. */
export type EntryCounts = [series: number, counts: ReadCounts][]

/**
 * Adds a frame's entries to the sums they belong to: all of them, or none. They are read to the end before the first is
 * added.
 *
 * @param sumFor where a series' sum is, by series number; undefined: they are counted, and added nowhere
 * @param counted whether a series holds requests, or only times what others count; undefined: it is not of this run,
 * and the frame is refused
 * @param counts gets the counts of each entry, by series
 * @param mayLackTimes right answers may be told of without a time
 * @returns counts of this frame alone, for the ledger
 * @throws BytesError when it cannot be read to its end, or contradicts itself; the sums are what they were
 */
export function addEntries(
  frame: OpenFrame,
  sumFor: ((series: number) => SeriesSum) | undefined,
  counted: (series: number) => boolean | undefined,
  counts?: EntryCounts,
  mayLackTimes = false,
): Claims {
  const { reader, entries, encoding } = frame
  const { at } = reader
  const inFrame: Claims = { ...NO_CLAIMS }
  for (let i = 0; i < entries; i++) {
    const series = reader.varint()
    const isCounted = counted(series)
    if (isCounted === undefined) throw new BytesError(`frame: series ${series} is not of this run`)
    const of = readCounts(reader, encoding, mayLackTimes)
    counts?.push([series, of])
    if (!isCounted) continue
    for (const key of keysIn(inFrame)) inFrame[key] += of[key]
  }
  if (reader.at !== reader.end) throw new BytesError('frame: bytes left over')
  if (!sumFor) return inFrame
  reader.at = at
  for (let i = 0; i < entries; i++) sumFor(reader.varint()).addFrom(reader, encoding)
  return inFrame
}

/**
 * Adds entries of a frame that was merged before, each to the sum it belongs to.
 *
 * @param into undefined: to none @param timings histograms that are added
 */
export function addMerged({ reader, entries, encoding }: OpenFrame, into: SumOf, timings?: readonly Timing[]): void {
  for (let i = 0; i < entries; i++) {
    const sum = into(reader.varint())
    if (sum) sum.addFrom(reader, encoding, timings)
    else skipSum(reader, encoding)
  }
}

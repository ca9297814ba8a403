/**
 * The published V2 encoding of a High Dynamic Range histogram, before compression: what other programs read and write.
 * Layout (big-endian): cookie, payload length, normalising offset (all int32), significant digits (int32), lowest and
 * highest trackable value (int64), conversion ratio (double), then the counts as ZigZag LEB128, a negative number
 * standing for that many empty buckets. Source: the published V2 format; tests hold it against an independent reader
 * and writer.
 */
import { Histogram } from './histogram'
import { HIGHEST_TRACKABLE_US, INDEX_COUNT, SIGNIFICANT_DIGITS, indexOfValue } from './layout'
import { ByteWriter, BytesError } from './varint'

const COOKIE_V2 = 0x1c849303 | 0x10
const HEADER_BYTES = 40

/** The uncompressed V2 payload of a histogram. */
export function toPublishedV2(histogram: Histogram): Uint8Array {
  const counts = new ByteWriter(4096)
  let next = 0
  histogram.forEach((index, times) => {
    if (index > next) writeZigZag(counts, -(index - next))
    writeZigZag(counts, times)
    next = index + 1
  })
  const bytes = new Uint8Array(HEADER_BYTES + counts.length)
  const view = new DataView(bytes.buffer)
  view.setInt32(0, COOKIE_V2)
  view.setInt32(4, counts.length)
  view.setInt32(8, 0)
  view.setInt32(12, SIGNIFICANT_DIGITS)
  view.setBigInt64(16, 1n)
  view.setBigInt64(24, BigInt(HIGHEST_TRACKABLE_US))
  view.setFloat64(32, 1)
  bytes.set(counts.bytes.subarray(0, counts.length), HEADER_BYTES)
  return bytes
}

/**
 * Reads an uncompressed V2 payload. A histogram of 3 digits with unit 1 is taken over bucket for bucket.
 *
 * @throws BytesError when it is not V2, has other digits or units, or is cut short
 */
export function fromPublishedV2(bytes: Uint8Array): Histogram {
  if (bytes.length < HEADER_BYTES) throw new BytesError('histogram log: the entry is shorter than its header')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if ((view.getInt32(0) & ~0xf0) !== (COOKIE_V2 & ~0xf0))
    throw new BytesError('histogram log: the entry is not in the V2 encoding')
  if (view.getInt32(12) !== SIGNIFICANT_DIGITS || view.getBigInt64(16) !== 1n) {
    throw new BytesError('histogram log: only 3 significant digits and a lowest value of 1 are read')
  }
  const end = HEADER_BYTES + view.getInt32(4)
  if (end > bytes.length) throw new BytesError('histogram log: the entry is cut short')
  const histogram = new Histogram()
  const limit = indexOfValue(HIGHEST_TRACKABLE_US)
  let at = HEADER_BYTES
  let index = 0
  while (at < end) {
    const start = at
    let value = 0n
    for (let shift = 0n, i = 0; ; i++, shift += 7n) {
      if (at >= end) throw new BytesError(`histogram log: bytes end at ${at} inside a count`)
      const byte = bytes[at++]!
      // The ninth byte carries eight bits and ends the number.
      value |= BigInt(i === 8 ? byte : byte & 127) << shift
      if (byte < 128 || i === 8) break
    }
    const number = Number((value >> 1n) ^ -(value & 1n))
    if (number < 0) index -= number
    else {
      if (number > 0) {
        if (index > limit || index >= INDEX_COUNT)
          throw new BytesError(`histogram log: the count at byte ${start} lies past 1 h`)
        histogram.addAt(index, number)
      }
      index++
    }
  }
  return histogram
}

function writeZigZag(to: ByteWriter, value: number): void {
  let v = value < 0 ? BigInt(-value) * 2n - 1n : BigInt(value) * 2n
  for (let i = 0; i < 8; i++) {
    if (v < 128n) return to.u8(Number(v))
    to.u8(Number(v & 127n) | 128)
    v >>= 7n
  }
  to.u8(Number(v & 255n))
}

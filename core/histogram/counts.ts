/**
 * A histogram's counts as they are few: the buckets in use, and how many values are in each. What is kept by the ten
 * thousand, and only read, is kept so.
 */
import type { Histogram } from './histogram'
import { INDEX_COUNT, middleValueOf } from './layout'

const INDEXES = new Uint16Array(INDEX_COUNT)
const TIMES = new Float64Array(INDEX_COUNT)

export class Counts {
  private constructor(
    /** Of buckets, rising. */
    readonly indexes: Uint16Array,
    readonly times: Float64Array,
    /** Number of values. */
    readonly count: number,
  ) {}

  static of(histogram: Histogram): Counts {
    let used = 0
    histogram.forEach((index, n) => {
      INDEXES[used] = index
      TIMES[used++] = n
    })
    return new Counts(INDEXES.slice(0, used), TIMES.slice(0, used), histogram.count)
  }

  addTo(histogram: Histogram): void {
    for (let i = 0; i < this.indexes.length; i++) histogram.addAt(this.indexes[i]!, this.times[i]!)
  }

  /** Of all values, in µs, from the middles of buckets. */
  sumUs(): number {
    let sum = 0
    for (let i = 0; i < this.indexes.length; i++) sum += middleValueOf(this.indexes[i]!) * this.times[i]!
    return sum
  }
}

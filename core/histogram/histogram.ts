/**
 * A histogram that sums: counts per bucket, kept in pages of 1,024 so that an empty range costs nothing. Response times of one step
 * lie close together, so a typical one holds three or four pages (8 kB each) instead of 23.
 */
import { DOUBLINGS, INDEX_COUNT, SUB_BUCKET_HALF, highestValueOf, indexOfValue, lowestValueOf, middleValueOf } from './layout'
import { BytesError, type ByteWriter } from './varint'

const PAGE_SHIFT = 10
const PAGE_MASK = SUB_BUCKET_HALF - 1
const PAGES = DOUBLINGS + 1

export class Histogram {
  /** Number of values recorded. */
  count = 0
  private readonly pages: (Float64Array | undefined)[] = new Array(PAGES).fill(undefined)

  /** Records one value in µs (clamped to 1 h), `times` times. */
  record(valueUs: number, times = 1): void {
    this.addAt(indexOfValue(valueUs), times)
  }

  /** Adds `times` to the bucket of this index. */
  addAt(index: number, times: number): void {
    const page = this.pages[index >>> PAGE_SHIFT] ?? this.openPage(index >>> PAGE_SHIFT)
    page[index & PAGE_MASK]! += times
    this.count += times
  }

  /** Adds every count of another histogram. Associative and commutative. */
  add(other: Histogram): void {
    this.combine(other, 1)
  }

  /**
   * Takes another histogram's counts away, exactly: it must have been added before.
   *
   * @throws RangeError when a bucket would fall below zero
   */
  subtract(other: Histogram): void {
    this.combine(other, -1)
  }

  private combine(other: Histogram, sign: 1 | -1): void {
    for (let p = 0; p < PAGES; p++) {
      const theirs = other.pages[p]
      if (!theirs) continue
      const ours = this.pages[p] ?? this.openPage(p)
      for (let i = 0; i < SUB_BUCKET_HALF; i++) {
        ours[i]! += sign * theirs[i]!
        if (ours[i]! < 0) throw new RangeError(`bucket ${p * SUB_BUCKET_HALF + i} would hold less than nothing`)
      }
    }
    this.count += sign * other.count
  }

  /**
   * Adds a sparse encoding straight from its bytes, without building anything in between.
   *
   * @param bytes where the encoding lies, from `from` to `to` (exclusive)
   * @throws BytesError when the bytes are not a sparse encoding
   */
  addSparse(bytes: Uint8Array, from = 0, to = bytes.length): void {
    let at = from
    let index = -1
    let pageNumber = -1
    let page: Float64Array = NO_PAGE
    let total = 0
    while (at < to) {
      let delta = bytes[at++]!
      if (delta > 127) {
        delta &= 127
        for (let scale = 128; ; scale *= 128) {
          const byte = bytes[at++]!
          delta += (byte & 127) * scale
          if (byte < 128) break
          if (scale > INDEX_COUNT) throw new BytesError(`histogram: step at byte ${at} is too long`)
        }
      }
      let times = bytes[at++]!
      if (times > 127) {
        times &= 127
        for (let scale = 128; ; scale *= 128) {
          const byte = bytes[at++]!
          times += (byte & 127) * scale
          if (byte < 128) break
          if (scale > 2 ** 45) throw new BytesError(`histogram: count at byte ${at} is too long`)
        }
      }
      index += delta + 1
      if (index >= INDEX_COUNT || at > to || times !== times) throw new BytesError(`histogram: bytes ${from} to ${to} are not an encoding`)
      if (index >>> PAGE_SHIFT !== pageNumber) {
        pageNumber = index >>> PAGE_SHIFT
        page = this.pages[pageNumber] ?? this.openPage(pageNumber)
      }
      page[index & PAGE_MASK]! += times
      total += times
    }
    this.count += total
  }

  /** Writes the sparse encoding: for each bucket in use, the gap to the one before and the count, both LEB128. */
  writeSparse(to: ByteWriter): void {
    let last = -1
    this.forEach((index, times) => {
      to.varint(index - last - 1)
      to.varint(times)
      last = index
    })
  }

  /** Calls `visit` for each bucket in use, in order. */
  forEach(visit: (index: number, times: number) => void): void {
    for (let p = 0; p < PAGES; p++) {
      const page = this.pages[p]
      if (!page) continue
      for (let i = 0; i < SUB_BUCKET_HALF; i++) if (page[i]! > 0) visit(p * SUB_BUCKET_HALF + i, page[i]!)
    }
  }

  /**
   * The value, in µs, at or below which the share `p` (0 to 1) of all values lies: the highest equivalent value at
   * rank ceil(p · n), the nearest-rank percentile. `undefined` when empty.
   */
  percentileUs(p: number): number | undefined {
    if (this.count === 0) return undefined
    // The product can land a hair above a whole number (0.07 · 100 = 7.000000000000001): the same rank is meant.
    const exact = p * this.count
    const rank = Math.max(1, Math.ceil(exact - exact * 1e-12))
    let seen = 0
    for (let q = 0; q < PAGES; q++) {
      const page = this.pages[q]
      if (!page) continue
      for (let i = 0; i < SUB_BUCKET_HALF; i++) {
        seen += page[i]!
        if (seen >= rank) return highestValueOf(q * SUB_BUCKET_HALF + i)
      }
    }
    return this.maxUs()
  }

  /** Mean in µs, from the middle of each bucket. `undefined` when empty. */
  meanUs(): number | undefined {
    if (this.count === 0) return undefined
    let sum = 0
    this.forEach((index, times) => { sum += middleValueOf(index) * times })
    return sum / this.count
  }

  /** Highest equivalent value, in µs, of the last bucket in use. `undefined` when empty. */
  maxUs(): number | undefined {
    for (let p = PAGES - 1; p >= 0; p--) {
      const page = this.pages[p]
      if (!page) continue
      for (let i = SUB_BUCKET_HALF - 1; i >= 0; i--) if (page[i]! > 0) return highestValueOf(p * SUB_BUCKET_HALF + i)
    }
    return undefined
  }

  /** Lowest equivalent value, in µs, of the first bucket in use. `undefined` when empty. */
  minUs(): number | undefined {
    for (let p = 0; p < PAGES; p++) {
      const page = this.pages[p]
      if (!page) continue
      for (let i = 0; i < SUB_BUCKET_HALF; i++) if (page[i]! > 0) return lowestValueOf(p * SUB_BUCKET_HALF + i)
    }
    return undefined
  }

  private openPage(number: number): Float64Array {
    return (this.pages[number] = new Float64Array(SUB_BUCKET_HALF))
  }
}

const NO_PAGE = new Float64Array(0)

/** The sum of any number of histograms, as a new one. */
export function sumOf(histograms: Iterable<Histogram>): Histogram {
  const sum = new Histogram()
  for (const h of histograms) sum.add(h)
  return sum
}

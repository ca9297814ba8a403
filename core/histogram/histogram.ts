/**
 * A histogram that sums: counts per bucket over the stretch of the layout in use, kept as one array of whole pages of
 * 1,024 buckets. Response times of one step lie close together, so a typical one holds three or four pages (8 kB each)
 * instead of 23.
 */
import {
  DOUBLINGS,
  INDEX_COUNT,
  SUB_BUCKET_HALF,
  highestValueOf,
  indexOfValue,
  lowestValueOf,
  middleValueOf,
} from './layout'
import { ByteReader, BytesError, ByteWriter } from './varint'

const PAGE_SHIFT = 10
/** Buckets of a block: see {@link Histogram.writeBlocks}. */
const BLOCK = 256
const BLOCK_SHIFT = 8
const PAGES = DOUBLINGS + 1
const NOTHING = new Float64Array(0)
/** Where a block is written before its length is known. */
const sparse = new ByteWriter(BLOCK)

export class Histogram {
  /** Number of values recorded. */
  count = 0
  /** Counts of the buckets from `base` on. */
  private counts: Float64Array = NOTHING
  /** Index of the first bucket held: a multiple of 1,024. */
  private base = 0

  /** Records one value in µs (clamped to 1 h), `times` times. */
  record(valueUs: number, times = 1): void {
    this.addAt(indexOfValue(valueUs), times)
  }

  /** Adds `times` to the bucket of this index. */
  addAt(index: number, times: number): void {
    this.reach(index, index)
    this.counts[index - this.base]! += times
    this.count += times
  }

  /** Empties it, to be filled again: its array stays. */
  clear(): void {
    this.counts.fill(0)
    this.count = 0
  }

  /** Adds every count of another histogram. Associative and commutative. */
  add(other: Histogram): void {
    if (other.counts.length === 0) return
    this.reach(other.base, other.base + other.counts.length - 1)
    const { counts } = this
    const shift = other.base - this.base
    for (let i = 0; i < other.counts.length; i++) counts[i + shift]! += other.counts[i]!
    this.count += other.count
  }

  /**
   * Takes another histogram's counts away, exactly: it must have been added before.
   *
   * @throws RangeError when a bucket would fall below zero
   */
  subtract(other: Histogram): void {
    other.forEach((index, times) => {
      this.reach(index, index)
      const left = (this.counts[index - this.base]! -= times)
      if (left < 0) throw new RangeError(`bucket ${index} would hold less than nothing`)
    })
    this.count -= other.count
  }

  /**
   * Adds a sparse encoding straight from its bytes, without building anything in between.
   *
   * @param bytes where the encoding lies, from `from` to `to` (exclusive)
   * @param first index of the bucket its first step counts from
   * @throws BytesError when the bytes are not a sparse encoding
   */
  addSparse(bytes: Uint8Array, from = 0, to = bytes.length, first = 0): void {
    let at = from
    let index = first - 1
    while (at < to) {
      // Only whole bytes of buckets already held are added by the loop; where it stops, the array is made to reach
      // further.
      const { counts, base } = this
      const end = counts.length
      let slot = index - base
      let total = 0
      let begin = at
      while (at < to) {
        begin = at
        let head = bytes[at++]!
        if (head > 127) {
          head = (head & 127) | (bytes[at++]! << 7)
          if (head > 16_383) {
            head = (head & 16_383) | (bytes[at++]! << 14)
            if (head > 2_097_151) throw new BytesError(`histogram: step at byte ${at} is too long`)
          }
        }
        const next = slot + (head >>> 1) + 1
        if (next >>> 0 >= end) break
        slot = next
        begin = to
        if ((head & 1) === 0) {
          counts[slot]! += 1
          total++
        }
        else if (bytes[at]! < 128) {
          const times = bytes[at++]! + 2
          counts[slot]! += times
          total += times
        }
        else {
          // Rare enough to be kept out of what is compiled for the rest.
          const reader = new ByteReader(bytes, at, to)
          const times = reader.varint() + 2
          at = reader.at
          counts[slot]! += times
          this.count += times
        }
      }
      this.count += total
      index = slot + base
      if (at > to) throw new BytesError(`histogram: bytes ${from} to ${to} end inside a number`)
      if (begin === to) continue
      // The bucket that begins here lies outside: reach it, and read it again.
      const wanted = index + 1 + (new ByteReader(bytes, begin, to).varint() >>> 1)
      if (wanted >= INDEX_COUNT) throw new BytesError(`histogram: bytes ${from} to ${to} are not an encoding`)
      this.reach(wanted, wanted)
      at = begin
    }
  }

  /** Writes the sparse encoding: see {@link writeBucket}. */
  writeSparse(to: ByteWriter): void {
    const { counts, base } = this
    let last = -1 - base
    let left = this.count
    // What lies behind the last bucket in use is not looked at: most of the array, often.
    for (let i = 0; left > 0 && i < counts.length; i++) {
      const times = counts[i]!
      if (times === 0) continue
      writeBucket(to, i - last - 1, times)
      last = i
      left -= times
    }
  }

  /** Whether buckets in use lie so close together that {@link writeBlocks} is sooner read than a sparse encoding. */
  get crowded(): boolean {
    // Every bucket in use holds one value at least.
    if (this.count < CROWD) return false
    for (let at = 0; at < this.counts.length; at += BLOCK) if (widthOf(this.counts, at) > 0) return true
    return false
  }

  /**
   * Writes it in blocks of 256 buckets, those in use only: four times the number of blocks passed over, plus how it is
   * written. 0: a sparse encoding, behind its length in bytes, its first step counted from the block's begin; 1 or 2:
   * every count of the block in that many bytes, the lowest first; 3: two counts a byte, the first in its lower half.
   * Numbers are LEB128.
   */
  writeBlocks(to: ByteWriter): void {
    let next = 0
    let left = this.count
    const { counts } = this
    for (let at = 0; left > 0 && at < counts.length; at += BLOCK) {
      const end = at + BLOCK
      let inBlock = 0
      for (let i = at; i < end; i++) inBlock += counts[i]!
      if (inBlock === 0) continue
      left -= inBlock
      const block = (this.base + at) >>> BLOCK_SHIFT
      const width = widthOf(counts, at)
      to.varint((block - next) * 4 + width)
      next = block + 1
      if (width === 0) {
        sparse.length = 0
        let last = at - 1
        for (let i = at; i < end; i++) {
          if (counts[i] === 0) continue
          writeBucket(sparse, i - last - 1, counts[i]!)
          last = i
        }
        to.varint(sparse.length)
        to.raw(sparse.bytes.subarray(0, sparse.length))
      }
      else if (width === HALVES) for (let i = at; i < end; i += 2) to.u8(counts[i]! | (counts[i + 1]! << 4))
      else if (width === 1) for (let i = at; i < end; i++) to.u8(counts[i]!)
      else for (let i = at; i < end; i++) to.u16(counts[i]!)
    }
  }

  /**
   * Adds what {@link writeBlocks} wrote, straight from its bytes.
   *
   * @param bytes where the encoding lies, from `from` to `to` (exclusive)
   * @throws BytesError when the bytes are not blocks
   */
  addBlocks(bytes: Uint8Array, from: number, to: number): void {
    const reader = new ByteReader(bytes, from, to)
    let block = 0
    while (reader.at < to) {
      const head = reader.varint()
      block += Math.floor(head / 4)
      const width = head % 4
      const first = block * BLOCK
      if (first >= INDEX_COUNT) throw new BytesError(`histogram: bytes ${from} to ${to} are not blocks`)
      if (width === 0) {
        const length = reader.varint()
        const at = reader.skip(length)
        this.addSparse(bytes, at, at + length, first)
      }
      else {
        const at = reader.skip(width === HALVES ? BLOCK / 2 : BLOCK * width)
        this.reach(first, first + BLOCK - 1)
        const slot = first - this.base
        this.count +=
          width === HALVES ? addHalves(this.counts, slot, bytes, at) : addPlain(this.counts, slot, bytes, at, width)
      }
      block++
    }
  }

  /** Calls `visit` for each bucket in use, in order. */
  forEach(visit: (index: number, times: number) => void): void {
    const { counts, base } = this
    for (let i = 0; i < counts.length; i++) if (counts[i]! > 0) visit(base + i, counts[i]!)
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
    for (let i = 0; i < this.counts.length; i++) {
      seen += this.counts[i]!
      if (seen >= rank) return highestValueOf(this.base + i)
    }
    return this.maxUs()
  }

  /** Mean in µs, from the middle of each bucket. `undefined` when empty. */
  meanUs(): number | undefined {
    if (this.count === 0) return undefined
    const { counts, base } = this
    let sum = 0
    for (let i = 0; i < counts.length; i++) sum += middleValueOf(base + i) * counts[i]!
    return sum / this.count
  }

  /** Standard deviation of all values, not of a sample, in µs, from the middles of buckets. `undefined` when empty. */
  spreadUs(): number | undefined {
    const mean = this.meanUs()
    if (mean === undefined) return undefined
    const { counts, base } = this
    let squares = 0
    for (let i = 0; i < counts.length; i++) squares += (middleValueOf(base + i) - mean) ** 2 * counts[i]!
    return Math.sqrt(squares / this.count)
  }

  /** Highest equivalent value, in µs, of the last bucket in use. `undefined` when empty. */
  maxUs(): number | undefined {
    const last = this.counts.findLastIndex(n => n > 0)
    return last < 0 ? undefined : highestValueOf(this.base + last)
  }

  /** Lowest equivalent value, in µs, of the first bucket in use. `undefined` when empty. */
  minUs(): number | undefined {
    const first = this.counts.findIndex(n => n > 0)
    return first < 0 ? undefined : lowestValueOf(this.base + first)
  }

  /** Makes the array hold these buckets too, in whole pages. */
  private reach(first: number, last: number): void {
    const held = this.base + this.counts.length
    if (first >= this.base && last < held) return
    const empty = this.counts.length === 0
    const fromPage = Math.min(first, empty ? first : this.base) >>> PAGE_SHIFT
    const toPage = Math.min(PAGES, (Math.max(last, empty ? last : held - 1) >>> PAGE_SHIFT) + 1)
    const grown = new Float64Array((toPage - fromPage) * SUB_BUCKET_HALF)
    if (!empty) grown.set(this.counts, this.base - fromPage * SUB_BUCKET_HALF)
    this.counts = grown
    this.base = fromPage * SUB_BUCKET_HALF
  }
}

/** Buckets of a block that must be in use for a count of one byte each to be worth their room. */
const CROWD = BLOCK / 4

/** How a block is written whose counts are half a byte each. */
const HALVES = 3

/** How a block is written: bytes of each count, or {@link HALVES}; 0: too few are in use, or one is too large. */
function widthOf(counts: Float64Array, at: number): number {
  let inUse = 0
  let most = 0
  for (let i = at; i < at + BLOCK; i++) {
    const n = counts[i]!
    if (n > 0) inUse++
    if (n > most) most = n
  }
  if (most > 0xffff) return 0
  if (most <= 0xf && inUse >= CROWD) return HALVES
  const width = most > 0xff ? 2 : 1
  return inUse >= CROWD * width ? width : 0
}

/** Adds counts of half a byte each. @returns how many values they are */
function addHalves(counts: Float64Array, slot: number, bytes: Uint8Array, from: number): number {
  let total = 0
  let at = from
  for (let i = slot; i < slot + BLOCK; i += 4) {
    const a = bytes[at]!
    const b = bytes[at + 1]!
    at += 2
    counts[i]! += a & 15
    counts[i + 1]! += a >> 4
    counts[i + 2]! += b & 15
    counts[i + 3]! += b >> 4
    total += (a & 15) + (a >> 4) + (b & 15) + (b >> 4)
  }
  return total
}

/** Adds the counts of a block, eight at a time. @returns how many values they are */
function addPlain(counts: Float64Array, slot: number, bytes: Uint8Array, from: number, width: number): number {
  let total = 0
  let at = from
  for (let i = slot; i < slot + BLOCK; i += 8) {
    let [n0, n1, n2, n3] = [bytes[at]!, bytes[at + 1]!, bytes[at + 2]!, bytes[at + 3]!]
    let [n4, n5, n6, n7] = [bytes[at + 4]!, bytes[at + 5]!, bytes[at + 6]!, bytes[at + 7]!]
    at += 8
    if (width === 2) {
      ;[n0, n1, n2, n3] = [n0 | (n1 << 8), n2 | (n3 << 8), n4 | (n5 << 8), n6 | (n7 << 8)]
      n4 = bytes[at]! | (bytes[at + 1]! << 8)
      n5 = bytes[at + 2]! | (bytes[at + 3]! << 8)
      n6 = bytes[at + 4]! | (bytes[at + 5]! << 8)
      n7 = bytes[at + 6]! | (bytes[at + 7]! << 8)
      at += 8
    }
    counts[i]! += n0
    counts[i + 1]! += n1
    counts[i + 2]! += n2
    counts[i + 3]! += n3
    counts[i + 4]! += n4
    counts[i + 5]! += n5
    counts[i + 6]! += n6
    counts[i + 7]! += n7
    total += n0 + n1 + n2 + n3 + n4 + n5 + n6 + n7
  }
  return total
}

/**
 * How many values a sparse encoding holds, read to its end without adding it anywhere.
 *
 * @throws BytesError when the bytes are not a sparse encoding
 */
export function countSparse(bytes: Uint8Array, from = 0, to = bytes.length): number {
  const reader = new ByteReader(bytes, from, to)
  let index = -1
  let total = 0
  while (reader.at < to) {
    const head = reader.varint()
    index += (head - (head % 2)) / 2 + 1
    if (index >= INDEX_COUNT) throw new BytesError(`histogram: bytes ${from} to ${to} are not an encoding`)
    total += head % 2 === 0 ? 1 : reader.varint() + 2
  }
  return total
}

/** The sum of any number of histograms, as a new one. */
export function sumOf(histograms: Iterable<Histogram>): Histogram {
  const sum = new Histogram()
  for (const h of histograms) sum.add(h)
  return sum
}

/**
 * One bucket of the sparse encoding: twice the gap to the bucket before (index − last − 1), plus 1 if more than one
 * value is in it; then, in that case, the count less 2. Both LEB128. Most buckets of a second hold one value, so most
 * take one or two bytes and one test to read (the plain pair of numbers took half as long again to merge).
 */
export function writeBucket(to: ByteWriter, gap: number, times: number): void {
  to.varint(gap * 2 + (times > 1 ? 1 : 0))
  if (times > 1) to.varint(times - 2)
}

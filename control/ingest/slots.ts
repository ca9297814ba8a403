/**
 * Where the sums of a pyramid are kept: of each slot of a level, one per series. All of a slot lie together; files of
 * earlier releases have a row for each, and stay so.
 */
import { ByteReader, ByteWriter } from '../../core/histogram/varint'
import { SeriesSum, type SumEncoding } from '../../core/merge/series-sum'
import type { Store } from '../store/open'
import { eachPacked, packed, type PackedSum } from './sum-pack'

export type Sums = Map<number, SeriesSum>

type Visit = (series: number, reader: ByteReader, end: number) => unknown

export interface Slots {
  /** How their sums are encoded. */
  readonly encoding: SumEncoding
  has(level: number, slot: number): boolean
  /** Writes a slot whole. */
  put(level: number, slot: number, sums: ReadonlyMap<number, SeriesSum>): void
  /** Adds to a slot that is there. */
  addTo(level: number, slot: number, sums: ReadonlyMap<number, SeriesSum>): void
  /**
   * Reads slots `from` (inclusive) to `to` (exclusive).
   *
   * @param visit gets the reader at the beginning of a series' sum, and where that ends; it need not read it
   */
  each(level: number, from: number, to: number, visit: Visit): void
}

/** Earlier files have sums in the encoding of their time, a row each. */
const FIRST_PACKED = 6

export function slotsOf(store: Store): Slots {
  const fact = store.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'sums\'').get()
  const format = Number(fact?.value ?? FIRST_PACKED)
  // Formats before the packed ones are numbered like the encodings.
  return format < FIRST_PACKED ? new Rows(store, format as SumEncoding) : new Packs(store)
}

class Packs implements Slots {
  readonly encoding = 5
  private readonly sql
  private readonly pack = new ByteWriter(65_536)
  private readonly part = new ByteWriter(8192)

  constructor(store: Store) {
    this.sql = {
      has: store.prepare<[number, number]>('SELECT 1 FROM packs WHERE level = ? AND slot = ?'),
      put: store.prepare<[number, number, Uint8Array]>(`
        INSERT INTO packs (level, slot, sums)
        VALUES (?, ?, ?)
        ON CONFLICT (level, slot)
        DO UPDATE SET sums = excluded.sums
      `),
      range: store
        .prepare<[number, number, number], Buffer>('SELECT sums FROM packs WHERE level = ? AND slot >= ? AND slot < ?')
        .pluck(),
    }
  }

  has(level: number, slot: number): boolean {
    return this.sql.has.get(level, slot) !== undefined
  }

  put(level: number, slot: number, sums: ReadonlyMap<number, SeriesSum>): void {
    const parts = Array.from(sums, ([series, sum]): PackedSum => [series, this.encoded(sum)])
    this.sql.put.run(level, slot, packed(this.pack, parts))
  }

  addTo(level: number, slot: number, sums: ReadonlyMap<number, SeriesSum>): void {
    // What is not added to stays the bytes it is.
    const parts = new Map<number, Uint8Array>()
    this.each(level, slot, slot + 1, (series, reader, end) => {
      const more = sums.get(series)
      if (!more) return parts.set(series, reader.bytes.subarray(reader.at, end))
      const whole = new SeriesSum()
      whole.addFrom(reader, this.encoding)
      whole.add(more)
      return parts.set(series, this.encoded(whole))
    })
    for (const [series, sum] of sums) if (!parts.has(series)) parts.set(series, this.encoded(sum))
    this.sql.put.run(level, slot, packed(this.pack, [...parts]))
  }

  private encoded(sum: SeriesSum): Uint8Array {
    this.part.length = 0
    sum.writeTo(this.part, this.encoding)
    return this.part.take()
  }

  each(level: number, from: number, to: number, visit: Visit): void {
    for (const bytes of this.sql.range.all(level, from, to)) eachPacked(bytes, visit)
  }
}

class Rows implements Slots {
  private readonly sql
  private readonly writer = new ByteWriter(8192)

  constructor(
    store: Store,
    readonly encoding: SumEncoding,
  ) {
    this.sql = {
      has: store.prepare<[number, number]>('SELECT 1 FROM pyramid WHERE level = ? AND slot = ? LIMIT 1'),
      put: store.prepare(`
        INSERT INTO pyramid (level, slot, series, sum)
        VALUES (@level, @slot, @series, @sum)
        ON CONFLICT (level, slot, series)
        DO UPDATE SET sum = excluded.sum
      `),
      get: store.prepare<[number, number, number], { sum: Buffer }>(
        'SELECT sum FROM pyramid WHERE level = ? AND slot = ? AND series = ?',
      ),
      // As lists: a window is thousands of rows.
      range: store
        .prepare<[number, number, number], [series: number, sum: Buffer]>(
          'SELECT series, sum FROM pyramid WHERE level = ? AND slot >= ? AND slot < ?',
        )
        .raw(),
    }
  }

  has(level: number, slot: number): boolean {
    return this.sql.has.get(level, slot) !== undefined
  }

  put(level: number, slot: number, sums: ReadonlyMap<number, SeriesSum>): void {
    for (const [series, sum] of sums) {
      this.writer.length = 0
      sum.writeTo(this.writer, this.encoding)
      this.sql.put.run({ level, slot, series, sum: this.writer.take() })
    }
  }

  addTo(level: number, slot: number, sums: ReadonlyMap<number, SeriesSum>): void {
    for (const [series, sum] of sums) {
      const whole = new SeriesSum()
      const before = this.sql.get.get(level, slot, series)
      if (before) whole.addFrom(new ByteReader(before.sum), this.encoding)
      whole.add(sum)
      this.put(level, slot, new Map([[series, whole]]))
    }
  }

  each(level: number, from: number, to: number, visit: Visit): void {
    for (const [series, sum] of this.sql.range.all(level, from, to)) visit(series, new ByteReader(sum), sum.length)
  }
}

/**
 * Merged sums per series at 1, 10, 100 and 1,000 s, so that any window of whole seconds is a few dozen exact additions.
 * A slot of a level is written when it is full; until then it is summed in memory and can be made again from the level
 * below.
 */
import { ByteReader, ByteWriter } from '../../core/histogram/varint'
import { SeriesSum, sumIn, TIMINGS, type SumEncoding, type SumOf, type Timing } from '../../core/merge/series-sum'
import type { Store } from '../store/open'

/** Seconds per slot of each level, finest first. */
const LEVELS = [1, 10, 100, 1000] as const

type Sums = Map<number, SeriesSum>

export class Pyramid {
  /** The slot of each coarse level that is being filled. */
  private readonly filling = new Map<number, { slot: number, sums: Sums }>()
  private readonly sql: ReturnType<typeof statements>
  private readonly writer = new ByteWriter(8192)
  /** How sums are encoded in this file: runs of an earlier release stay, and go on, as they are. */
  private readonly encoding: SumEncoding

  /**
   * @param writtenUpTo last second in the store, −1 if none
   * @param use who only reads needs no slot that is being filled: a window is made of full ones
   */
  constructor(
    store: Store,
    private writtenUpTo: number,
    use: 'write' | 'read' = 'write',
  ) {
    this.sql = statements(store)
    this.encoding = Number(
      store.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'sums\'').get()?.value ?? 5,
    ) as SumEncoding
    if (use === 'read') return
    for (const level of LEVELS.slice(1)) {
      if (writtenUpTo < 0 || (writtenUpTo + 1) % level === 0) continue
      const slot = Math.floor(writtenUpTo / level)
      const sums: Sums = new Map()
      this.addRange(series => sumIn(sums, series), 1, slot * level, writtenUpTo + 1)
      this.filling.set(level, { slot, sums })
    }
  }

  /** Writes the next second. Call within a transaction, in order. */
  write(second: number, sums: Sums): void {
    this.store(1, second, sums)
    for (const level of LEVELS.slice(1)) {
      const slot = Math.floor(second / level)
      let filling = this.filling.get(level)
      if (!filling || filling.slot !== slot) this.filling.set(level, (filling = { slot, sums: new Map() }))
      addAll(filling.sums, sums)
      if ((second + 1) % level === 0) {
        this.store(level, slot, filling.sums)
        this.filling.delete(level)
      }
    }
    this.writtenUpTo = second
  }

  /** Adds to a second that was written already, at every level. Call within a transaction. */
  add(second: number, sums: Sums): void {
    for (const level of LEVELS) {
      const slot = Math.floor(second / level)
      const filling = this.filling.get(level)
      if (filling?.slot === slot) addAll(filling.sums, sums)
      else {
        for (const [series, sum] of sums) {
          const whole = new SeriesSum()
          const before = this.sql.get.get(level, slot, series)
          if (before) whole.addFrom(new ByteReader(before.sum), this.encoding)
          whole.add(sum)
          this.store(level, slot, new Map([[series, whole]]))
        }
      }
    }
  }

  /** Writes slots that will not fill any more, when the run is over. */
  writeOpen(): void {
    for (const [level, { slot, sums }] of this.filling) this.store(level, slot, sums)
  }

  /** Sums over seconds `fromS` (inclusive) to `toS` (exclusive), from the coarsest slots that fit. */
  window(fromS: number, toS: number): Sums {
    const sums: Sums = new Map()
    this.addWindow(fromS, toS, series => sumIn(sums, series))
    return sums
  }

  /** The same without histograms, which is much sooner done. */
  counts(fromS: number, toS: number): Sums {
    const sums: Sums = new Map()
    this.addWindow(fromS, toS, series => sumIn(sums, series), [])
    return sums
  }

  /**
   * Adds each series of a window to the sum it belongs to: where many go into few, none of them has to be built.
   *
   * @param into where a series is added; undefined: nowhere
   * @param timings histograms that are read; none: counts alone, which is much sooner done
   */
  addWindow(
    fromS: number,
    toS: number,
    into: SumOf,
    timings: readonly Timing[] = TIMINGS,
  ): void {
    const end = Math.min(toS, this.writtenUpTo + 1)
    let at = Math.max(0, fromS)
    while (at < end) {
      let level = 1
      for (const coarser of LEVELS)
        if (
          at % coarser === 0 &&
          at + coarser <= end &&
          (coarser === 1 || this.sql.has.get(coarser, at / coarser)!.n > 0)
        )
          level = coarser
      // Neighbouring slots of one level are read at once.
      let slots = 1
      while (at + (slots + 1) * level <= end && (at / level + slots) % 10 !== 0) slots++
      this.addRange(into, level, at / level, at / level + slots, timings)
      at += slots * level
    }
  }

  private addRange(
    into: SumOf,
    level: number,
    from: number,
    to: number,
    timings: readonly Timing[] = TIMINGS,
  ): void {
    for (const [series, sum] of this.sql.range.all(level, from, to)) {
      const whole = into(series)
      if (!whole) continue
      const reader = new ByteReader(sum)
      if (timings.length > 0) whole.addFrom(reader, this.encoding, timings)
      else whole.addCountsFrom(reader, this.encoding)
    }
  }

  private store(level: number, slot: number, sums: Sums): void {
    for (const [series, sum] of sums) {
      this.writer.length = 0
      sum.writeTo(this.writer, this.encoding)
      this.sql.put.run({ level, slot, series, sum: this.writer.take() })
    }
  }
}

function addAll(into: Sums, sums: Sums): void {
  for (const [series, sum] of sums) sumIn(into, series).add(sum)
}

function statements(store: Store) {
  return {
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
    has: store.prepare<[number, number], { n: number }>(
      'SELECT COUNT(*) AS n FROM pyramid WHERE level = ? AND slot = ?',
    ),
  }
}

/**
 * Sums of each machine over 10, 100 and 1,000 s, made of its frames, so that a window of machines is read without
 * reading all their frames. They are made after a run, or once they have been asked for; seconds they do not reach are
 * read from frames.
 */
import { ByteReader, ByteWriter } from '../../core/histogram/varint'
import { sumIn, TIMINGS, type SeriesSum, type SumOf, type Timing } from '../../core/merge/series-sum'
import { stretchAtS, stretchesEndS } from '../../core/run/folded'
import { machineSeriesNumber } from '../../core/run/machine-series'
import type { Store } from '../store/open'
import { GatheredSums } from './gathered-sums'
import { addFrames } from './machine-frames'

/** Seconds per slot, finest first; each is made of those before it. */
const LEVELS = [10, 100, 1000] as const
const FINEST = LEVELS[0]
const FACT = 'machinesUpTo'
/** They are younger than any earlier encoding. */
const ENCODING = 5

/** Of each machine and series, by {@link machineSeriesNumber} of a number of series that is not reached. */
type Sums = Map<number, SeriesSum>
const APART = 2 ** 20

export class MachineSums {
  private readonly sql: ReturnType<typeof statements>

  constructor(private readonly store: Store) {
    this.sql = statements(store)
  }

  /** Run second up to which they are made. */
  get madeUpTo(): number {
    return Number(this.sql.fact.get(FACT)?.value ?? 0)
  }

  /**
   * Adds every series of every machine over run seconds `fromS` (inclusive) to `toS` (exclusive).
   *
   * @param into where one is added, by {@link machineSeriesNumber}; undefined: nowhere
   * @param timings histograms that are read
   * @throws Error where frames were folded, and it is not made of whole stretches
   */
  addWindow(
    fromS: number,
    toS: number,
    into: SumOf,
    seriesCount: number,
    timings: readonly Timing[] = TIMINGS,
  ): void {
    const gathered = new GatheredSums()
    const made = Math.min(toS, this.madeUpTo)
    const foldedS = Number(this.sql.fact.get('folded')?.value ?? 0)
    let at = Math.max(0, fromS)
    /** Where seconds begin that are to be read from frames. */
    let bare = at
    while (at < made) {
      const level = LEVELS.findLast(l => at % l === 0 && at + l <= made)
      if ((level ?? 1) < stretchAtS(at, foldedS))
        throw new Error('Its frames were folded: machines are told apart in whole stretches')
      if (level === undefined) {
        at++
        continue
      }
      if (bare < at) addFrames(this.store, bare, at, into, seriesCount, timings)
      for (const [generator, series, sum] of this.sql.slot.all(level, at / level)) {
        const whole = into(machineSeriesNumber(generator, series, seriesCount))
        if (whole) gathered.take(whole, sum, 0, sum.length)
      }
      bare = at += level
    }
    gathered.addAll(ENCODING, timings)
    if (bare < toS) addFrames(this.store, bare, toS, into, seriesCount, timings)
  }

  /** Makes the next ten seconds, of those that are merged. @returns whether there were any */
  makeMore(): boolean {
    return this.store
      .transaction((): boolean => {
        const from = this.madeUpTo
        const end = from + FINEST
        if (end > Number(this.sql.fact.get('mergedUpTo')?.value ?? -1) + 1) return false
        const sums: Sums = new Map()
        addFrames(this.store, from, end, number => sumIn(sums, number), APART)
        this.write(FINEST, from / FINEST, sums)
        for (const [i, level] of LEVELS.entries())
          if (i > 0 && end % level === 0) this.makeOf(LEVELS[i - 1]!, level, end / level - 1)
        this.sql.putFact.run(FACT, String(end))
        return true
      })
      .immediate()
  }

  /** A second got more frames after it was merged: it is made again. Call within a transaction. */
  forget(second: number): void {
    if (second >= this.madeUpTo) return
    const coarsest = LEVELS[LEVELS.length - 1]!
    const from = Math.floor(second / coarsest) * coarsest
    for (const level of LEVELS) this.sql.drop.run(level, from / level)
    this.sql.putFact.run(FACT, String(from))
  }

  /** Leaves of each stretch the coarsest sums alone. Call within a transaction. @param endS how long the run was, s */
  dropFiner(endS: number): void {
    for (const level of [10, 100] as const)
      this.sql.dropUpTo.run(level, stretchesEndS(level === 10 ? 100 : 1000, endS) / level)
  }

  /** Makes a slot of a level from those of the one before. */
  private makeOf(finer: number, level: number, slot: number): void {
    const sums: Sums = new Map()
    const parts = level / finer
    for (let part = slot * parts; part < (slot + 1) * parts; part++)
      for (const [generator, series, sum] of this.sql.slot.all(finer, part))
        sumIn(sums, machineSeriesNumber(generator, series, APART)).addFrom(new ByteReader(sum), ENCODING)
    this.write(level, slot, sums)
  }

  private write(level: number, slot: number, sums: Sums): void {
    const writer = new ByteWriter(1024)
    for (const [number, sum] of sums) {
      writer.length = 0
      sum.writeTo(writer, ENCODING)
      this.sql.put.run(level, slot, Math.floor(number / APART), number % APART, writer.take())
    }
  }
}

function statements(store: Store) {
  return {
    fact: store.prepare<[string], { value: string }>('SELECT value FROM facts WHERE name = ?'),
    putFact: store.prepare<[string, string]>(`
      INSERT INTO facts (name, value)
      VALUES (?, ?)
      ON CONFLICT (name)
      DO UPDATE SET value = excluded.value
    `),
    put: store.prepare<[number, number, number, number, Uint8Array]>(
      'INSERT INTO machine_sums (level, slot, generator, series, sum) VALUES (?, ?, ?, ?, ?)',
    ),
    slot: store
      .prepare<[number, number], [generator: number, series: number, sum: Buffer]>(
        'SELECT generator, series, sum FROM machine_sums WHERE level = ? AND slot = ?',
      )
      .raw(),
    drop: store.prepare<[number, number]>('DELETE FROM machine_sums WHERE level = ? AND slot >= ?'),
    dropUpTo: store.prepare<[number, number]>('DELETE FROM machine_sums WHERE level = ? AND slot < ?'),
  }
}

/**
 * Sums of each machine over 10, 100 and 1,000 s, made of its frames, so that a window of machines is read without
 * reading all their frames. They are made after a run, or once they have been asked for; seconds they do not reach are
 * read from frames.
 */
import { ByteWriter } from '../../core/histogram/varint'
import { sumIn, TIMINGS, type SeriesSum, type SumOf, type Timing } from '../../core/merge/series-sum'
import { stretchAtS, stretchesEndS } from '../../core/run/folded'
import { machineSeriesNumber } from '../../core/run/machine-series'
import { addMerged, openFrame } from '../../protocol/frame'
import type { Store } from '../store/open'
import { GatheredSums } from './gathered-sums'
import { KeptFrames } from './kept-frames'
import { addFrames } from './machine-frames'
import { eachPacked, packed, type PackedSum } from './sum-pack'

/** Seconds per slot, finest first; each is made of those before it. */
const LEVELS = [10, 100, 1000] as const
const FINEST = LEVELS[0]
const FACT = 'machinesUpTo'
/** How long the run was, once its frames are folded. */
const FOLDED_FACT = 'folded'
/** They are younger than any earlier encoding. */
const ENCODING = 5

export class MachineSums {
  private readonly sql: ReturnType<typeof statements>
  private readonly frames: KeptFrames
  private readonly scratch = new Map<number, SeriesSum>()
  private readonly part = new ByteWriter(8192)
  private readonly pack = new ByteWriter(65_536)

  constructor(private readonly store: Store) {
    this.sql = statements(store)
    this.frames = new KeptFrames(store)
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
    const foldedS = this.foldedS ?? 0
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
      for (const [generator, sums] of this.sql.slot.all(level, at / level))
        eachPacked(sums, (series, reader, end) => {
          const whole = into(machineSeriesNumber(generator, series, seriesCount))
          if (whole) gathered.take(whole, sums, reader.at, end)
        })
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
        const frames = new Map<number, Uint8Array[]>()
        this.frames.each(from, end, (generator, bytes) => {
          const of = frames.get(generator)
          if (of) of.push(bytes)
          else frames.set(generator, [bytes])
        })
        for (const [generator, of] of frames)
          this.write(FINEST, from / FINEST, generator, (into) => {
            for (const bytes of of) addMerged(openFrame(bytes), into)
          })
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

  /** How long the run was, s, whose frames were folded; undefined: they are there. */
  get foldedS(): number | undefined {
    const fact = this.sql.fact.get(FOLDED_FACT)
    return fact && Number(fact.value)
  }

  /** Leaves of each stretch the coarsest sums alone. Call within a transaction. @param endS how long the run was, s */
  fold(endS: number): void {
    for (const level of [10, 100] as const)
      this.sql.dropUpTo.run(level, stretchesEndS(level === 10 ? 100 : 1000, endS) / level)
    this.sql.putFact.run(FOLDED_FACT, String(endS))
  }

  /** Makes a slot of a level from those of the one before. */
  private makeOf(finer: number, level: number, slot: number): void {
    const parts = level / finer
    const generators = this.sql.generators.all(finer, slot * parts, (slot + 1) * parts)
    for (const generator of generators)
      this.write(level, slot, generator, (into) => {
        for (let part = slot * parts; part < (slot + 1) * parts; part++) {
          const sums = this.sql.one.get(finer, part, generator)
          if (sums) eachPacked(sums, (series, reader) => into(series).addFrom(reader, ENCODING))
        }
      })
  }

  /** One machine after the other, in the same sums: making them anew costs more than all else. */
  private write(
    level: number,
    slot: number,
    generator: number,
    add: (into: (series: number) => SeriesSum) => void,
  ): void {
    const used = new Set<number>()
    add((series) => {
      const sum = sumIn(this.scratch, series)
      if (!used.has(series)) sum.clear()
      used.add(series)
      return sum
    })
    const parts = Array.from(used, (series): PackedSum => {
      this.part.length = 0
      // It is one of its own keys.
      this.scratch.get(series)!.writeTo(this.part, ENCODING)
      return [series, this.part.take()]
    })
    this.sql.put.run(level, slot, generator, packed(this.pack, parts))
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
    put: store.prepare<[number, number, number, Uint8Array]>(
      'INSERT INTO machine_packs (level, slot, generator, sums) VALUES (?, ?, ?, ?)',
    ),
    slot: store
      .prepare<[number, number], [generator: number, sums: Buffer]>(
        'SELECT generator, sums FROM machine_packs WHERE level = ? AND slot = ?',
      )
      .raw(),
    one: store
      .prepare<[number, number, number], Buffer>(
        'SELECT sums FROM machine_packs WHERE level = ? AND slot = ? AND generator = ?',
      )
      .pluck(),
    generators: store
      .prepare<[number, number, number], number>(
        'SELECT DISTINCT generator FROM machine_packs WHERE level = ? AND slot >= ? AND slot < ?',
      )
      .pluck(),
    drop: store.prepare<[number, number]>('DELETE FROM machine_packs WHERE level = ? AND slot >= ?'),
    dropUpTo: store.prepare<[number, number]>('DELETE FROM machine_packs WHERE level = ? AND slot < ?'),
  }
}

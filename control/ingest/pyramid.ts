/**
 * Merged sums per series at 1, 10, 100 and 1,000 s, so that any window of whole seconds is a few dozen exact additions.
 * A slot is written when it is full, and then added to the one it lies in; until then it is summed in memory and can be
 * made again from the level below.
 */
import { sumIn, TIMINGS, type SumOf, type Timing } from '../../core/merge/series-sum'
import type { Store } from '../store/open'
import { GatheredSums } from './gathered-sums'
import { slotsOf, type Slots, type Sums } from './slots'

/** Seconds per slot of each level, finest first. */
const LEVELS = [1, 10, 100, 1000] as const
/** Each coarse level with the one it is made of. */
const COARSE = LEVELS.slice(1).map((level, i) => [LEVELS[i]!, level] as const)

export class Pyramid {
  /** The slot of each coarse level that is being filled. */
  private readonly filling = new Map<number, { slot: number, sums: Sums }>()
  /** Runs of an earlier release stay, and go on, as they are. */
  private readonly slots: Slots

  /**
   * @param writtenUpTo last second in the store, −1 if none
   * @param use a reader alone needs no slot that is being filled: a window is made of full ones
   */
  constructor(
    store: Store,
    private writtenUpTo: number,
    use: 'write' | 'read' = 'write',
  ) {
    this.slots = slotsOf(store)
    const end = writtenUpTo + 1
    for (const [finer, level] of COARSE) {
      if (use === 'read' || end % level === 0) continue
      const slot = Math.floor(end / level)
      const sums: Sums = new Map()
      // What is in a finer slot that is not full has not come so far.
      this.addWindow(slot * level, Math.floor(end / finer) * finer, series => sumIn(sums, series))
      this.filling.set(level, { slot, sums })
    }
  }

  /** Writes the next second. Call within a transaction, in order. */
  write(second: number, sums: Sums): void {
    this.slots.put(1, second, sums)
    this.writtenUpTo = second
    this.fill(second, sums)
  }

  /** Adds a slot that is full to the one it lies in, and so on while that fills up. */
  private fill(second: number, sums: Sums): void {
    let full = sums
    for (const [, level] of COARSE) {
      const slot = Math.floor(second / level)
      let filling = this.filling.get(level)
      if (!filling || filling.slot !== slot) this.filling.set(level, (filling = { slot, sums: new Map() }))
      addAll(filling.sums, full)
      if ((second + 1) % level !== 0) return
      this.slots.put(level, slot, filling.sums)
      this.filling.delete(level)
      full = filling.sums
    }
  }

  /** Adds to a second that was written already, at every level. Call within a transaction. */
  add(second: number, sums: Sums): void {
    this.slots.addTo(1, second, sums)
    for (const [, level] of COARSE) {
      const slot = Math.floor(second / level)
      const filling = this.filling.get(level)
      if (filling?.slot !== slot) {
        this.slots.addTo(level, slot, sums)
        continue
      }
      addAll(filling.sums, sums)
      // Coarser ones get it with the rest of this slot.
      return
    }
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
    const gathered = new GatheredSums()
    const end = Math.min(toS, this.writtenUpTo + 1)
    let at = Math.max(0, fromS)
    while (at < end) {
      let level = 1
      for (const coarser of LEVELS)
        if (
          at % coarser === 0 &&
          at + coarser <= end &&
          (coarser === 1 || this.slots.has(coarser, at / coarser))
        )
          level = coarser
      // Neighbouring slots of one level are read at once.
      let slots = 1
      while (at + (slots + 1) * level <= end && (at / level + slots) % 10 !== 0) slots++
      if (timings.length === 0) this.addCounts(into, level, at / level, at / level + slots)
      else this.gather(gathered, into, level, at / level, at / level + slots)
      at += slots * level
    }
    gathered.addAll(this.slots.encoding, timings)
  }

  private gather(gathered: GatheredSums, into: SumOf, level: number, from: number, to: number): void {
    this.slots.each(level, from, to, (series, reader, end) => {
      const whole = into(series)
      if (whole) gathered.take(whole, reader.bytes, reader.at, end)
    })
  }

  private addCounts(into: SumOf, level: number, from: number, to: number): void {
    this.slots.each(level, from, to, (series, reader) => into(series)?.addCountsFrom(reader, this.slots.encoding))
  }
}

function addAll(into: Sums, sums: Sums): void {
  for (const [series, sum] of sums) sumIn(into, series).add(sum)
}

/**
 * What the generators of a run told of themselves, second by second: users on them and their own signals. The last
 * minutes lie in typed arrays; a minute that is over, and one that is looked at when the run's state is written down,
 * lies in the file.
 *
 * A minute: LEB128 how many of its seconds were told of and which, then column by column – users, and each signal in
 * the order and unit of a frame – the difference to the value before, folded (0, −1, 1, −2 … are 0, 1, 2, 3 …).
 */
import { SIGNAL_ORDER, toldWorst, type Health } from '../../core/capacity/signals'
import { ByteReader, ByteWriter } from '../../core/histogram/varint'
import type { WorstSignal } from '../../core/merge/second-figures'
import type { WorkerSecond } from '../../core/run/machine-course'
import { unitOf } from '../../protocol/frame'
import type { Store } from '../store/open'

const MINUTE_S = 60
/** Minutes that are held beside the newest: what comes late is mostly about them. */
const HELD_MINUTES = 10
/** Users, then the signals. */
const COLUMNS = 1 + SIGNAL_ORDER.length

/** One minute of one generator. */
interface Minute {
  /** By second of the minute, then column: in the unit of a frame. */
  values: Uint32Array
  told: Uint8Array
  /** Not as the file has it. */
  isNews: boolean
}

export class MachineSeconds {
  private readonly sql: ReturnType<typeof statements>
  /** By generator, then minute. */
  private readonly held: Map<number, Minute>[] = []
  private newest = 0

  constructor(store: Store) {
    this.sql = statements(store)
  }

  /** A generator is as well as its least well worker, and has the users of all. */
  note(generator: number, { second, users, health }: WorkerSecond): void {
    const minute = this.minuteOf(generator, Math.floor(second / MINUTE_S))
    const { values, told } = minute
    const place = second % MINUTE_S
    const at = place * COLUMNS
    values[at]! += users
    SIGNAL_ORDER.forEach((signal, i) => {
      values[at + 1 + i] = Math.max(values[at + 1 + i]!, inUnits(signal, health[signal]))
    })
    told[place] = 1
    minute.isNews = true
    this.newest = Math.max(this.newest, Math.floor(second / MINUTE_S))
  }

  /** Writes down what is new. Call within a transaction. */
  save(): void {
    for (const [generator, minutes = new Map<number, Minute>()] of this.held.entries())
      for (const [number, minute] of minutes) {
        if (minute.isNews) this.sql.put.run(generator, number, ...worstOf(minute), written(minute))
        minute.isNews = false
        if (number < this.newest - HELD_MINUTES) minutes.delete(number)
      }
  }

  /** What a generator told of run seconds `fromS` (inclusive) to `toS` (exclusive), in order. */
  * of(generator: number, fromS = 0, toS = Number.MAX_SAFE_INTEGER): Generator<WorkerSecond> {
    const held = this.held[generator] ?? new Map<number, Minute>()
    const [first, end] = [Math.floor(fromS / MINUTE_S), Math.ceil(toS / MINUTE_S)]
    const kept = new Map(this.sql.minutes.all(generator, first, end))
    const numbers = new Set([...kept.keys(), ...[...held.keys()].filter(n => n >= first && n < end)])
    for (const number of [...numbers].sort((a, b) => a - b))
      // It is one of the two: numbers are the keys of both.
      yield* secondsOf(number, held.get(number) ?? read(kept.get(number)!), fromS, toS)
  }

  /** Each generator at its worst of each minute from one (inclusive) to another (exclusive). */
  worst(firstMinute: number, endMinute: number): Map<number, WorstSignal[]> {
    const worst = new Map<number, WorstSignal[]>()
    const tell = (minute: number, told: WorstSignal) => {
      const of = worst.get(minute)
      if (of) of.push(told)
      else worst.set(minute, [told])
    }
    const within = (minute: number) => minute >= firstMinute && minute < endMinute
    for (const [generator, minute, ...told] of this.sql.worst.iterate(firstMinute, endMinute))
      if (!this.held[generator]?.has(minute)) tell(minute, [generator, ...told])
    for (const [generator, minutes = new Map<number, Minute>()] of this.held.entries())
      for (const [number, minute] of minutes) if (within(number)) tell(number, [generator, ...worstOf(minute)])
    return worst
  }

  /** Health of one generator by run second; holes where it told nothing. */
  healthOf(generator: number): readonly (Health | undefined)[] {
    const course: (Health | undefined)[] = []
    for (const { second, health } of this.of(generator)) course[second] = health
    return course
  }

  private minuteOf(generator: number, number: number): Minute {
    const minutes = (this.held[generator] ??= new Map())
    let minute = minutes.get(number)
    if (minute) return minute
    const kept = this.sql.minute.get(generator, number)
    minute = kept ? read(kept) : empty()
    minutes.set(number, minute)
    return minute
  }
}

function empty(): Minute {
  return { values: new Uint32Array(MINUTE_S * COLUMNS), told: new Uint8Array(MINUTE_S), isNews: false }
}

function inUnits(signal: keyof Health, value: number): number {
  return Math.max(0, Math.round(value * unitOf(signal)))
}

function worstOf(minute: Minute): [ratio: number, signal: number] {
  let worst: [number, number] = [0, 0]
  for (const { health } of secondsOf(0, minute, 0, MINUTE_S)) {
    const told = toldWorst(health)
    if (told[0] > worst[0]) worst = told
  }
  return worst
}

function* secondsOf(number: number, { values, told }: Minute, fromS: number, toS: number): Generator<WorkerSecond> {
  for (let place = 0; place < MINUTE_S; place++) {
    const second = number * MINUTE_S + place
    if (told[place] === 0 || second < fromS || second >= toS) continue
    const at = place * COLUMNS
    // Each signal is written below.
    const health = {} as Health
    SIGNAL_ORDER.forEach((signal, i) => {
      health[signal] = values[at + 1 + i]! / unitOf(signal)
    })
    yield { second, users: values[at]!, health }
  }
}

function written({ values, told }: Minute): Uint8Array {
  const to = new ByteWriter(1024)
  const places = [...told.keys()].filter(place => told[place] === 1)
  to.varint(places.length)
  for (const place of places) to.u8(place)
  for (let column = 0; column < COLUMNS; column++) {
    let before = 0
    for (const place of places) {
      const value = values[place * COLUMNS + column]!
      const difference = value - before
      to.varint(difference < 0 ? -2 * difference - 1 : 2 * difference)
      before = value
    }
  }
  return to.take()
}

function read(bytes: Uint8Array): Minute {
  const reader = new ByteReader(bytes)
  const minute = empty()
  const places = Array.from({ length: reader.varint() }, () => reader.u8())
  for (const place of places) minute.told[place] = 1
  for (let column = 0; column < COLUMNS; column++) {
    let value = 0
    for (const place of places) {
      const folded = reader.varint()
      value += folded % 2 === 1 ? -(folded + 1) / 2 : folded / 2
      minute.values[place * COLUMNS + column] = value
    }
  }
  return minute
}

function statements(store: Store) {
  return {
    minute: store
      .prepare<[number, number], Buffer>('SELECT told FROM machine_minutes WHERE generator = ? AND minute = ?')
      .pluck(),
    minutes: store
      .prepare<[number, number, number], [minute: number, told: Buffer]>(`
        SELECT minute, told
        FROM machine_minutes
        WHERE generator = ? AND minute >= ? AND minute < ?
      `)
      .raw(),
    put: store.prepare<[number, number, number, number, Uint8Array]>(`
      INSERT INTO machine_minutes (generator, minute, ratio, signal, told)
      VALUES (?, ?, ?, ?, ?)
      ON CONFLICT (generator, minute)
      DO UPDATE SET ratio = excluded.ratio, signal = excluded.signal, told = excluded.told
    `),
    worst: store
      .prepare<[number, number], [generator: number, minute: number, ratio: number, signal: number]>(
        'SELECT generator, minute, ratio, signal FROM machine_minutes WHERE minute >= ? AND minute < ?',
      )
      .raw(),
  }
}

/** What was read of a target's own figures beside one run, in a file of its own. */
import type { Statement } from 'better-sqlite3'
import type { CounterState, Point } from '../../core/target/readings'
import type { Value } from '../../core/target/recovery'
import { fromStore } from './from-store'
import { openTargetFile } from './open'
import { onlyRow } from './only-row'

/** How a source stands. Moments in ms since 1970. */
export interface SourceStanding {
  /** When it was last read, and how old the newest value was then, ms. */
  readAt?: number
  ageMs?: number
  /** By how much its clock is ahead of ours, and how far that may be off, ms; only where its answers carry a date. */
  offsetMs?: number
  offsetUncertaintyMs?: number
  /** Why it cannot be read, since it cannot. */
  trouble?: string
  readings: number
  failures: number
}

export interface StoredTargetLine {
  id: number
  series: string
  split: string
}

/** Lines of one series: a label may say anything. */
const MOST_LINES = 200

export class TargetFile {
  private readonly store
  private readonly lineIds = new Map<string, number>()
  private readonly insertPoint: Statement<[number, number, number]>
  private readonly selectValues: Statement<[number, number], [at: number, value: number]>

  constructor(path: string) {
    this.store = openTargetFile(path)
    // A reading that a power cut takes is one reading: the next comes in a second.
    this.store.pragma('synchronous = NORMAL')
    this.insertPoint = this.store.prepare('INSERT OR IGNORE INTO points (line, at, value) VALUES (?, ?, ?)')
    this.selectValues = this.store
      .prepare<[number, number], [at: number, value: number]>(
        'SELECT at, value FROM points WHERE line = ? AND at >= ? ORDER BY at',
      )
      .raw()
    for (const { id, series, split } of this.lines()) this.lineIds.set(`${series}\n${split}`, id)
  }

  /** Everything of one reading, or nothing. @param names of the source's series, in their order */
  add(
    source: string,
    names: readonly string[],
    points: readonly Point[],
    standing: SourceStanding,
    counters: CounterState,
  ): void {
    this.store.transaction(() => {
      for (const { series, split, atMs, value } of points) {
        const line = this.lineOf(names[series]!, split)
        if (line !== undefined) this.insertPoint.run(line, Math.round(atMs), value)
      }
      this.store
        .prepare('INSERT OR REPLACE INTO sources (name, standing, counters) VALUES (?, ?, ?)')
        .run(source, JSON.stringify(standing), JSON.stringify(counters))
    })()
  }

  /** undefined: the series has as many lines as it may have. */
  private lineOf(series: string, split: string): number | undefined {
    const key = `${series}\n${split}`
    const known = this.lineIds.get(key)
    if (known !== undefined) return known
    const { n } = onlyRow(
      this.store.prepare<[string], { n: number }>('SELECT COUNT(*) AS n FROM lines WHERE series = ?').get(series),
    )
    if (n >= MOST_LINES) return undefined
    const id = Number(
      this.store.prepare('INSERT INTO lines (series, split) VALUES (?, ?)').run(series, split).lastInsertRowid,
    )
    this.lineIds.set(key, id)
    return id
  }

  lines(): StoredTargetLine[] {
    return this.store.prepare<[], StoredTargetLine>('SELECT id, series, split FROM lines ORDER BY series, split').all()
  }

  /** In order of time. @param zeroMs what run time counts from, ms since 1970 @param fromMs left out: all */
  values(line: number, zeroMs: number, fromMs = Number.MIN_SAFE_INTEGER): Value[] {
    return this.selectValues
      .all(line, Math.floor(fromMs))
      .map(([at, value]) => ({ atS: (at - zeroMs) / 1000, value }))
  }

  standings(): Map<string, SourceStanding> {
    return new Map(
      this.store
        .prepare<[], { name: string, standing: string }>('SELECT name, standing FROM sources')
        .all()
        .map(({ name, standing }) => [name, fromStore<SourceStanding>(standing)]),
    )
  }

  countersOf(source: string): CounterState | undefined {
    const kept = this.store
      .prepare<[string], { counters: string }>('SELECT counters FROM sources WHERE name = ?')
      .get(source)
    return kept && fromStore<CounterState>(kept.counters)
  }

  /** What was read long before the load is of no use. */
  dropBefore(ms: number): void {
    this.store.prepare('DELETE FROM points WHERE at < ?').run(Math.round(ms))
  }

  close(): void {
    this.store.close()
  }
}

/** Passes kept whole, in a run's file: found by a moment they were under way at, by their group, by failures. */
import type { PassRecord } from '../../core/journey/pass-record'
import type { Store } from '../store/open'
import { fromStore } from '../store/from-store'
import { onlyRow } from '../store/only-row'

/** What is looked for. */
export interface PassesWanted {
  /** A run second: passes that were under way at its end. Left out: any. */
  atS?: number
  /** Letters of groups, numbers of generators; left out: all. */
  groups?: string[]
  generators?: number[]
  /** Only passes in which something failed. */
  failed?: boolean
  /** Time on exchanges, ms. */
  fromMs?: number
  toMs?: number
  most: number
}

export interface FoundPasses {
  /** Those longest on exchanges first. */
  passes: (PassRecord & { id: number, generator: number })[]
  /** How many there are that match. */
  total: number
  /** How many were kept in the whole run. */
  kept: number
}

/** Call within a transaction. */
export function keepPasses(store: Store, generator: number, passes: readonly PassRecord[]): void {
  const insert = store.prepare(`
    INSERT INTO passes (generator, group_name, failure, began_ms, ended_ms, busy_ms, record)
    VALUES (@generator, @group, @failure, @beganMs, @endedMs, @busyMs, @record)`)
  for (const p of passes)
    insert.run({
      generator,
      group: p.group,
      failure: p.failure ?? '',
      beganMs: p.beganAtMs,
      endedMs: p.endedAtMs,
      busyMs: p.busyMs,
      record: JSON.stringify(p),
    })
}

export function findPasses(
  store: Store,
  { atS, groups, generators, failed, fromMs, toMs, most }: PassesWanted,
): FoundPasses {
  const where = `
    WHERE (@atMs IS NULL OR (began_ms <= @atMs AND ended_ms >= @atMs))
      AND (@groups IS NULL OR group_name IN (SELECT value FROM json_each(@groups)))
      AND (@generators IS NULL OR generator IN (SELECT value FROM json_each(@generators)))
      AND (@failed = 0 OR failure <> '')
      AND (@fromMs IS NULL OR busy_ms >= @fromMs) AND (@toMs IS NULL OR busy_ms < @toMs)`
  const list = (of: readonly unknown[] | undefined) => (of ? JSON.stringify(of) : null)
  const given = {
    atMs: atS === undefined ? null : atS * 1000,
    groups: list(groups),
    generators: list(generators),
    failed: failed ? 1 : 0,
    fromMs: fromMs ?? null,
    toMs: toMs ?? null,
  }
  const count = (of: string, with_: object[]) =>
    onlyRow(store.prepare<unknown[], { n: number }>(`SELECT COUNT(*) AS n FROM passes ${of}`).get(...with_)).n
  const rows = store
    .prepare<unknown[], { id: number, generator: number, record: string }>(
      `SELECT id, generator, record FROM passes ${where} ORDER BY busy_ms DESC LIMIT @most`,
    )
    .all({ ...given, most })
  return {
    passes: rows.map(r => ({ ...fromStore<PassRecord>(r.record), id: r.id, generator: r.generator })),
    total: count(where, [given]),
    kept: count('', []),
  }
}

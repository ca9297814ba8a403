/** Exemplars in a run's file: kept beside the frames, found by step, latency band and failure. */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import type { Store } from '../store/open'
import { fromStore } from '../store/from-store'
import { keepPasses } from './passes'
import { onlyRow } from '../store/only-row'

/** What is looked for. Times in ms. */
export interface ExemplarsWanted {
  step?: string
  /** Journey whose step it is; two may have steps of one name. */
  journeyId?: string
  /** Only failures, or failures of one kind. */
  failure?: string
  /** Only right answers. */
  right?: boolean
  /** Numbers of generators. */
  generators?: number[]
  /** Letters of groups; number of a user, and of its pass. */
  groups?: string[]
  user?: number
  pass?: number
  /** Status of the answer. */
  status?: number
  fromMs?: number
  toMs?: number
  /** Run seconds in which they ended. */
  fromS?: number
  toS?: number
  /** Those of the rehearsal, whose moments are its own; left out: of the load. */
  rehearsal?: boolean
  /** The newest first; left out: the slowest first. */
  newest?: boolean
  most: number
}

export interface FoundExemplars {
  /** The slowest first, or the newest. */
  records: (ExchangeRecord & { id: number, generator: number })[]
  /** How many there are that match. */
  total: number
  /** Exemplars generators could not keep within their bound, in the whole run. */
  dropped: number
}

/** What a generator sends at once. */
export interface ExemplarBatch {
  incarnation: number
  batch: number
  records: readonly ExchangeRecord[]
  passes: readonly PassRecord[]
  dropped: number
}

/** Keeps a batch, once. Call within a transaction. */
export function keepExemplars(
  store: Store,
  generator: number,
  { incarnation, batch, records, passes, dropped }: ExemplarBatch,
): void {
  const first = store
    .prepare(`
      INSERT INTO exemplar_batches (generator, incarnation, batch, dropped)
      VALUES (?, ?, ?, ?)
      ON CONFLICT
      DO NOTHING
    `)
    .run(generator, incarnation, batch, dropped)
  if (first.changes === 0) return
  const insert = store.prepare(`
    INSERT INTO exemplars (generator, step, kept_for, failure, ended_ms, whole_ms, record)
    VALUES (@generator, @step, @keptFor, @failure, @endedMs, @wholeMs, @record)`)
  for (const r of records)
    insert.run({
      generator,
      step: r.step,
      keptFor: r.keptFor,
      failure: r.failure ?? '',
      endedMs: r.endedAtMs,
      wholeMs: r.timings.wholeMs,
      record: JSON.stringify(r),
    })
  keepPasses(store, generator, passes)
}

/** Whatever is not asked for counts all. */
const NOTHING_WANTED = {
  step: null,
  journeyId: null,
  failure: null,
  status: null,
  user: null,
  pass: null,
  fromMs: null,
  toMs: null,
  fromS: null,
  toS: null,
}

export function findExemplars(
  store: Store,
  { most, newest, right, rehearsal, generators, groups, ...wanted }: ExemplarsWanted,
): FoundExemplars {
  const where = `
    WHERE (kept_for = 'rehearsal') = @rehearsal
      AND (@step IS NULL OR step = @step)
      AND (@journeyId IS NULL OR json_extract(record, '$.journeyId') = @journeyId)
      AND (@failure IS NULL OR (failure <> '' AND (@failure = 'any' OR failure = @failure)))
      AND (@right = 0 OR failure = '')
      AND (@generators IS NULL OR generator IN (SELECT value FROM json_each(@generators)))
      AND (@groups IS NULL OR json_extract(record, '$.group') IN (SELECT value FROM json_each(@groups)))
      AND (@user IS NULL OR json_extract(record, '$.user') = @user)
      AND (@pass IS NULL OR json_extract(record, '$.pass') = @pass)
      AND (@status IS NULL OR json_extract(record, '$.answer.status') = @status)
      AND (@fromMs IS NULL OR whole_ms >= @fromMs) AND (@toMs IS NULL OR whole_ms < @toMs)
      AND (@fromS IS NULL OR ended_ms >= @fromS * 1000) AND (@toS IS NULL OR ended_ms < @toS * 1000)`
  const given = {
    ...NOTHING_WANTED,
    ...Object.fromEntries(Object.entries(wanted).filter(([, value]) => value !== undefined)),
    right: right ? 1 : 0,
    rehearsal: rehearsal ? 1 : 0,
    generators: generators ? JSON.stringify(generators) : null,
    groups: groups ? JSON.stringify(groups) : null,
  }
  // The newest are those that came last: by their numbers they are found without looking at all the others.
  const rows = store
    .prepare<unknown[], { id: number, generator: number, record: string }>(
      newest
        ? `SELECT * FROM (SELECT * FROM exemplars ${where} ORDER BY id DESC LIMIT @most) ORDER BY ended_ms DESC`
        : `SELECT id, generator, record FROM exemplars ${where} ORDER BY whole_ms DESC LIMIT @most`,
    )
    .all({ ...given, most })
  const total = onlyRow(store.prepare<unknown[], { n: number }>(`SELECT COUNT(*) AS n FROM exemplars ${where}`).get(given)).n
  const dropped =
    onlyRow(store.prepare<[], { n: number | null }>('SELECT SUM(dropped) AS n FROM exemplar_batches').get()).n ?? 0
  return {
    records: rows.map(r => ({ ...fromStore<ExchangeRecord>(r.record), id: r.id, generator: r.generator })),
    total,
    dropped,
  }
}

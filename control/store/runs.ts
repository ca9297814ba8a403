/** Runs and their changes in the store. */
import { upgradeJourney } from '../../core/journey/upgrade'
import type { RunDocument } from '../../core/run/document'
import { upgradePlan } from '../../core/plan/upgrade'
import { NOTHING_SAID, type RunAbout } from '../../core/run/about'
import type { Piece } from '../../core/run/assigned-load'
import type { RunChange, RunEnding, RunRemark, RunState } from '../../core/run/life'
import type { RunSummary } from '../../core/result/summary'
import type { UnloadedTime } from '../../core/result/unloaded'
import { isNoRoom } from './disk'
import type { Store } from './open'
import type { Opened } from './opened'
import { fromStore } from './from-store'
import { onlyRow } from './only-row'

export interface StoredRun {
  id: number
  planId: string
  state: RunState
  ending: RunEnding
  document: RunDocument
  createdAt: number
  /** Moment of run second 0, once it is fixed. */
  startAt: number | undefined
  endedAt: number | undefined
  summary: RunSummary | undefined
  rehearsed: boolean
  /** What its steps took in the rehearsal. */
  unloaded: UnloadedTime[]
  /** For good: nothing of it is given back. */
  kept: boolean
  /** When its exchanges, or everything but its answer, were given back, ms since 1970. */
  exchangesClearedAt: number | undefined
  clearedAt: number | undefined
  /** When its frames were folded: see core/run/folded. */
  foldedAt: number | undefined
  about: RunAbout
  /** Later runs of its plan are held against it. */
  isBaseline: boolean
  /** Another installation led it. */
  opened?: Opened
}

/** What a generator plays since somebody was lost. */
export interface Shifted {
  /** Pieces of others. */
  taken: Piece[]
  /** It has handed over whatever it bore, its own too. */
  isBare: boolean
}

/** A run that has ended, as far as it matters for how long it is kept. Moments: ms since 1970. */
export interface EndedRun extends Pick<
  StoredRun,
  'id' | 'kept' | 'exchangesClearedAt' | 'clearedAt' | 'foldedAt'
> {
  question: string
  isCalibration: boolean
  /** From the start of its load; 0: it had none. */
  tookMs: number
  endedAt: number
}

/** Remarks that are held while there is no room for them: more than that, and something else is wrong. */
const MOST_UNWRITTEN = 1000

/** A remark as it is inserted. */
interface Unwritten extends Omit<RunChange, 'about'> {
  id: number
  about: string | null
}

export type RunStore = ReturnType<typeof runStore>

/** @param onRemark told of each: those who watch a run learn of it at once */
// eslint-disable-next-line max-lines-per-function -- the statements of a table stand with what they are asked for
export function runStore(
  store: Store,
  onRemark: (runId: number) => void = () => {
    /* nobody watches */
  },
) {
  const columns = `id, plan_id, state, ending, document, created_at, start_at, ended_at, summary, rehearsed,
    kept, exchanges_cleared_at, cleared_at, folded_at, about, is_baseline, opened, unloaded`
  const insert = store.prepare(`
    INSERT INTO runs (plan_id, state, document, created_at)
    VALUES (@planId, @state, @document, @at)
  `)
  const byId = store.prepare<[number], RunRow>(`SELECT ${columns} FROM runs WHERE id = ?`)
  const latestFirst = store.prepare<[number], RunRow>(`SELECT ${columns} FROM runs ORDER BY id DESC LIMIT ?`)
  const ofPlansBefore = store.prepare<[number, number], RunRow>(`
    SELECT ${columns}
    FROM runs
    WHERE plan_id <> 'calibration' AND id < ?
    ORDER BY id DESC
    LIMIT ?
  `)
  const unended = store.prepare<[], RunRow>(`SELECT ${columns} FROM runs WHERE ended_at IS NULL ORDER BY id`)
  const ended = store.prepare<[], EndedRow>(`
    SELECT id, start_at, ended_at, kept, exchanges_cleared_at, cleared_at, folded_at,
      coalesce(nullif(document ->> '$.plan.question', ''), document ->> '$.plan.name') AS question,
      document -> '$.calibration' IS NOT NULL AS is_calibration
    FROM runs
    WHERE ended_at IS NOT NULL
    ORDER BY id DESC
  `)
  const count = store.prepare<[], { n: number }>('SELECT COUNT(*) AS n FROM runs WHERE plan_id <> \'calibration\'')
  const setState = store.prepare('UPDATE runs SET state = @to, ended_at = @endedAt WHERE id = @id')
  const setEnding = store.prepare('UPDATE runs SET ending = @ending WHERE id = @id')
  const setStart = store.prepare('UPDATE runs SET start_at = @startAt WHERE id = @id')
  const setSummary = store.prepare('UPDATE runs SET summary = @summary WHERE id = @id')
  const setDocument = store.prepare('UPDATE runs SET document = @document WHERE id = @id')
  const setRehearsed = store.prepare('UPDATE runs SET rehearsed = 1 WHERE id = ?')
  const setUnloaded = store.prepare('UPDATE runs SET unloaded = @unloaded WHERE id = @id')
  const setKept = store.prepare('UPDATE runs SET kept = @kept WHERE id = @id')
  const baselineOf = store.prepare<[string], { id: number }>('SELECT id FROM runs WHERE plan_id = ? AND is_baseline = 1')
  const noBaseline = store.prepare<[string]>('UPDATE runs SET is_baseline = 0 WHERE plan_id = ? AND is_baseline = 1')
  const setBaseline = store.prepare<[number]>('UPDATE runs SET is_baseline = 1, kept = 1 WHERE id = ?')
  const setOpened = store.prepare('UPDATE runs SET opened = @opened WHERE id = @id')
  const setAbout = store.prepare('UPDATE runs SET about = @about WHERE id = @id')
  const setCleared = {
    exchanges: store.prepare('UPDATE runs SET exchanges_cleared_at = @at WHERE id = @id'),
    everything: store.prepare('UPDATE runs SET cleared_at = @at WHERE id = @id'),
    frames: store.prepare('UPDATE runs SET folded_at = @at WHERE id = @id'),
  }
  const insertChange = store.prepare(`
    INSERT INTO run_changes (run_id, at, from_state, to_state, event, reason, about)
    VALUES (@id, @at, @from, @to, @event, @reason, @about)
  `)
  const changesOf = store.prepare<[number], ChangeRow>(`
    SELECT at, from_state, to_state, event, reason, about
    FROM run_changes
    WHERE run_id = ?
    ORDER BY id
  `)
  const setShifted = store.prepare(`
    INSERT OR REPLACE INTO take_overs (run_id, generator, is_bare, taken)
    VALUES (@runId, @generator, @isBare, @taken)
  `)
  const shiftedOf = store.prepare<[number], { generator: number, is_bare: number, taken: string }>(
    'SELECT generator, is_bare, taken FROM take_overs WHERE run_id = ?',
  )

  /** What was told while there was no room for it, the oldest first: written as soon as there is. */
  const unwritten: Unwritten[] = []
  function writeUnwritten(): void {
    while (unwritten[0]) {
      insertChange.run(unwritten[0])
      unwritten.shift()
    }
  }

  return {
    create(planId: string, document: RunDocument, at: number): number {
      return Number(
        insert.run({ planId, state: 'queued', document: JSON.stringify(document), at: Math.round(at) }).lastInsertRowid,
      )
    },
    run: (id: number) => {
      const row = byId.get(id)
      return row && storedRun(row)
    },
    latest: (most: number) => latestFirst.all(most).map(storedRun),
    /** Runs of plans, the latest first, all older than one. */
    ofPlansBefore: (id: number, most: number) => ofPlansBefore.all(id, most).map(storedRun),
    unended: () => unended.all().map(storedRun),
    /** The latest first. */
    ended: () => ended.all().map(endedRun),
    count: () => onlyRow(count.get()).n,
    change(id: number, change: RunChange, ended: boolean) {
      writeUnwritten()
      setState.run({ id, to: change.to, endedAt: ended ? Math.round(change.at) : null })
      insertChange.run({ id, about: null, ...change, at: Math.round(change.at) })
    },
    /** Something worth telling that changes no state. @param about name of the generator it is about */
    remark(id: number, state: RunState, event: RunRemark, reason: string, at: number, about?: string) {
      const said = { id, at: Math.round(at), from: state, to: state, event, reason, about: about ?? null }
      unwritten.push(said)
      try {
        writeUnwritten()
      }
      catch (error) {
        if (!isNoRoom(error) || unwritten.length > MOST_UNWRITTEN) {
          unwritten.pop()
          throw error
        }
      }
      onRemark(id)
    },
    changes: (id: number): RunChange[] => [
      ...changesOf
        .all(id)
        .map(c => ({
          at: c.at,
          from: c.from_state,
          to: c.to_state,
          event: c.event,
          reason: c.reason,
          ...(c.about === null ? {} : { about: c.about }),
        })),
      ...unwritten
        .filter(c => c.id === id)
        .map(({ id: _, about, ...change }) => ({ ...change, ...(about === null ? {} : { about }) })),
    ],
    setEnding: (id: number, ending: RunEnding) => {
      setEnding.run({ id, ending })
    },
    setStart: (id: number, startAt: number) => {
      setStart.run({ id, startAt })
    },
    setSummary: (id: number, summary: RunSummary) => {
      setSummary.run({ id, summary: JSON.stringify(summary) })
    },
    /** Where a run goes with fewer machines than it asked for; and as more comes up in what is told from elsewhere. */
    setDocument: (id: number, document: RunDocument) => {
      setDocument.run({ id, document: JSON.stringify(document) })
    },
    setKept: (id: number, kept: boolean) => {
      setKept.run({ id, kept: Number(kept) })
    },
    baselineOf: (planId: string) => baselineOf.get(planId)?.id,
    /** One of a plan at most; it is kept for good. @param id undefined: none any more */
    setBaseline: store.transaction((planId: string, id: number | undefined) => {
      noBaseline.run(planId)
      if (id !== undefined) setBaseline.run(id)
    }),
    setAbout: (id: number, about: RunAbout) => {
      setAbout.run({ id, about: JSON.stringify(about) })
    },
    setOpened: (id: number, opened: Opened) => {
      setOpened.run({ id, opened: JSON.stringify(opened) })
    },
    /** It ended elsewhere, long ago perhaps. */
    setEnded: (id: number, to: RunState, at: number) => {
      setState.run({ id, to, endedAt: Math.round(at) })
    },
    setCleared: (id: number, what: keyof typeof setCleared, at: number) => {
      setCleared[what].run({ id, at: Math.round(at) })
    },
    setRehearsed: (id: number) => {
      setRehearsed.run(id)
    },
    setUnloaded: (id: number, unloaded: readonly UnloadedTime[]) => {
      setUnloaded.run({ id, unloaded: JSON.stringify(unloaded) })
    },
    setShifted: (id: number, generator: number, { taken, isBare }: Shifted) => {
      setShifted.run({ runId: id, generator, isBare: Number(isBare), taken: JSON.stringify(taken) })
    },
    /** By number of the generator; those that are not there play what they were dealt. */
    shifted: (id: number) =>
      new Map(
        shiftedOf
          .all(id)
          .map(r => [
            r.generator,
            { taken: fromStore<Piece[]>(r.taken), isBare: r.is_bare === 1 } satisfies Shifted,
          ]),
      ),
    /** Everything in it is kept, or nothing. */
    together: (work: () => void) => {
      store.transaction(work)()
    },
  }
}

/** Runs of the first release measured requests alone, of journeys as they were written then. */
function upgradeRun(stored: RunDocument): RunDocument {
  const document = { ...stored, plan: upgradePlan(stored.plan) }
  if (document.journeys.every(j => j.schema === 'vornak-journey/1')) return document
  return { ...document, journeys: document.journeys.map(upgradeJourney), requestsOnly: true }
}

interface ChangeRow {
  at: number
  from_state: RunState
  to_state: RunState
  event: RunChange['event']
  reason: string
  about: string | null
}

interface RunRow {
  id: number
  plan_id: string
  state: RunState
  ending: RunEnding
  document: string
  created_at: number
  start_at: number | null
  ended_at: number | null
  summary: string | null
  rehearsed: number
  is_baseline: number
  kept: number
  exchanges_cleared_at: number | null
  cleared_at: number | null
  folded_at: number | null
  about: string
  opened: string | null
  unloaded: string
}

function storedRun(row: RunRow): StoredRun {
  return {
    id: row.id,
    planId: row.plan_id,
    state: row.state,
    ending: row.ending,
    document: upgradeRun(fromStore<RunDocument>(row.document)),
    createdAt: row.created_at,
    startAt: row.start_at ?? undefined,
    endedAt: row.ended_at ?? undefined,
    summary: row.summary === null ? undefined : fromStore<RunSummary>(row.summary),
    rehearsed: row.rehearsed === 1,
    unloaded: fromStore<UnloadedTime[]>(row.unloaded),
    kept: row.kept === 1,
    isBaseline: row.is_baseline === 1,
    exchangesClearedAt: row.exchanges_cleared_at ?? undefined,
    clearedAt: row.cleared_at ?? undefined,
    foldedAt: row.folded_at ?? undefined,
    ...(row.opened === null ? {} : { opened: fromStore<Opened>(row.opened) }),
    about: { ...NOTHING_SAID, ...fromStore<Partial<RunAbout>>(row.about) },
  }
}

interface EndedRow {
  id: number
  start_at: number | null
  ended_at: number
  kept: number
  exchanges_cleared_at: number | null
  cleared_at: number | null
  folded_at: number | null
  question: string
  is_calibration: number
}

const endedRun = (row: EndedRow): EndedRun => ({
  id: row.id,
  question: row.question,
  isCalibration: row.is_calibration === 1,
  endedAt: row.ended_at,
  kept: row.kept === 1,
  tookMs: row.start_at === null ? 0 : Math.max(0, row.ended_at - row.start_at),
  exchangesClearedAt: row.exchanges_cleared_at ?? undefined,
  clearedAt: row.cleared_at ?? undefined,
  foldedAt: row.folded_at ?? undefined,
})

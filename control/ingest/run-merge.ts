/**
 * Merges one run: takes frames as they come, keeps them, adds them up second by second, and answers for any window.
 * Runs in a worker thread; knows nothing of sockets or of time. A frame is safe (and acknowledged) once the flush that
 * holds it is committed.
 */
import { AccountBook, ledgerOf, type Account, type Ledger, type SavedBook } from '../../core/merge/ledger'
import { AFTER_END_S, ON_ITS_WAY_S, type SecondFigures, type WorstSignal } from '../../core/merge/second-figures'
import { sumIn, TIMINGS, type SeriesSum, type SumOf, type Timing } from '../../core/merge/series-sum'
import { isCounted, seriesOf, type Series } from '../../core/run/series'
import type { RunDocument } from '../../core/run/document'
import { runLengthMs } from '../../core/plan/length'
import { BytesError } from '../../core/histogram/varint'
import { worstOf } from '../../core/capacity/signals'
import type { WorkerSecond } from '../../core/run/machine-course'
import type { HealthByGenerator } from '../../core/soundness/health'
import { addEntries, openFrame, type EntryCounts, type FrameTop } from '../../protocol/frame'
import { LONGEST_CLAIMED_S } from '../../core/elsewhere/claimed-document'
import { JudgedSeries } from '../../core/objectives/judged-second'
import { openRunFile, type Store } from '../store/open'
import { KeptFrames, type KeptFrame } from './kept-frames'
import { MachineSeconds } from './machine-seconds'
import { MachineSums } from './machine-sums'
import { Pyramid } from './pyramid'
import { secondFigures, type AroundSecond, type OpenSecond } from './second-figures'
import { readSeconds, slowestSeconds } from './kept-seconds'
import { fromStore } from '../store/from-store'
import { messageOf } from '../../core/values/thrown'

/** A generator of the run; its number is its place in the list. */
export interface RunGenerator {
  /** Empty while it has no machine yet. */
  machineId: string
  name: string
  location: number
  /** Run second in which it joins; left out: it is there from the start. */
  joinsS?: number
}

/**
 * Frames of a worker are safe up to this number, without a gap: what is behind one that was lost is sent again with it.
 */
export interface Ack {
  generator: number
  incarnation: number
  worker: number
  upTo: number
}

/** What a flush committed. */
export interface Flushed {
  acks: Ack[]
  seconds: SecondFigures[]
}

/**
 * Seconds older than this behind the newest are written although somebody is still behind; what comes later is added to
 * them, s.
 */
const OPEN_SECONDS = 15
/** What could not be read is kept so far, bytes. */
const MOST_UNREADABLE_BYTES = 64 * 1024
/** The document of a run in which more comes up, by name of the fact. */
const GROWN_FACT = 'document'
/** What is known beside the frames, by name of the fact; and how often it is written down, s of the run. */
const SAVED_FACT = 'merged'
const SAVE_EVERY_S = 60

/** What is known of frames up to a chunk, so that they need not be read again: JSON. */
interface SavedState {
  chunk: number
  newest: number
  books: SavedBook[]
  workers: [key: string, of: Omit<HeardWorker, 'inFlight'> & { inFlight: number[] }][]
}

/** A worker as it was heard: its newest second, whether that was its last, and what objectives wait for of it. */
interface HeardWorker {
  generator: number
  second: number
  over: boolean
  inFlight: Float64Array
}

export class RunMerge {
  private readonly store: Store
  private readonly sql: ReturnType<typeof statements>
  private readonly pyramid: Pyramid
  private readonly machineSums: MachineSums
  private series: Series[]
  private judged: JudgedSeries
  private document: RunDocument
  /** Facts that are written down with the next flush. */
  private facts = new Map<string, string>()
  private readonly workers = new Map<string, HeardWorker>()

  private readonly books: AccountBook[]
  private readonly live: Set<number>
  /** Run second from which on a generator is known to be gone. */
  private readonly goneAt = new Map<number, number>()
  private readonly frames: KeptFrames
  private readonly machineSeconds: MachineSeconds
  private readonly open = new Map<number, OpenSecond>()
  /** Sums of frames for seconds that were written already. */
  private late = new Map<number, Map<number, SeriesSum>>()
  private pending: KeptFrame[] = []
  private unreadable: { generator: number, reason: string, bytes: Uint8Array }[] = []
  /** Workers whose frames were heard since the last flush. */
  private heard = new Map<string, Omit<Ack, 'upTo'>>()
  private readonly latest: number
  private newest = -1
  private writtenUpTo = -1
  /** Newest second when the state was written down. */
  private savedS = -1

  /** Opens the run's file; what an earlier process had committed is taken up again. */
  constructor(
    readonly path: string,
    document: RunDocument,
    readonly generators: readonly RunGenerator[],
  ) {
    this.store = openRunFile(path)
    this.sql = statements(this.store)
    // The document as its frames were filed, where more came up than the run began with.
    const written = document.claimed ? this.fact(GROWN_FACT) : undefined
    this.document = written === undefined ? document : fromStore<RunDocument>(written)
    document = this.document
    this.series = seriesOf(document)
    this.judged = new JudgedSeries(document, this.series)
    this.frames = new KeptFrames(this.store)
    this.machineSeconds = new MachineSeconds(this.store)
    this.live = new Set(generators.keys())
    this.latest = document.claimed ? LONGEST_CLAIMED_S : Math.ceil(runLengthMs(document) / 1000) + AFTER_END_S
    const fact = this.store.prepare<[], { value: string }>('SELECT value FROM facts WHERE name = \'mergedUpTo\'').get()
    this.writtenUpTo = fact ? Number(fact.value) : -1
    this.pyramid = new Pyramid(this.store, this.writtenUpTo)
    this.machineSums = new MachineSums(this.store)
    const saved = this.fact(SAVED_FACT)
    const before = saved === undefined ? undefined : fromStore<SavedState>(saved)
    this.books = generators.map((g, i) => new AccountBook(g.name, before?.books[i]))
    if (before) this.restore(before)
    this.replay(before?.chunk ?? -1)
  }

  /** Goes on with a document in which more came up: what was filed before keeps its number. */
  grow(document: RunDocument): void {
    this.document = document
    this.series = seriesOf(document)
    this.judged = new JudgedSeries(document, this.series)
    this.note(GROWN_FACT, JSON.stringify(document))
  }

  /** Writes a fact down, together with the frames that came before it. */
  note(name: string, value: string): void {
    this.facts.set(name, value)
  }

  /** A fact that was noted. */
  fact(name: string): string | undefined {
    return this.facts.get(name) ?? this.store.prepare<[string], { value: string }>('SELECT value FROM facts WHERE name = ?').get(name)?.value
  }

  /** As it is now, with all that came up. */
  get asItIs(): RunDocument {
    return this.document
  }

  /**
   * Takes a frame. It is counted at once and kept with the next {@link flush}.
   *
   * @param newest run second that no frame can be about yet; left out: only the plan's end bounds it
   * @returns why it could not be read; undefined: all is well
   */
  take(generator: number, bytes: Uint8Array, newest = this.latest): string | undefined {
    try {
      const second = this.count(generator, bytes, Math.min(newest, this.latest))
      if (second !== undefined) this.pending.push({ generator, second, bytes })
      return undefined
    }
    catch (error) {
      const reason = messageOf(error)
      this.unreadable.push({ generator, reason, bytes: bytes.subarray(0, MOST_UNREADABLE_BYTES) })
      return reason
    }
  }

  /** Adds a frame to its second and to the ledger. @returns its second; undefined when it was here before */
  private count(generator: number, bytes: Uint8Array, latest: number): number | undefined {
    const frame = openFrame(bytes)
    const { top } = frame
    if (top.second > latest) throw new BytesError(`frame: second ${top.second} lies beyond ${latest}`)
    if (top.sequence < 1) throw new BytesError('frame: its number is 0')
    const book = this.books[generator]
    if (!book) throw new Error(`generator ${generator} is not of this run`)
    this.heard.set(`${generator}/${top.incarnation}/${top.worker}`, {
      generator,
      incarnation: top.incarnation,
      worker: top.worker,
    })
    if (book.has(top)) {
      book.repeat()
      return undefined
    }
    // Made only once the frame is known to be whole.
    let sums: Map<number, SeriesSum> | undefined
    const counts: EntryCounts = []
    const inFrame = addEntries(
      frame,
      n =>
        sumIn(
          (sums ??= top.second <= this.writtenUpTo ? this.lateSums(top.second) : this.openSecond(top.second).sums),
          n,
        ),
      this.counted,
      counts,
      this.document.claimed !== undefined,
    )
    if (top.second > this.writtenUpTo) this.openSecond(top.second)
    else this.lateSums(top.second)
    book.take(top, inFrame)
    this.noteWorker(generator, top, counts)
    this.machineSeconds.note(generator, top)
    const open = this.open.get(top.second)
    if (open) this.notePresent(open, generator, top)
    this.newest = Math.max(this.newest, top.second)
    return top.second
  }

  /**
   * No more will come from this generator, or what comes is late. @param second from which on its users are known to be
   * gone
   */
  leave(generator: number, second = Number.POSITIVE_INFINITY): void {
    this.live.delete(generator)
    this.goneAt.set(generator, second)
  }

  private around(second: number, final: boolean): AroundSecond {
    const lost = new Float64Array(this.judged.objectives)
    for (const { second: heard, over, inFlight } of this.workers.values())
      if (!over && heard < second)
        inFlight.forEach((n, i) => {
          lost[i]! += n
        })
    return { final, judged: this.judged, unknownByLocation: this.unknownIn(second), lost }
  }

  /** Keeps what a worker has in hand, by the counts of its frames. */
  private noteWorker(generator: number, { incarnation, worker, second, last }: FrameTop, counts: EntryCounts): void {
    const key = `${generator}/${incarnation}/${worker}`
    let of = this.workers.get(key)
    if (!of)
      this.workers.set(
        key,
        (of = { generator, second, over: false, inFlight: new Float64Array(this.judged.objectives) }),
      )
    of.second = Math.max(of.second, second)
    of.over ||= last
    for (const [series, { started, right, failed, cut }] of counts)
      this.judged.addInFlight(of.inFlight, series, started, right + failed + cut)
  }

  /** Users per location of whom nobody knows whether they were there. */
  private unknownIn(second: number): number[] {
    const unknown = this.document.plan.locations.map(() => 0)
    for (const [g, { location }] of this.generators.entries()) {
      if (second < (this.goneAt.get(g) ?? Number.POSITIVE_INFINITY))
        unknown[location]! += this.books[g]!.unknownAt(second, this.newest, ON_ITS_WAY_S)
    }
    return unknown
  }

  /** Run second up to which nothing more is expected of anybody. */
  get finalS(): number {
    return this.coveredSecond + 1
  }

  /** Commits what has come since the last flush, in one transaction. @param isLast nothing more will come */
  flush(isLast = false): Flushed {
    const seconds: SecondFigures[] = []
    const covered = this.coveredSecond
    const writeUpTo = Math.max(covered, this.newest - OPEN_SECONDS)
    this.store.transaction(() => {
      for (const [name, value] of this.facts) this.sql.putFact.run({ name, value })
      this.frames.put(this.pending)
      for (const u of this.unreadable) this.sql.insertUnreadable.run(u)
      for (const [second, sums] of this.late) {
        this.pyramid.add(second, sums)
        this.machineSums.forget(second)
        seconds.push(this.rewriteSecond(second))
      }
      for (let second = this.writtenUpTo + 1; second <= writeUpTo; second++) {
        const open = this.open.get(second) ?? emptySecond()
        this.pyramid.write(second, open.sums)
        const figures = secondFigures(this.document, this.series, second, open, this.around(second, second <= covered))
        this.putSecond(figures)
        seconds.push(figures)
        this.open.delete(second)
        this.writtenUpTo = second
      }
      this.sql.putFact.run({ name: 'mergedUpTo', value: String(this.writtenUpTo) })
      if (isLast || this.newest >= this.savedS + SAVE_EVERY_S) this.save()
    })()
    seconds.push(...this.openFigures())
    const acks = [...this.heard.values()]
      .map((of): Ack => ({ ...of, upTo: this.books[of.generator]!.throughout(of) }))
      .filter(a => a.upTo > 0)
    this.facts = new Map()
    this.pending = []
    this.unreadable = []
    this.late = new Map()
    this.heard = new Map()
    return { acks, seconds }
  }

  /** Writes everything, up to the newest second. */
  settle(): Flushed {
    this.live.clear()
    return this.flush(true)
  }

  /** Whether a generator's last word is in, and everything before it. */
  finished(generator: number): boolean {
    return this.books[generator]!.finished
  }

  /** @param goneAtSecond per generator number, when it went without a last word */
  ledger(goneAtSecond: ReadonlyMap<number, number>): Ledger {
    const unreadable = this.store
      .prepare<[], { generator: number, n: number, reason: string }>(`
        SELECT generator, COUNT(*) AS n, MIN(reason) AS reason
        FROM unreadable
        GROUP BY generator
      `)
      .all()
    const accounts = this.books.map((book, g): Account => {
      const account = book.close(goneAtSecond.get(g))
      const bad = unreadable.find(u => u.generator === g)
      if (bad) account.frames.unreadable = bad.n
      // What came again whole is no contradiction: the account is complete without it.
      if (bad && !(book.finished && account.frames.absent === 0))
        account.contradictions.push(`${bad.n} ${bad.n === 1 ? 'frame' : 'frames'} could not be read (${bad.reason})`)
      return account
    })
    return ledgerOf(accounts)
  }

  /** Nothing was told of a later second, exclusive. */
  get endS(): number {
    return this.newest + 1
  }

  /** Only what is over is folded. */
  readonly isFolded = false

  /** Health of each generator by run second, one generator after the other. */
  get health(): HealthByGenerator {
    const { generators, machineSeconds } = this
    return {
      * [Symbol.iterator]() {
        for (const [g, { name }] of generators.entries()) yield [name, machineSeconds.healthOf(g)]
      },
    }
  }

  /** What one generator told of itself over run seconds `fromS` (inclusive) to `toS` (exclusive). */
  workerSeconds(generator: number, fromS?: number, toS?: number): Iterable<WorkerSecond> {
    return this.machineSeconds.of(generator, fromS, toS)
  }

  /**
   * Sums per series number over run seconds `fromS` (inclusive) to `toS` (exclusive), exact; of seconds that are still
   * coming in, what has come.
   */
  window(fromS: number, toS: number): Map<number, SeriesSum> {
    const sums = new Map<number, SeriesSum>()
    this.addWindow(fromS, toS, n => sumIn(sums, n))
    return sums
  }

  /** The same without histograms. */
  counts(fromS: number, toS: number): Map<number, SeriesSum> {
    const sums = new Map<number, SeriesSum>()
    this.addWindow(fromS, toS, n => sumIn(sums, n), [])
    return sums
  }

  /**
   * The same, each series into the sum it belongs to.
   *
   * @param into undefined: nowhere
   * @param timings histograms that are read
   */
  addWindow(fromS: number, toS: number, into: SumOf, timings: readonly Timing[] = TIMINGS): void {
    this.pyramid.addWindow(fromS, toS, into, timings)
    for (const [second, open] of this.open) {
      if (second < fromS || second >= toS) continue
      for (const [n, sum] of open.sums) into(n)?.add(sum, timings)
    }
  }

  /** The same of each machine apart; of frames that are not committed yet, nothing. */
  addMachines(fromS: number, toS: number, into: SumOf, seriesCount: number, timings?: readonly Timing[]): void {
    this.machineSums.addWindow(fromS, toS, into, seriesCount, timings)
  }

  /**
   * Figures of seconds `fromS` (inclusive) to `toS` (exclusive) in order, those that are still coming in among them.
   */
  seconds(fromS = 0, toS = Number.MAX_SAFE_INTEGER): SecondFigures[] {
    return [
      ...readSeconds(this.store, fromS, toS),
      ...this.openFigures().filter(({ second }) => second >= fromS && second < toS),
    ]
  }

  /**
   * Of each stretch of a given length the slowest second, in order; of seconds that are still coming in, what has come.
   */
  slowest(fromS: number, toS: number, stretchS: number): SecondFigures[] {
    const open = this.openFigures().filter(({ second }) => second >= fromS && second < toS)
    return [...slowestSeconds(this.store, fromS, toS, stretchS), ...open]
  }

  /** Each generator at its worst of each minute from one (inclusive) to another (exclusive). */
  worstOfMinutes(first: number, end: number): Map<number, WorstSignal[]> {
    return this.machineSeconds.worst(first, end)
  }

  /** Figures of seconds that frames are still being added to, in order. */
  private openFigures(): SecondFigures[] {
    return [...this.open]
      .sort((a, b) => a[0] - b[0])
      .map(([second, open]) => secondFigures(this.document, this.series, second, open, this.around(second, false)))
  }

  close(): void {
    this.store.close()
  }

  /** Seconds up to which nothing more is expected of anybody. Anyone who joins later is not waited for before. */
  private get coveredSecond(): number {
    const coveredBy = (g: number) =>
      this.books[g]!.coveredSecond < 0 ? (this.generators[g]!.joinsS ?? 0) - 1 : this.books[g]!.coveredSecond
    // A program that tells of it live tells of a second in several frames.
    const goesOn = this.document.claimed?.goesOn ? 1 : 0
    return Math.min(...[...this.live].map(coveredBy), this.newest) - goesOn
  }

  private openSecond(second: number): OpenSecond {
    let open = this.open.get(second)
    if (!open) this.open.set(second, (open = emptySecond()))
    return open
  }

  private lateSums(second: number): Map<number, SeriesSum> {
    let sums = this.late.get(second)
    if (!sums) this.late.set(second, (sums = new Map()))
    return sums
  }

  /** Makes the figures of a written second anew, from all its frames. */
  private rewriteSecond(second: number): SecondFigures {
    const open = emptySecond()
    this.frames.each(second, second + 1, (generator, bytes) => {
      const frame = openFrame(bytes)
      addEntries(frame, n => sumIn(open.sums, n), this.counted, undefined, this.document.claimed !== undefined)
      this.notePresent(open, generator, frame.top)
    })
    const covered = this.coveredSecond
    const figures = secondFigures(this.document, this.series, second, open, this.around(second, second <= covered))
    this.putSecond(figures)
    return figures
  }

  /** How generators were is kept for each of them alone: of many it is more than all else. */
  private putSecond({ generators: _, ...figures }: SecondFigures): void {
    const { second, final, all: [, , , p95] } = figures
    this.sql.putSecond.run({ second, final: final ? 1 : 0, p95: p95 ?? -1, figures: JSON.stringify(figures) })
  }

  /** Whether a series counts requests of its own; undefined: it is not of this run. */
  private readonly counted = (series: number): boolean | undefined => {
    const of = this.series[series]
    return of && isCounted(of)
  }

  /** Who was there in an open second, and how well: a generator is as well as its least well worker. */
  private notePresent(open: OpenSecond, generator: number, top: FrameTop): void {
    const { incarnation, worker, usersByGroup, health } = top
    open.users.set(`${generator}/${incarnation}/${worker}`, {
      location: this.generators[generator]!.location,
      byGroup: usersByGroup,
    })
    const before = open.health.get(generator)
    open.health.set(generator, before ? worstOf(before, health) : health)
  }

  /** Writes down what is known beside the frames, so that a merge that begins anew need not read them all. */
  private save(): void {
    this.machineSeconds.save()
    const state: SavedState = {
      chunk: this.frames.newest,
      newest: this.newest,
      books: this.books.map(book => book.saved()),
      workers: [...this.workers].map(([key, { inFlight, ...of }]) => [key, { ...of, inFlight: [...inFlight] }]),
    }
    this.sql.putFact.run({ name: SAVED_FACT, value: JSON.stringify(state) })
    this.savedS = this.newest
  }

  private restore({ newest, workers }: SavedState): void {
    this.newest = this.savedS = newest
    for (const [key, { inFlight, ...of }] of workers) {
      // More may have come up since that objectives are about; none goes.
      const whole = new Float64Array(this.judged.objectives)
      whole.set(inFlight.slice(0, whole.length))
      this.workers.set(key, { ...of, inFlight: whole })
    }
  }

  /**
   * After a restart: what came since the state was written down, and seconds that are not in the pyramid yet from all
   * their frames.
   *
   * @param saved chunk up to which the saved state knows; −1: it knows nothing
   */
  private replay(saved: number): void {
    this.frames.since(saved, this.writtenUpTo + 1, (generator, bytes, chunk) => {
      const frame = openFrame(bytes)
      const { top } = frame
      const open = top.second > this.writtenUpTo ? this.openSecond(top.second) : undefined
      const counts: EntryCounts = []
      const mayLackTimes = this.document.claimed !== undefined
      const inFrame = addEntries(frame, open && (n => sumIn(open.sums, n)), this.counted, counts, mayLackTimes)
      if (open) this.notePresent(open, generator, top)
      if (chunk <= saved) return
      this.books[generator]!.take(top, inFrame)
      this.noteWorker(generator, top, counts)
      this.machineSeconds.note(generator, top)
      this.newest = Math.max(this.newest, top.second)
    })
  }
}

function statements(store: Store) {
  return {
    insertUnreadable: store.prepare(`
      INSERT INTO unreadable (generator, reason, bytes)
      VALUES (@generator, @reason, @bytes)
    `),
    putSecond: store.prepare(`
      INSERT INTO seconds (second, final, figures, p95)
      VALUES (@second, @final, @figures, @p95)
      ON CONFLICT (second)
      DO UPDATE SET final = excluded.final, figures = excluded.figures, p95 = excluded.p95
    `),
    putFact: store.prepare(`
      INSERT INTO facts (name, value)
      VALUES (@name, @value)
      ON CONFLICT (name)
      DO UPDATE SET value = excluded.value
    `),
  }
}

function emptySecond(): OpenSecond {
  return { sums: new Map(), users: new Map(), health: new Map() }
}

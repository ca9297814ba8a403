/**
 * How long what was measured and uploaded stays. Answers, plans, journeys and the trail stay for good; seconds and
 * exchanges of runs, and uploads that nothing refers to any more, go after a time that is set, and their space is given
 * back. What generators of a long run sent is folded into its sums when it is over. A run that is marked stays whole.
 */
import { existsSync, rmSync } from 'node:fs'
import { Worker } from 'node:worker_threads'
import type { KeptView, KeepingRules } from '../../api/views'
import type { Cancel, Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { Cleared, Clearing } from '../ingest/clear-worker'
import type { FileRoom } from '../library/files'
import { bytesOnDisk, type Disk } from '../store/disk'
import type { InnerFaults } from '../store/faults'
import type { FactStore } from '../store/facts'
import { fromStore } from '../store/from-store'
import type { LibraryStore } from '../store/library'
import type { RunStore, StoredRun } from '../store/runs'
import { present } from '../../core/values/present'

export interface KeepingOptions {
  runs: RunStore
  library: LibraryStore
  files: FileRoom
  facts: FactStore
  disk: Pick<Disk, 'freeBytes'>
  faults: InnerFaults
  clock: Clock
  runFile: (runId: number) => string
  targetFile: (runId: number) => string
  /** File of the main database. */
  database: string
  /** File of the program that takes exchanges out. */
  program: string
  onChange: (runId: number) => void
}

const FACT = 'keeping'
/** As long as nobody says otherwise. */
const USUAL: KeepingRules = { foldHours: 2 }
const HOUR_MS = 3_600_000
const GIVING_BACK = 'What is due could not be given back'
const DAY_MS = 86_400_000
/** What is due is looked for this often, ms. */
const LOOK_MS = HOUR_MS

function keepingRules(facts: Pick<FactStore, 'get'>): KeepingRules {
  const kept = facts.get(FACT)
  return kept === undefined ? USUAL : fromStore<KeepingRules>(kept)
}

export class Keeping {
  private readonly ticker: Cancel
  private clearing: Promise<{ freedBytes: number }> | undefined
  /** One run after the other. */
  private folding: Promise<unknown> = Promise.resolve()

  constructor(private readonly options: KeepingOptions) {
    this.ticker = options.clock.every(LOOK_MS, () => {
      void this.clear().then(
        () => options.faults.settle(GIVING_BACK),
        (error: unknown) => options.faults.tell(GIVING_BACK, error),
      )
    })
  }

  get rules(): KeepingRules {
    return keepingRules(this.options.facts)
  }

  set rules(rules: KeepingRules) {
    this.options.facts.set(FACT, JSON.stringify(rules))
  }

  view(): KeptView {
    const { library, database, disk } = this.options
    const ended = this.options.runs.ended()
    const runs = ended.map(({ tookMs: _, ...run }) => ({ ...run, bytes: this.bytesOf(run.id) }))
    const due = this.due(ended)
    return {
      rules: this.rules,
      databaseBytes: bytesOnDisk(database),
      runsBytes: runs.reduce((sum, r) => sum + r.bytes, 0),
      uploadsBytes: library.files().reduce((sum, f) => sum + f.bytes, 0),
      freeBytes: disk.freeBytes,
      due: {
        runs: due.runs.length,
        exchanges: due.exchanges.length,
        frames: due.frames.length,
        uploads: due.uploads.length,
      },
      runs,
    }
  }

  /** @param kept for good @throws ControlError */
  keep(runId: number, kept: boolean): void {
    const { runs, onChange } = this.options
    if (!runs.run(runId)) throw notFound(`run ${runId}`)
    runs.setKept(runId, kept)
    onChange(runId)
  }

  /**
   * Folds the frames of a run that is over. It cannot be undone, and is done a while later: sums are made first.
   *
   * @throws ControlError
   */
  fold(runId: number): void {
    const { runs, runFile, faults } = this.options
    const run = runs.run(runId)
    if (!run) throw notFound(`run ${runId}`)
    holdKept(run)
    if (run.endedAt === undefined || run.foldedAt !== undefined || run.kept || !existsSync(runFile(runId)))
      throw new ControlError(
        'fold',
        409,
        run.endedAt === undefined
          ? `Run ${runId} is not over.`
          : run.kept
            ? `Run ${runId} is kept for good, as it is.`
            : `What the generators of run ${runId} sent is folded already.`,
        'Only runs that are over, and not kept for good, can be folded, once.',
      )
    this.folding = this.folding
      .then(() => this.clearFiles([runId], 'frames'))
      .then(
        () => faults.settle(GIVING_BACK),
        (error: unknown) => faults.tell(GIVING_BACK, error),
      )
  }

  /** Gives back what is due now; those who ask meanwhile get the same. */
  clear(): Promise<{ freedBytes: number }> {
    this.clearing ??= this.clearDue().finally(() => {
      this.clearing = undefined
    })
    return this.clearing
  }

  close(): void {
    this.ticker.cancel()
  }

  private bytesOf(runId: number): number {
    const { runFile, targetFile } = this.options
    return bytesOnDisk(runFile(runId)) + bytesOnDisk(targetFile(runId))
  }

  private async clearDue(): Promise<{ freedBytes: number }> {
    const { runs, library, files, clock, runFile, targetFile, onChange } = this.options
    const due = this.due()
    let freedBytes = 0
    for (const { id } of due.runs) {
      freedBytes += this.bytesOf(id)
      // First noted: what is half gone must not be read.
      runs.setCleared(id, 'everything', clock.now())
      for (const file of [runFile(id), targetFile(id)])
        for (const end of ['', '-wal', '-shm']) rmSync(`${file}${end}`, { force: true })
      onChange(id)
    }
    for (const { id, bytes } of due.uploads) {
      library.dropFile(id)
      rmSync(files.path(id), { force: true })
      freedBytes += bytes
    }
    freedBytes += await this.clearFiles(due.exchanges.map(r => r.id), 'exchanges')
    freedBytes += await this.clearFiles(due.frames.map(r => r.id), 'frames')
    return { freedBytes }
  }

  /** @returns bytes that were given back; files that could not be cleared are told of, and tried again */
  private async clearFiles(ids: readonly number[], what: Clearing): Promise<number> {
    const { runs, faults, clock, runFile, onChange } = this.options
    const paths = new Map(ids.map(id => [runFile(id), id]))
    let freedBytes = 0
    for (const [path, freed] of Object.entries(await this.cleared([...paths.keys()], what))) {
      const id = present(paths.get(path), 'a file that was asked about')
      const unread = what === 'exchanges'
        ? `Exchanges of run ${id} could not be given back`
        : `Frames of run ${id} could not be folded`
      if (typeof freed === 'string') {
        faults.tell(unread, freed)
        continue
      }
      faults.settle(unread)
      freedBytes += freed
      runs.setCleared(id, what, clock.now())
      onChange(id)
    }
    return freedBytes
  }

  private cleared(paths: string[], what: Clearing): Promise<Cleared> {
    if (paths.length === 0) return Promise.resolve({})
    const worker = new Worker(this.options.program, { workerData: { paths, what } })
    return new Promise((resolve, reject) => {
      worker.once('message', resolve)
      worker.once('error', reject)
      worker.once('exit', () => reject(new Error('it said nothing')))
    })
  }

  /** What the rules say may go now. */
  private due(ended = this.options.runs.ended()) {
    const { library, clock, runFile } = this.options
    const { runDays, exchangeDays, uploadDays, foldHours = Number.POSITIVE_INFINITY } = this.rules
    const before = (days: number | undefined) =>
      days === undefined ? Number.NEGATIVE_INFINITY : clock.now() - days * DAY_MS
    const open = ended.filter(r => !r.kept && r.clearedAt === undefined && existsSync(runFile(r.id)))
    const runs = open.filter(r => r.endedAt < before(runDays))
    return {
      runs,
      exchanges: open.filter(
        r => !runs.includes(r) && r.exchangesClearedAt === undefined && r.endedAt < before(exchangeDays),
      ),
      frames: open.filter(r => !runs.includes(r) && r.foldedAt === undefined && r.tookMs > foldHours * HOUR_MS),
      uploads: uploadDays === undefined ? [] : library.unusedFiles(before(uploadDays)),
    }
  }
}

/** @throws ControlError when what a run measured was given back */
export function holdKept({ id, clearedAt }: Pick<StoredRun, 'id' | 'clearedAt'>): void {
  if (clearedAt === undefined) return
  throw new ControlError(
    'given-back',
    410,
    `What run ${id} measured second by second was given back on ${new Date(clearedAt).toISOString().slice(0, 10)}. Its answer and its ledger stay.`,
    'Ask its question again, or bring back a backup from before. Mark runs as kept for good under What is kept.',
  )
}

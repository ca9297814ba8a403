/** Files of results that other programs measured: looked at, read as it is said, and made a run. */
import { existsSync, renameSync, rmSync } from 'node:fs'
import { Worker } from 'node:worker_threads'
import type { RunLine } from '../../api/views'
import type { Recognised } from '../../core/elsewhere/recognise'
import { planIdOf } from '../../core/elsewhere/claimed-document'
import type { ImportWish, ReadingTemplate, Scanned, WantedFile } from '../../core/elsewhere/results'
import type { Clock } from '../clock'
import { ControlError, notFound } from '../errors'
import type { FileRoom } from '../library/files'
import type { FactStore } from '../store/facts'
import { fromStore } from '../store/from-store'
import type { RunStore, StoredRun } from '../store/runs'
import type { JoinedWish } from './joined-run'
import type { MergedResults } from './merge-results'
import type { ResultFile } from './scan'
import type { ElsewhereTask, FromElsewhereWorker } from './worker'
import { NOTHING_SAID } from '../../core/run/about'

export interface ElsewhereOptions {
  /** Program of the worker. */
  program: string
  files: FileRoom
  facts: FactStore
  store: RunStore
  clock: Clock
  /** @throws ControlError when there is no room */
  hold: () => void
  runFile: (runId: number) => string
  targetFile: (runId: number) => string
  line: (runId: number) => RunLine
  /** A run that is whole. @throws ControlError */
  whole: (runId: number) => StoredRun
  /** How many rows of what is being read were seen. */
  onRows: (name: string, rows: number) => void
  onChange: (runId: number) => void
}

const TEMPLATES = 'resultTemplates'
const MOST_TEMPLATES = 100

export class Elsewhere {
  /** One at a time: each takes a core. */
  private queue: Promise<unknown> = Promise.resolve()

  constructor(private readonly options: ElsewhereOptions) {}

  /** What a file looks like. */
  recognise(file: string): Promise<Recognised> {
    return this.work<Recognised>({ kind: 'recognise', path: this.path(file) })
  }

  scan(files: readonly WantedFile[], mark?: string): Promise<Scanned> {
    return this.inTurn(() =>
      this.work<Scanned>({ kind: 'scan', wish: { files: this.found(files), ...(mark ? { mark } : {}) } }, files[0]?.name))
  }

  /** Makes a run of them. @throws ControlError in words that say what to do; nothing is kept then */
  import(wish: ImportWish): Promise<RunLine> {
    return this.inTurn(async () => {
      const { files, store, clock, hold, runFile, targetFile, line, onChange } = this.options
      hold()
      const [path, targetPath] = [files.scratch(), files.scratch()]
      try {
        const merged = await this.work<MergedResults>(
          {
            kind: 'merge',
            now: clock.now(),
            wish: {
              name: wish.name,
              files: this.found(wish.files),
              ...(wish.mark ? { mark: wish.mark } : {}),
              ...(wish.joins === undefined ? {} : { joined: this.joined(wish.joins) }),
              unnamedDoubles: wish.unnamedDoubles ?? 'keep',
              objectives: wish.objectives ?? [],
              path,
              targetPath,
            },
          },
          wish.name,
        )
        const { document, startAt, summary } = merged
        const at = clock.now()
        let id = 0
        store.together(() => {
          id = store.create(planIdOf(wish.name), document, at)
          store.remark(id, 'queued', 'created', saysFiles(merged, wish.joins), at)
          for (const sentence of remarksOf(merged)) store.remark(id, 'queued', 'setAside', sentence, at)
          store.setStart(id, startAt)
          store.setSummary(id, summary)
          if (wish.build) store.setAbout(id, { ...NOTHING_SAID, build: wish.build })
          store.change(id, { at, from: 'queued', to: 'settled', event: 'readIn', reason: summary.answer.sentence }, true)
          // Its number is known only now; where they cannot be moved, there is no run. The run's own comes last: one
          // that is not kept leaves none under a number that another gets.
          if (existsSync(targetPath)) renameSync(targetPath, targetFile(id))
          renameSync(path, runFile(id))
        })
        onChange(id)
        return line(id)
      }
      finally {
        for (const left of [path, targetPath]) for (const end of ['', '-wal', '-shm']) rmSync(left + end, { force: true })
      }
    })
  }

  templates(): ReadingTemplate[] {
    return fromStore<ReadingTemplate[]>(this.options.facts.get(TEMPLATES) ?? '[]')
  }

  /** Keeps a way of reading; one of that name is replaced. @throws ControlError */
  keepTemplate(template: ReadingTemplate): ReadingTemplate[] {
    const others = this.templates().filter(t => t.name !== template.name)
    if (others.length >= MOST_TEMPLATES)
      throw new ControlError('form', 400, `${MOST_TEMPLATES} templates are kept already.`, 'Remove one first.')
    const all = [...others, template].sort((a, b) => a.name.localeCompare(b.name, 'en'))
    this.options.facts.set(TEMPLATES, JSON.stringify(all))
    return all
  }

  /** @throws ControlError when there is none */
  removeTemplate(name: string): void {
    const all = this.templates()
    if (!all.some(t => t.name === name)) throw notFound(`template ${name}`)
    this.options.facts.set(TEMPLATES, JSON.stringify(all.filter(t => t.name !== name)))
  }

  /** @throws ControlError where nothing can join it */
  private joined(id: number): JoinedWish {
    const { document, startAt, summary } = this.options.whole(id)
    if (!summary || startAt === undefined || document.calibration)
      throw new ControlError('import', 409, `Run ${id} has no answer that something could be joined to.`, 'Choose a run that has settled.')
    return { id, path: this.options.runFile(id), document, startAt }
  }

  private found(files: readonly WantedFile[]): ResultFile[] {
    return files.map(f => ({ ...f, path: this.path(f.file) }))
  }

  private path(file: string): string {
    const { files } = this.options
    if (!files.has(file)) throw new ControlError('file', 404, 'The uploaded file is not here any more.', 'Upload it again.')
    return files.path(file)
  }

  private inTurn<T>(act: () => Promise<T>): Promise<T> {
    const turn = this.queue.then(act)
    this.queue = turn.catch(() => {
      /* the one who asked is told */
    })
    return turn
  }

  /** @param name of what rows are told of */
  private work<T>(task: ElsewhereTask, name?: string): Promise<T> {
    return new Promise((resolve, reject) => {
      const worker = new Worker(this.options.program, { workerData: task })
      worker.on('message', (message: FromElsewhereWorker) => {
        if (message.kind === 'rows') return name === undefined ? undefined : this.options.onRows(name, message.rows)
        // The worker answers each task with what its function returns.
        if (message.kind === 'done') return resolve(message.result as T)
        reject(new ControlError('import', 400, message.sentence, message.remedy ?? 'See what each column is taken for.'))
      })
      worker.once('error', reject)
      worker.once('exit', () => reject(new Error('what reads results ended without a word')))
    })
  }
}

function saysFiles({ files }: MergedResults, joins: number | undefined): string {
  const from = files.map(f => f.name).join(', ')
  return joins === undefined ? `measured elsewhere, from ${from}` : `run ${joins} with what was measured elsewhere, from ${from}`
}

/** What of the files is not in the result, or stands apart. */
function remarksOf({ files, doubles }: MergedResults): string[] {
  return [
    ...files.flatMap(f => (f.sameAs === undefined ? [] : [`${f.name} is the same file as ${f.sameAs}: it was left out.`])),
    ...files.flatMap(f =>
      f.faultCount === 0
        ? []
        : [`${f.faultCount} ${f.faultCount === 1 ? 'row' : 'rows'} of ${f.name} could not be read; line ${f.faults[0]!.line}: ${f.faults[0]!.sentence}.`]),
    ...files.flatMap(f =>
      f.averages === 0 ? [] : [`${f.averages} rows of ${f.name} are means of several requests: no percentile can be made of them. They stand apart, under Target.`]),
    ...files.flatMap(f => (f.withoutTime === 0 ? [] : [`${f.withoutTime} rows of ${f.name} do not say how long it took: they count, and have no time.`])),
    ...(doubles.named > 0 ? [`${doubles.named} rows stood in several files, with the same user: each was counted once.`] : []),
    ...(doubles.unnamed > 0 ? [`${doubles.unnamed} rows were equal in several files, and named no user.`] : []),
  ]
}

/**
 * All of a run in one file, and that file opened again: a tar archive, gzipped, of its documents as JSON and of what it
 * measured as it was written, byte for byte. It is packed and unpacked as it streams.
 */
import { createHash } from 'node:crypto'
import { createReadStream, existsSync, linkSync, mkdtempSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import Ajv from 'ajv'
import { create, extract } from 'tar'
import type { RunLine, RunView } from '../../api/views'
import { ENDED, type RunChange, type RunState } from '../../core/run/life'
import type { RunAbout } from '../../core/run/about'
import type { RunDocument } from '../../core/run/document'
import type { RunSummary } from '../../core/result/summary'
import type { UnloadedTime } from '../../core/result/unloaded'
import { RELEASE } from '../../protocol/version'
import type { Clock } from '../clock'
import { ControlError } from '../errors'
import type { FileRoom } from '../library/files'
import { holdKept } from '../run/keeping'
import type { Opened } from '../store/opened'
import { openRunFile, openTargetFile } from '../store/open'
import type { RunStore, StoredRun } from '../store/runs'
import { messageOf } from '../../core/values/thrown'
import { objectOf } from '../../core/values/untyped'

/** What stands first in the archive. */
interface Contents {
  kind: 'vornak-run'
  archive: 1
  release: string
  madeAt: number
  run: {
    number: number
    planId: string
    state: RunState
    createdAt: number
    startAt?: number
    endedAt: number
    /** When its frames were folded; left out: they are there. */
    foldedAt?: number
    rehearsed: boolean
    /** Of releases before it was kept, nothing. */
    unloaded?: UnloadedTime[]
    about: RunAbout
    changes: RunChange[]
  }
  opened: Opened
  /** SHA-256 of each other file. */
  files: Record<string, string>
}

const CONTENTS = 'archive.json'
const DOCUMENT = 'document.json'
const SUMMARY = 'summary.json'
const MEASURED = 'run.db'
const TARGET = 'target.db'
const NAMES = [CONTENTS, DOCUMENT, SUMMARY, MEASURED, TARGET]
/** Unpacked it is at most this, bytes. */
const MOST_BYTES = 64 * 1024 ** 3

const ajv = new Ajv({ strict: true, strictRequired: false, validateSchema: false })
const CONTENTS_SCHEMA = {
  type: 'object',
  required: ['kind', 'archive', 'run', 'opened', 'files'],
  properties: {
    kind: { const: 'vornak-run' },
    archive: { const: 1 },
    run: {
      type: 'object',
      required: ['number', 'planId', 'state', 'createdAt', 'endedAt', 'rehearsed', 'about', 'changes'],
      properties: {
        number: { type: 'integer' },
        planId: { type: 'string' },
        state: { enum: ENDED },
        createdAt: { type: 'number' },
        startAt: { type: 'number' },
        endedAt: { type: 'number' },
        foldedAt: { type: 'number' },
        rehearsed: { type: 'boolean' },
        unloaded: { type: 'array', items: { type: 'object', required: ['location', 'journeyId', 'step', 'ms'] } },
        about: { type: 'object' },
        changes: { type: 'array', items: { type: 'object', required: ['at', 'from', 'to', 'event', 'reason'] } },
      },
    },
    opened: { type: 'object', required: ['machines', 'generators', 'rollCall', 'cost'] },
    files: { type: 'object', required: [DOCUMENT, SUMMARY, MEASURED], additionalProperties: { type: 'string' } },
  },
}

export interface ArchivesOptions {
  store: RunStore
  clock: Clock
  files: FileRoom
  /** @throws ControlError when there is no room */
  hold: () => void
  runFile: (runId: number) => string
  targetFile: (runId: number) => string
  view: (runId: number) => RunView
  stored: (runId: number) => StoredRun
  onChange: (runId: number) => void
}

export class Archives {
  constructor(private readonly options: ArchivesOptions) {}

  /** @throws ControlError unless it has ended, with a result that is all there */
  async pack(runId: number): Promise<Readable> {
    const { clock, runFile, targetFile, view, stored } = this.options
    const run = stored(runId)
    holdKept(run)
    if (!ENDED.includes(run.state) || run.summary === undefined || run.exchangesClearedAt !== undefined)
      throw new ControlError(
        'archive',
        409,
        run.exchangesClearedAt === undefined ? `Run ${runId} has no result yet.` : `Exchanges of run ${runId} were given back.`,
        run.exchangesClearedAt === undefined ? 'Wait until it has settled.' : 'Only what is all there can be archived.',
      )
    const folder = mkdtempSync(join(dirname(runFile(runId)), 'archive-'))
    const leave = () => rmSync(folder, { recursive: true, force: true })
    try {
      writeFileSync(join(folder, DOCUMENT), JSON.stringify(run.document))
      writeFileSync(join(folder, SUMMARY), JSON.stringify(run.summary))
      openRunFile(runFile(runId)).close()
      linkSync(runFile(runId), join(folder, MEASURED))
      if (existsSync(targetFile(runId))) {
        openTargetFile(targetFile(runId)).close()
        linkSync(targetFile(runId), join(folder, TARGET))
      }
      const names = NAMES.filter(name => name !== CONTENTS && existsSync(join(folder, name)))
      const files: Record<string, string> = {}
      for (const name of names) files[name] = await hashOf(join(folder, name))
      const contents: Contents = {
        kind: 'vornak-run',
        archive: 1,
        release: RELEASE,
        madeAt: Math.round(clock.now()),
        run: whatIsKnown(run, view(runId)),
        opened: openedOf(view(runId)),
        files,
      }
      writeFileSync(join(folder, CONTENTS), JSON.stringify(contents))
      const packed = Readable.from(create({ gzip: true, cwd: folder, portable: true }, [CONTENTS, ...names]))
      return packed.on('close', leave)
    }
    catch (error) {
      leave()
      throw error
    }
  }

  /** Makes the run of an archive one of this installation. @throws ControlError; nothing is kept then */
  async open(file: string): Promise<RunLine> {
    const { files, store, hold, runFile, targetFile, view, onChange } = this.options
    hold()
    if (!files.has(file)) throw new ControlError('file', 404, 'The uploaded file is not here any more.', 'Upload it again.')
    const folder = mkdtempSync(join(dirname(runFile(0)), 'archive-'))
    try {
      await unpack(files.path(file), folder)
      const contents = readContents(folder)
      for (const [name, hash] of Object.entries(contents.files))
        if (!NAMES.includes(name) || !existsSync(join(folder, name)) || (await hashOf(join(folder, name))) !== hash)
          throw unread(`Its part “${name.slice(0, 40)}” is not as it was packed.`, 'Copy it again.')
      // The archive’s contents were held against their sums before.
      const parsed = <T>(name: string) => JSON.parse(readFileSync(join(folder, name), 'utf8')) as T
      // Also what an earlier release wrote is brought up to date; what a newer one wrote is refused.
      holdReadable(() => openRunFile(join(folder, MEASURED)).close())
      const { run, opened } = contents
      let id = 0
      store.together(() => {
        id = store.create(run.planId, parsed<RunDocument>(DOCUMENT), run.createdAt)
        for (const change of run.changes) store.change(id, change, false)
        store.setOpened(id, opened)
        store.setEnded(id, run.state, run.endedAt)
        if (run.startAt !== undefined) store.setStart(id, run.startAt)
        store.setSummary(id, parsed<RunSummary>(SUMMARY))
        store.setAbout(id, run.about)
        if (run.rehearsed) store.setRehearsed(id)
        if (run.unloaded) store.setUnloaded(id, run.unloaded)
        if (run.foldedAt !== undefined) store.setCleared(id, 'frames', run.foldedAt)
        // It ended long ago, perhaps: what is kept for some days only would go at once.
        store.setKept(id, true)
        holdShown(() => view(id))
        // Last: a run that is not kept leaves no file under a number that another gets.
        if (existsSync(join(folder, TARGET))) renameSync(join(folder, TARGET), targetFile(id))
        renameSync(join(folder, MEASURED), runFile(id))
      })
      onChange(id)
      return view(id).line
    }
    finally {
      rmSync(folder, { recursive: true, force: true })
    }
  }
}

function whatIsKnown(
  { id, planId, state, createdAt, startAt, endedAt, foldedAt, rehearsed, unloaded, about }: StoredRun,
  { changes }: RunView,
): Contents['run'] {
  return {
    number: id,
    planId,
    state,
    createdAt,
    ...(startAt === undefined ? {} : { startAt }),
    endedAt: endedAt ?? createdAt,
    ...(foldedAt === undefined ? {} : { foldedAt }),
    rehearsed,
    unloaded,
    about,
    changes,
  }
}

function openedOf({ line, machines, generators, rollCall, cost }: RunView): Opened {
  return { number: line.id, machines, generators, rollCall, cost }
}

async function unpack(path: string, folder: string): Promise<void> {
  let bytes = 0
  try {
    await pipeline(
      createReadStream(path),
      extract({
        cwd: folder,
        strict: true,
        filter: (name, entry) => {
          bytes += entry.size ?? 0
          return NAMES.includes(name) && 'type' in entry && entry.type === 'File' && bytes <= MOST_BYTES
        },
      // The package’s stream is one, with types of its own.
      }) as unknown as NodeJS.WritableStream,
    )
  }
  catch (error) {
    throw unread(`It cannot be unpacked: ${messageOf(error)}.`, 'Give the archive of a run, as it was downloaded.')
  }
}

/** @throws ControlError */
function readContents(folder: string): Contents {
  const path = join(folder, CONTENTS)
  if (!existsSync(path) || statSync(path).size > MOST_CONTENTS)
    throw unread('It is no archive of a run.', 'Download one from the files of a result.')
  let contents: unknown
  try {
    contents = JSON.parse(readFileSync(path, 'utf8'))
  }
  catch {
    throw unread('What it says of itself is no JSON.', 'Copy it again.')
  }
  if (ajv.compile<Contents>(CONTENTS_SCHEMA)(contents)) return contents
  const archive = objectOf(contents).archive
  throw typeof archive === 'number' && archive > 1
    ? unread('A newer release of Vornak has packed it.', 'Open it with that one.')
    : unread('It is no archive of a run.', 'Download one from the files of a result.')
}

const MOST_CONTENTS = 256 * 1024 * 1024

/** What cannot be shown would be in the way of every list it stands in. @throws ControlError */
function holdShown(show: () => RunView): void {
  try {
    show()
  }
  catch (error) {
    if (error instanceof ControlError) throw error
    throw unread('What it says of its run cannot be shown.', 'Give the archive of a run, as it was downloaded.')
  }
}

function holdReadable(open: () => void): void {
  try {
    open()
  }
  catch (error) {
    throw unread(`What it measured cannot be read: ${messageOf(error)}`, 'Open it with the release that packed it.')
  }
}

async function hashOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  await pipeline(createReadStream(path), hash)
  return hash.digest('hex')
}

const unread = (sentence: string, remedy: string) => new ControlError('archive', 400, sentence, remedy)

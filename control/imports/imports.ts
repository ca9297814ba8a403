/**
 * The coordinator's side of the import worker: whatever comes from elsewhere is read there, so that the coordinator's
 * own loop stays free. One thing at a time, each within its time: a text that takes longer ends the worker, and nobody
 * else's import.
 */
import { statSync } from 'node:fs'
import { Worker } from 'node:worker_threads'
import type { ReadJourney } from '../../core/formats/journey-text'
import type { HarChoices, HarReview } from '../../core/formats/har-to-journey'
import type { OpenApiReview } from '../../core/formats/openapi'
import type { ReadPlan } from '../../core/formats/plan-text'
import type { Host } from '../../core/fleet/site'
import type { Feed } from '../../core/journey/feed'
import type { HttpJourney } from '../../core/journey/journey'
import type { Target } from '../../core/journey/target'
import { ControlError } from '../errors'
import type { Library } from '../library/library'
import type { FeedReading, ReadFeed } from './read-feed'
import { codeOf } from '../../core/values/thrown'

export type ToImportWorker = { id: number } & (
  | { kind: 'feed', from: string, to: string, reading: FeedReading }
  | { kind: 'reviewHar', path: string, choices?: HarChoices }
  | { kind: 'convertHar', path: string, choices: HarChoices }
  | { kind: 'reviewOpenApi', path: string }
  | { kind: 'convertOpenApi', path: string, ids: string[] }
  | { kind: 'journeyText', text: string }
  | { kind: 'planText', text: string }
  | { kind: 'hosts', text: string }
  | { kind: 'urls', text: string }
)

type Wish = ToImportWorker extends infer T ? (T extends { id: number } ? Omit<T, 'id'> : never) : never

export type FromImportWorker =
  | { kind: 'answer', id: number, result: unknown }
  | { kind: 'trouble', id: number, sentence: string, remedy: string | undefined }

export interface ReviewedHar {
  review: HarReview
  choices: HarChoices
}
/** `secrets`: credentials of the capture, by the names under which they belong to the target. */
export interface Converted {
  journey: HttpJourney
  baseUrl: string
  hosts: string[]
  remarks: string[]
  secrets: Record<string, string>
}

/** Time to read anything, ms. */
const MOST_MS = 10_000
const FEED_BYTES_PER_MS = 5000
/** Largest journey an import may make, characters: the editor saves no larger one. */
const MOST_JOURNEY = 1_900_000

interface Asked {
  message: ToImportWorker
  mostMs: number
  resolve: (result: unknown) => void
  reject: (error: Error) => void
}

export class Imports {
  private worker: Worker | undefined
  private readonly waiting: Asked[] = []
  private current: (Asked & { timer: NodeJS.Timeout }) | undefined
  private nextId = 1
  private stopped = false

  /**
   * @param program file of the worker; it is started with the first import
   * @param mostMs time to read anything; a table of rows has as much more as its size asks for
   */
  constructor(
    private readonly program: string,
    private readonly library: Library,
    private readonly mostMs = MOST_MS,
  ) {}

  /** Reads an uploaded CSV into a feed and keeps it. @throws ControlError that says what is wrong with the file */
  async feed(source: string, name: string, reading: FeedReading): Promise<Feed> {
    const { files } = this.library
    const to = files.scratch()
    const from = this.uploaded(source)
    const { rowsFile, ...read } = await this.ask<ReadFeed>(
      { kind: 'feed', from, to, reading },
      this.mostMs + statSync(from).size / FEED_BYTES_PER_MS,
    )
    files.adopt(to, rowsFile, `${name}: rows`)
    const feed: Feed = {
      id: this.library.freeId(name, id => this.library.feed(id) !== undefined),
      name,
      source,
      rowsFile,
      ...read,
    }
    this.library.saveFeed(feed)
    return feed
  }

  reviewHar(file: string, choices?: HarChoices): Promise<ReviewedHar> {
    return this.ask({ kind: 'reviewHar', path: this.uploaded(file), ...(choices ? { choices } : {}) })
  }

  async convertHar(file: string, choices: HarChoices): Promise<Converted> {
    return notTooLarge(
      await this.ask<Converted>({ kind: 'convertHar', path: this.uploaded(file), choices }),
      'Keep fewer hosts, or leave files out.',
    )
  }

  reviewOpenApi(file: string): Promise<OpenApiReview> {
    return this.ask({ kind: 'reviewOpenApi', path: this.uploaded(file) })
  }

  async convertOpenApi(file: string, ids: string[]): Promise<Converted> {
    return notTooLarge(
      await this.ask<Converted>({ kind: 'convertOpenApi', path: this.uploaded(file), ids }),
      'Choose fewer operations.',
    )
  }

  /** A journey file; faults come with their lines. */
  journeyText(text: string): Promise<ReadJourney> {
    return this.ask({ kind: 'journeyText', text })
  }

  /** A plan file; faults come with their lines. */
  planText(text: string): Promise<ReadPlan> {
    return this.ask({ kind: 'planText', text })
  }

  /** A table of hosts. */
  hosts(text: string): Promise<Host[]> {
    return this.ask({ kind: 'hosts', text })
  }

  /** Pasted addresses. */
  urls(text: string): Promise<{ journey: HttpJourney, target: Target }> {
    return this.ask({ kind: 'urls', text })
  }

  async stop(): Promise<void> {
    this.stopped = true
    clearTimeout(this.current?.timer)
    await this.worker?.terminate()
  }

  private uploaded(file: string): string {
    if (!this.library.files.has(file))
      throw new ControlError('file', 404, 'The uploaded file is not here any more.', 'Upload it again.')
    return this.library.files.path(file)
  }

  private async ask<T>(wish: Wish, mostMs = this.mostMs): Promise<T> {
    // A wish with a number is a message; the compiler does not put unions together.
    const message = { ...wish, id: this.nextId++ } as ToImportWorker
    return new Promise<T>((resolve, reject) => {
      // The worker answers a wish with what its function returns.
      this.waiting.push({ message, mostMs, resolve: resolve as (result: unknown) => void, reject })
      this.next()
    })
  }

  private next(): void {
    if (this.current || this.stopped) return
    const asked = this.waiting.shift()
    if (!asked) return
    const worker = (this.worker ??= this.start())
    this.current = { ...asked, timer: setTimeout(() => this.giveUp(), asked.mostMs) }
    worker.ref()
    worker.postMessage(asked.message)
  }

  /** It takes too long. There is no other way to end what computes. */
  private giveUp(): void {
    if (!this.current) return
    const { reject, mostMs } = this.current
    void this.worker?.terminate()
    this.end(() =>
      reject(
        new ControlError(
          'import',
          400,
          `It could not be read within ${Math.round(mostMs / 1000)} s.`,
          'Give a smaller or simpler one.',
        ),
      ),
    )
  }

  /** The worker is gone: another is started for the next call. */
  private end(tell: () => void): void {
    this.worker = undefined
    this.over(tell)
  }

  private over(tell: () => void): void {
    clearTimeout(this.current?.timer)
    this.current = undefined
    this.worker?.unref()
    tell()
    this.next()
  }

  private start(): Worker {
    // A file that is too much for its memory must not take the process along.
    const worker = new Worker(this.program, { resourceLimits: { maxOldGenerationSizeMb: 2048, stackSizeMb: 16 } })
    worker.on('message', (message: FromImportWorker) => {
      const { current } = this
      if (current?.message.id !== message.id) return
      this.over(() => {
        if (message.kind === 'answer') current.resolve(message.result)
        else
          current.reject(
            message.remedy === undefined
              ? new Error(message.sentence)
              : new ControlError('import', 400, message.sentence, message.remedy),
          )
      })
    })
    worker.on('error', (error) => {
      if (this.worker !== worker) return
      const { current } = this
      const tooLarge = codeOf(error) === 'ERR_WORKER_OUT_OF_MEMORY'
      this.end(() =>
        current?.reject(
          new ControlError(
            'import',
            tooLarge ? 413 : 500,
            tooLarge ? 'The file needs more memory than an import may take.' : `The import ended: ${error.message}.`,
            tooLarge ? 'Capture or upload less at once.' : 'Report it with the file.',
          ),
        ),
      )
    })
    worker.unref()
    return worker
  }
}

function notTooLarge(converted: Converted, remedy: string): Converted {
  const size = JSON.stringify(converted.journey).length
  if (size > MOST_JOURNEY)
    throw new ControlError(
      'import',
      413,
      `The journey would have ${(size / 1e6).toFixed(1)} MB; at most ${(MOST_JOURNEY / 1e6).toFixed(1)} MB are kept.`,
      remedy,
    )
  return converted
}

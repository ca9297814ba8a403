/** The coordinator's side of the import worker: big files are read there, so that the coordinator's own loop stays free. */
import { Worker } from 'node:worker_threads'
import type { HarChoices, HarReview } from '../../core/formats/har-to-journey'
import type { Feed } from '../../core/journey/feed'
import type { HttpJourney } from '../../core/journey/journey'
import { ControlError } from '../errors'
import type { Library } from '../library/library'
import type { FeedReading, ReadFeed } from './read-feed'

export type ToImportWorker =
  | { kind: 'feed', id: number, from: string, to: string, reading: FeedReading }
  | { kind: 'reviewHar', id: number, path: string, choices?: HarChoices }
  | { kind: 'convertHar', id: number, path: string, choices: HarChoices }

export type FromImportWorker =
  | { kind: 'answer', id: number, result: unknown }
  | { kind: 'trouble', id: number, sentence: string, remedy: string | undefined }

export interface ReviewedHar { review: HarReview, choices: HarChoices }
export interface ConvertedHar { journey: HttpJourney, baseUrl: string, hosts: string[], remarks: string[] }

export class Imports {
  private worker: Worker | undefined
  private readonly answers = new Map<number, { resolve: (result: unknown) => void, reject: (error: Error) => void }>()
  private nextId = 1

  /** @param program file of the worker; it is started with the first import */
  constructor(private readonly program: string, private readonly library: Library) {}

  /** Reads an uploaded CSV into a feed and keeps it. @throws ControlError that says what is wrong with the file */
  async feed(source: string, name: string, reading: FeedReading): Promise<Feed> {
    const { files } = this.library
    const to = files.scratch()
    const { rowsFile, ...read } = await this.ask(id => ({ kind: 'feed', id, from: this.uploaded(source), to, reading })) as ReadFeed
    files.adopt(to, rowsFile, `${name}: rows`)
    const feed: Feed = { id: this.library.freeId(name, id => this.library.feed(id) !== undefined), name, source, rowsFile, ...read }
    this.library.saveFeed(feed)
    return feed
  }

  reviewHar(file: string, choices?: HarChoices): Promise<ReviewedHar> {
    return this.ask(id => ({ kind: 'reviewHar', id, path: this.uploaded(file), ...(choices ? { choices } : {}) })) as Promise<ReviewedHar>
  }

  convertHar(file: string, choices: HarChoices): Promise<ConvertedHar> {
    return this.ask(id => ({ kind: 'convertHar', id, path: this.uploaded(file), choices })) as Promise<ConvertedHar>
  }

  async stop(): Promise<void> {
    await this.worker?.terminate()
  }

  private uploaded(file: string): string {
    if (!this.library.files.has(file)) throw new ControlError('file', 404, 'The uploaded file is not here any more.', 'Upload it again.')
    return this.library.files.path(file)
  }

  private async ask(message: (id: number) => ToImportWorker): Promise<unknown> {
    const id = this.nextId++
    const asked = message(id)
    const worker = this.worker ??= this.start()
    return new Promise((resolve, reject) => {
      this.answers.set(id, { resolve, reject })
      worker.postMessage(asked)
    })
  }

  private start(): Worker {
    // A file that is too much for its memory must not take the process along.
    const worker = new Worker(this.program, { resourceLimits: { maxOldGenerationSizeMb: 2048 } })
    worker.on('message', (message: FromImportWorker) => {
      const waiting = this.answers.get(message.id)
      this.answers.delete(message.id)
      if (message.kind === 'answer') waiting?.resolve(message.result)
      else waiting?.reject(message.remedy === undefined ? new Error(message.sentence) : new ControlError('import', 400, message.sentence, message.remedy))
    })
    worker.on('error', (error) => {
      this.worker = undefined
      const tooLarge = (error as { code?: string }).code === 'ERR_WORKER_OUT_OF_MEMORY'
      for (const { reject } of this.answers.values()) reject(new ControlError('import', tooLarge ? 413 : 500, tooLarge ? 'The file needs more memory than an import may take.' : `The import ended: ${error.message}.`, tooLarge ? 'Capture or upload less at once.' : 'Report it with the file.'))
      this.answers.clear()
    })
    worker.unref()
    return worker
  }
}

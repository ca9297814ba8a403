/**
 * The coordinator's side of the merge worker: frames in, acknowledgements and figures out. Keeps the coordinator's own
 * loop free.
 */
import { Worker } from 'node:worker_threads'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { RunDocument } from '../../core/run/document'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { FailureReport } from '../../core/result/failures'
import type { Slices, SliceWish } from '../../core/result/slices'
import type { RunFacts, RunSummary } from '../../core/result/summary'
import type { RunGenerator, Ack } from './run-merge'
import type { ExemplarsWanted, FoundExemplars } from './exemplars'
import type { Leftover } from './leftovers'
import type { WindowFigures } from './run-reader'

export type ToMergeWorker =
  | { kind: 'open', runId: number, path: string, document: RunDocument, generators: RunGenerator[] }
  /** `newest`: run second that no frame can be about yet. */
  | { kind: 'frame', runId: number, generator: number, bytes: Uint8Array, newest: number }
  | {
    kind: 'exemplars'
    runId: number
    path: string
    generator: number
    incarnation: number
    batch: number
    records: ExchangeRecord[]
    dropped: number
  }
  | {
    kind: 'leftover'
    runId: number
    path: string
    generator: number
    group: string
    name: string
    content: Uint8Array
  }
  | { kind: 'leftovers', id: number, path: string }
  | { kind: 'readLeftover', id: number, path: string, generator: number, group: string, name: string }
  | { kind: 'leave', runId: number, generator: number, second: number }
  | { kind: 'settle', id: number, runId: number, facts: RunFacts }
  | {
    kind: 'window'
    id: number
    path: string
    document: RunDocument
    fromS: number
    toS: number
    pathMs: Record<string, number>
  }
  | { kind: 'slices', id: number, path: string, document: RunDocument, fromS: number, toS: number, wish: SliceWish }
  | {
    kind: 'failures'
    id: number
    path: string
    document: RunDocument
    fromS: number
    toS: number
    only: SliceWish['only']
  }
  | { kind: 'findExemplars', id: number, path: string, wanted: ExemplarsWanted }
  | { kind: 'seconds', id: number, path: string, fromS: number, toS: number }
  | { kind: 'histogramLog', id: number, path: string, document: RunDocument, startAt: number }

export type FromMergeWorker =
  | { kind: 'flushed', runId: number, acks: Ack[], seconds: SecondFigures[], finished: number[] }
  | { kind: 'exemplarsKept', runId: number, generator: number, incarnation: number, batch: number }
  /** Something of a generator could not be read and is set aside; `frame`: it is wanted again. */
  | { kind: 'aside', runId: number, generator: number, what: 'frame' | 'exemplars' | 'other', sentence: string }
  /** A run's merge could not go on: it has to be opened again, from what its file holds. */
  | { kind: 'broken', runId: number, sentence: string }
  | { kind: 'answer', id: number, result: unknown }
  | { kind: 'trouble', id: number, sentence: string }

export interface IngestListener {
  onAck(runId: number, ack: Ack): void
  /** A batch of exemplars is safe. */
  onExemplars(runId: number, generator: number, incarnation: number, batch: number): void
  onSeconds(runId: number, seconds: SecondFigures[]): void
  /** Generators whose last word, and everything before it, is safe. */
  onFinished(runId: number, generators: number[]): void
  /** Something could not be read: it is set aside, and everything else goes on. */
  onAside(runId: number, generator: number, what: 'frame' | 'exemplars' | 'other', sentence: string): void
  /**
   * Merging has to begin again from what the files hold; of one run, or (left out) of all. What was not acknowledged
   * must be sent again.
   */
  onBroken(sentence: string, runId?: number): void
}

/** A worker that ends more often than this in the life of a process will not live. */
const MOST_RESTARTS = 20

export class Ingest {
  private worker: Worker
  private stopped = false
  private restarts = 0
  private readonly answers = new Map<number, { resolve: (result: unknown) => void, reject: (error: Error) => void }>()
  private nextId = 1
  listener: IngestListener | undefined

  /**
   * @param program file of the worker
   * @param onGivenUp it ended again and again
   */
  constructor(
    private readonly program: string,
    private readonly onGivenUp: (error: Error) => void,
  ) {
    this.worker = this.started()
  }

  private started(): Worker {
    const worker = new Worker(this.program)
    let why = 'it said nothing'
    worker.on('message', (message: FromMergeWorker) => this.take(message))
    worker.on('error', (error) => {
      why = error.message
    })
    worker.on('exit', () => {
      if (!this.stopped) this.startAgain(why)
    })
    return worker
  }

  /** Who waits for an answer is told; runs that were under way are opened again by the conductor. */
  private startAgain(why: string): void {
    const sentence = `The merge worker has ended (${why}) and was started anew.`
    for (const { reject } of this.answers.values()) reject(new Error(sentence))
    this.answers.clear()
    if (++this.restarts > MOST_RESTARTS)
      return this.onGivenUp(new Error(`The merge worker has ended ${this.restarts} times: ${why}`))
    this.worker = this.started()
    this.listener?.onBroken(sentence)
  }

  /** Begins, or takes up again, the merging of a run. */
  open(runId: number, path: string, document: RunDocument, generators: RunGenerator[]): void {
    this.tell({ kind: 'open', runId, path, document, generators })
  }

  /** @param newest run second that no frame can be about yet */
  frame(runId: number, generator: number, bytes: Uint8Array, newest: number): void {
    // A copy of exactly these bytes is handed over: sockets pool their buffers.
    const own = new Uint8Array(bytes)
    this.worker.postMessage({ kind: 'frame', runId, generator, bytes: own, newest } satisfies ToMergeWorker, [
      own.buffer as ArrayBuffer,
    ])
  }

  exemplars(
    runId: number,
    path: string,
    generator: number,
    {
      incarnation,
      batch,
      records,
      dropped,
    }: { incarnation: number, batch: number, records: ExchangeRecord[], dropped: number },
  ): void {
    this.tell({ kind: 'exemplars', runId, path, generator, incarnation, batch, records, dropped })
  }

  findExemplars(path: string, wanted: ExemplarsWanted): Promise<FoundExemplars> {
    return this.ask(id => ({ kind: 'findExemplars', id, path, wanted })) as Promise<FoundExemplars>
  }

  /** Keeps what a command left on its generator. */
  leftover(runId: number, path: string, generator: number, group: string, name: string, content: Uint8Array): void {
    this.tell({ kind: 'leftover', runId, path, generator, group, name, content })
  }

  leftovers(path: string): Promise<Leftover[]> {
    return this.ask(id => ({ kind: 'leftovers', id, path })) as Promise<Leftover[]>
  }

  readLeftover(path: string, generator: number, group: string, name: string): Promise<Uint8Array | undefined> {
    return this.ask(id => ({ kind: 'readLeftover', id, path, generator, group, name })) as Promise<
      Uint8Array | undefined
    >
  }

  /** @param second of the run from which on its users are known to be gone */
  leave(runId: number, generator: number, second: number): void {
    this.tell({ kind: 'leave', runId, generator, second })
  }

  settle(runId: number, facts: RunFacts): Promise<RunSummary> {
    return this.ask(id => ({ kind: 'settle', id, runId, facts })) as Promise<RunSummary>
  }

  window(
    path: string,
    document: RunDocument,
    fromS: number,
    toS: number,
    pathMs: Record<string, number>,
  ): Promise<WindowFigures> {
    return this.ask(id => ({ kind: 'window', id, path, document, fromS, toS, pathMs })) as Promise<WindowFigures>
  }

  slices(path: string, document: RunDocument, fromS: number, toS: number, wish: SliceWish): Promise<Slices> {
    return this.ask(id => ({ kind: 'slices', id, path, document, fromS, toS, wish })) as Promise<Slices>
  }

  failures(
    path: string,
    document: RunDocument,
    fromS: number,
    toS: number,
    only: SliceWish['only'],
  ): Promise<FailureReport> {
    return this.ask(id => ({ kind: 'failures', id, path, document, fromS, toS, only })) as Promise<FailureReport>
  }

  seconds(path: string, fromS = 0, toS = Number.MAX_SAFE_INTEGER): Promise<SecondFigures[]> {
    return this.ask(id => ({ kind: 'seconds', id, path, fromS, toS })) as Promise<SecondFigures[]>
  }

  histogramLog(path: string, document: RunDocument, startAt: number): Promise<string> {
    return this.ask(id => ({ kind: 'histogramLog', id, path, document, startAt })) as Promise<string>
  }

  async stop(): Promise<void> {
    this.stopped = true
    await this.worker.terminate()
  }

  private tell(message: ToMergeWorker): void {
    this.worker.postMessage(message)
  }

  private ask(message: (id: number) => ToMergeWorker): Promise<unknown> {
    const id = this.nextId++
    return new Promise((resolve, reject) => {
      this.answers.set(id, { resolve, reject })
      this.tell(message(id))
    })
  }

  private take(message: FromMergeWorker): void {
    if (message.kind === 'flushed') {
      for (const ack of message.acks) this.listener?.onAck(message.runId, ack)
      if (message.seconds.length > 0) this.listener?.onSeconds(message.runId, message.seconds)
      if (message.finished.length > 0) this.listener?.onFinished(message.runId, message.finished)
      return
    }
    if (message.kind === 'exemplarsKept')
      return this.listener?.onExemplars(message.runId, message.generator, message.incarnation, message.batch)
    if (message.kind === 'aside')
      return this.listener?.onAside(message.runId, message.generator, message.what, message.sentence)
    if (message.kind === 'broken') return this.listener?.onBroken(message.sentence, message.runId)
    const waiting = this.answers.get(message.id)
    this.answers.delete(message.id)
    if (message.kind === 'answer') waiting?.resolve(message.result)
    else waiting?.reject(new Error(message.sentence))
  }
}

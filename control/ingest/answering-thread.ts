/** A thread that runs the merge worker's program: it is told things, asked things, and started anew when it ends. */
import { Worker } from 'node:worker_threads'
import type { FromMergeWorker, MergeQuestions, ToMergeWorker } from './worker-messages'

/** What it says of its own accord. */
export type ToldByWorker = Exclude<FromMergeWorker, { kind: 'answer' | 'trouble' }>

/** A thread that ends more often than this in the life of a process will not live. */
const MOST_RESTARTS = 20
/** One that does not come to rest is ended after this, ms. */
const MOST_REST_MS = 2000

export class AnsweringThread {
  private worker: Worker
  private stopped = false
  private restarts = 0
  private readonly answers = new Map<number, { resolve: (result: unknown) => void, reject: (error: Error) => void }>()
  private nextId = 1

  /**
   * @param program file of the worker
   * @param name in what is said of it
   * @param onTold what it says of its own accord
   * @param onStartedAnew it has ended: what it was told is forgotten
   * @param onGivenUp it ended again and again
   */
  constructor(
    private readonly program: string,
    private readonly name: string,
    private readonly onTold: (message: ToldByWorker) => void,
    private readonly onStartedAnew: (sentence: string) => void,
    private readonly onGivenUp: (error: Error) => void,
  ) {
    this.worker = this.started()
  }

  tell(message: ToMergeWorker, transfer: ArrayBuffer[] = []): void {
    this.worker.postMessage(message, transfer)
  }

  ask<K extends keyof MergeQuestions>(kind: K, asks: MergeQuestions[K]['asks']): Promise<MergeQuestions[K]['answer']> {
    const id = this.nextId++
    return new Promise((resolve, reject) => {
      // The worker's handlers are held to the same table; what came through a message has no type of its own.
      this.answers.set(id, { resolve: answer => resolve(answer as MergeQuestions[K]['answer']), reject })
      // A question with its kind and number is a message; the compiler does not put unions together.
      this.tell({ ...asks, kind, id } as ToMergeWorker)
    })
  }

  async stop(): Promise<void> {
    this.stopped = true
    let timer: NodeJS.Timeout | undefined
    const isBusy = new Promise((resolve) => {
      timer = setTimeout(resolve, MOST_REST_MS)
    })
    // Node 20 ends with a thread whose code is just being compiled: it comes to rest before it is ended.
    await Promise.race([this.ask('rest', {}).catch(() => undefined), isBusy])
    clearTimeout(timer)
    await this.worker.terminate()
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

  /** Those who wait for an answer are told. */
  private startAgain(why: string): void {
    const sentence = `The ${this.name} worker has ended (${why}) and was started anew.`
    for (const { reject } of this.answers.values()) reject(new Error(sentence))
    this.answers.clear()
    if (++this.restarts > MOST_RESTARTS)
      return this.onGivenUp(new Error(`The ${this.name} worker has ended ${this.restarts} times: ${why}`))
    this.worker = this.started()
    this.onStartedAnew(sentence)
  }

  private take(message: FromMergeWorker): void {
    if (message.kind !== 'answer' && message.kind !== 'trouble') return this.onTold(message)
    const waiting = this.answers.get(message.id)
    this.answers.delete(message.id)
    if (message.kind === 'answer') waiting?.resolve(message.result)
    else waiting?.reject(new Error(message.sentence))
  }
}

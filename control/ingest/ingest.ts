/**
 * The coordinator's side of the merge worker: frames in, acknowledgements and figures out. Keeps the coordinator's own
 * loop free.
 */
import type { TakenLines } from '../../core/elsewhere/results'
import type { Spread } from '../../core/compare/spread'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { SecondRows } from '../../core/formats/seconds-table'
import type { RunDocument } from '../../core/run/document'
import type { MachineCourse, MachineRecord } from '../../core/run/machine-course'
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import type { FailureReport } from '../../core/result/failures'
import type { Bins, Course } from '../../core/result/course'
import type { Distribution } from '../../core/result/distribution'
import type { BrokenStretch } from '../../core/result/stretches'
import { asksMachines, type SliceOver, type Slices, type SliceWish } from '../../core/result/slices'
import type { StaffWish } from '../../core/result/staff'
import type { RunFacts, RunSummary } from '../../core/result/summary'
import type { OurCount } from '../../core/result/three-way'
import { AnsweringThread, type ToldByWorker } from './answering-thread'
import type { RunGenerator, Ack } from './run-merge'
import type { ExemplarsWanted, FoundExemplars } from './exemplars'
import type { Leftover } from './leftovers'
import type { MeasuresWanted } from './measures'
import type { FoundPasses, PassesWanted } from './passes'
import type { WindowFigures } from './run-reader'
import type { ToldLines } from './told-live'
import type { SecondsWish } from './told-seconds'
import type { AskedRun } from './worker-messages'

export interface IngestListener {
  onAck(runId: number, ack: Ack): void
  /** A batch of exemplars is safe. */
  onExemplars(runId: number, generator: number, incarnation: number, batch: number): void
  onSeconds(runId: number, seconds: SecondFigures[]): void
  /** Where objectives were broken so far, up to a run second. */
  onBrokenSoFar(runId: number, stretches: BrokenStretch[], untilS: number): void
  /** More came up in what is told from elsewhere: its document as it is now. */
  onGrown(runId: number, document: RunDocument): void
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

export class Ingest {
  private readonly merging: AnsweringThread
  private reading: AnsweringThread | undefined
  /** Files of runs that are being merged, by run. */
  private readonly openFiles = new Map<number, string>()
  listener: IngestListener | undefined

  /**
   * @param program file of the worker
   * @param onGivenUp it ended again and again
   */
  constructor(
    private readonly program: string,
    private readonly onGivenUp: (error: Error) => void,
  ) {
    // Runs that were under way are opened again by the conductor.
    this.merging = new AnsweringThread(
      program,
      'merge',
      message => this.take(message),
      sentence => this.listener?.onBroken(sentence),
      onGivenUp,
    )
  }

  /** Begins, or takes up again, the merging of a run. */
  open(runId: number, path: string, document: RunDocument, generators: RunGenerator[]): void {
    this.openFiles.set(runId, path)
    this.merging.tell({ kind: 'open', runId, path, document, generators })
  }

  /** @param newest run second that no frame can be about yet */
  frame(runId: number, generator: number, bytes: Uint8Array, newest: number): void {
    // A copy of exactly these bytes is handed over: sockets pool their buffers.
    const own = new Uint8Array(bytes)
    // It was just made here, and is not shared.
    this.merging.tell({ kind: 'frame', runId, generator, bytes: own, newest }, [own.buffer as ArrayBuffer])
  }

  /** Lines that a program elsewhere tells of a run that is being merged; answered once they are safe. */
  told(runId: number, lines: ToldLines): Promise<TakenLines> {
    const { bytes } = lines
    const own = new Uint8Array(bytes)
    return this.merging.ask('told', { runId, lines: { ...lines, bytes: own } })
  }

  exemplars(
    runId: number,
    path: string,
    generator: number,
    {
      incarnation,
      batch,
      records,
      passes,
      dropped,
    }: { incarnation: number, batch: number, records: ExchangeRecord[], passes: PassRecord[], dropped: number },
  ): void {
    this.merging.tell({ kind: 'exemplars', runId, path, generator, incarnation, batch, records, passes, dropped })
  }

  findPasses(path: string, wanted: PassesWanted): Promise<FoundPasses> {
    return this.about(path).ask('findPasses', { path, wanted })
  }

  findExemplars(path: string, wanted: ExemplarsWanted): Promise<FoundExemplars> {
    return this.about(path).ask('findExemplars', { path, wanted })
  }

  /** Keeps what a command left on its generator. */
  leftover(runId: number, path: string, generator: number, group: string, name: string, content: Uint8Array): void {
    this.merging.tell({ kind: 'leftover', runId, path, generator, group, name, content })
  }

  leftovers(path: string): Promise<Leftover[]> {
    return this.about(path).ask('leftovers', { path })
  }

  readLeftover(path: string, generator: number, group: string, name: string): Promise<Uint8Array | undefined> {
    return this.about(path).ask('readLeftover', { path, generator, group, name })
  }

  /** @param second of the run from which on its users are known to be gone */
  leave(runId: number, generator: number, second: number): void {
    this.merging.tell({ kind: 'leave', runId, generator, second })
  }

  settle(runId: number, facts: RunFacts): Promise<RunSummary> {
    return this.merging
      .ask('settle', { runId, facts })
      .then((summary) => {
        const path = this.openFiles.get(runId)
        this.openFiles.delete(runId)
        if (path) this.sumMachines(path)
        return summary
      })
  }

  window(
    path: string,
    document: RunDocument,
    fromS: number,
    toS: number,
    pathMs: Record<string, number>,
  ): Promise<WindowFigures> {
    return this.about(path).ask('window', { path, document, fromS, toS, pathMs })
  }

  slices(run: AskedRun, fromS: number, toS: number, wish: SliceWish): Promise<Slices> {
    const answer = this.about(run.path).ask('slices', { ...run, fromS, toS, wish })
    if (asksMachines(wish)) this.sumMachines(run.path)
    return answer
  }

  /** Slices of each second of a window by itself. */
  everySecond(run: AskedRun, fromS: number, toS: number, wish: SliceWish): Promise<SecondRows[]> {
    return this.about(run.path).ask('everySecond', { ...run, fromS, toS, wish })
  }

  distributions(run: AskedRun, of: readonly SliceOver[], limitsMs: readonly number[]): Promise<Distribution[]> {
    return this.about(run.path).ask('distributions', { ...run, of, limitsMs })
  }

  courses(run: AskedRun, staffs: readonly StaffWish[], bins: Bins): Promise<Course[]> {
    return this.about(run.path).ask('courses', { ...run, staffs, bins })
  }

  failures(run: AskedRun, fromS: number, toS: number, only: SliceWish['only']): Promise<FailureReport> {
    return this.about(run.path).ask('failures', { ...run, fromS, toS, only })
  }

  /** Rows of a comparison, as this run has them. */
  measures(run: AskedRun, wanted: MeasuresWanted): Promise<Spread[]> {
    return this.about(run.path).ask('measures', { ...run, wanted })
  }

  /** Requests of the whole run, by the name they carry. */
  requestCounts(run: AskedRun): Promise<Record<string, OurCount>> {
    return this.about(run.path).ask('requestCounts', run)
  }

  /** @param generators how many the run has */
  machineRecords(path: string, generators: number): Promise<MachineRecord[]> {
    return this.about(path).ask('machineRecords', { path, generators })
  }

  machineCourse(path: string, generator: number, fromS: number, toS: number): Promise<MachineCourse> {
    return this.about(path).ask('machineCourse', { path, generator, fromS, toS })
  }

  /** @param machines how many generators it has; 0: none whose signals are known */
  seconds(path: string, wish: SecondsWish, machines: number): Promise<SecondFigures[]> {
    return this.about(path).ask('seconds', { path, wish, machines })
  }

  histogramLog(path: string, document: RunDocument, startAt: number): Promise<string> {
    return this.about(path).ask('histogramLog', { path, document, startAt })
  }

  async stop(): Promise<void> {
    await Promise.all([this.merging.stop(), this.reading?.stop()])
  }

  /** Where the run is over, after what is asked: also of earlier releases, and what a process did not come to. */
  private sumMachines(path: string): void {
    const thread = this.about(path)
    if (thread !== this.merging) thread.tell({ kind: 'sumMachines', path })
  }

  /**
   * What answers for a file: the thread that merges it, or else one of its own, so that no frame waits for a question.
   */
  private about(path: string): AnsweringThread {
    if ([...this.openFiles.values()].includes(path)) return this.merging
    return (this.reading ??= new AnsweringThread(
      this.program,
      'reading',
      message => this.take(message),
      () => {
        /* those who waited were told, and nothing was under way */
      },
      this.onGivenUp,
    ))
  }

  private take(message: ToldByWorker): void {
    if (message.kind === 'flushed') {
      for (const ack of message.acks) this.listener?.onAck(message.runId, ack)
      if (message.seconds.length > 0) this.listener?.onSeconds(message.runId, message.seconds)
      if (message.finished.length > 0) this.listener?.onFinished(message.runId, message.finished)
      return
    }
    if (message.kind === 'grown') return this.listener?.onGrown(message.runId, message.document)
    if (message.kind === 'exemplarsKept')
      return this.listener?.onExemplars(message.runId, message.generator, message.incarnation, message.batch)
    if (message.kind === 'brokenSoFar')
      return this.listener?.onBrokenSoFar(message.runId, message.stretches, message.untilS)
    if (message.kind === 'aside')
      return this.listener?.onAside(message.runId, message.generator, message.what, message.sentence)
    this.listener?.onBroken(message.sentence, message.runId)
  }
}

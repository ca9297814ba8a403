/**
 * Carries what generators bring to where it is kept, and the word that it is safe back to them. It leads nothing: a run
 * goes on whatever comes in here.
 */
import type { RunDocument } from '../../core/run/document'
import { MessageError, type FromGenerator } from '../../protocol/messages'
import type { Ack } from '../ingest/run-merge'
import { mayHave, partOf } from '../library/trial'
import type { Connection } from '../link/generator-hub'
import { AHEAD_S, generatorsOf, runOfMachine, runSecond, startMerging, type ActiveRun, type PhaseTools } from './active-run'

/**
 * A generator's link is closed for a frame that cannot be read so often in a run, and no sooner again than this, ms:
 * one that is wrong by itself would come for ever.
 */
const MOST_CLOSED_FOR_FRAMES = 3
const CLOSED_FOR_FRAMES_MS = 10_000

const ASIDE_WORDS = {
  frame: 'a frame could not be read',
  exemplars: 'exemplars could not be read',
  other: 'something could not be taken',
} as const

/** Of one file that a command left. */
const MOST_BROUGHT_BYTES = 64 * 1024 * 1024

export class Intake {
  constructor(
    private readonly active: ReadonlyMap<number, ActiveRun>,
    private readonly tools: PhaseTools,
  ) {}

  /** Files that are wanted, and whatever is to be kept beside the frames. Any other message is left alone. */
  take(run: ActiveRun, connection: Connection, message: FromGenerator): void {
    if (message.kind === 'want') this.send(connection, run.document, message)
    if (message.kind === 'exemplars') this.keepExemplars(run, connection, message)
    if (message.kind === 'commandLog')
      this.keepLeftover(run, connection, message.group, 'standard error.log', Buffer.from(message.text))
    if (message.kind === 'broughtBack') this.takeBack(run, connection, message)
  }

  /** Sends a part of a file the run needs; any other is not there. */
  private send(connection: Connection, document: RunDocument, message: Extract<FromGenerator, { kind: 'want' }>): void {
    const { library } = this.tools
    if (mayHave(library, document, message.file)) connection.say(partOf(library, message))
  }

  private keepExemplars(
    run: ActiveRun,
    connection: Connection,
    message: Extract<FromGenerator, { kind: 'exemplars' }>,
  ): void {
    const generator = this.numberOf(run, connection.machineId)
    if (generator >= 0) this.tools.ingest.exemplars(run.id, this.tools.runFile(run.id), generator, message)
  }

  /**
   * After a restart a generator may be back before its run has been looked at: what it brings must find its place.
   * @returns −1: it is not of this run
   */
  private numberOf(run: ActiveRun, machineId: string): number {
    if (run.stored.startAt !== undefined) startMerging(run, this.tools)
    return this.crewOf(run).findIndex(g => g.machineId === machineId)
  }

  /** In the order of their numbers. Those who rehearse are numbered before anything is merged. */
  private crewOf(run: ActiveRun): readonly { machineId: string }[] {
    return run.generators.length > 0 ? run.generators : generatorsOf(run.document, this.tools.machines.ofRun(run.id))
  }

  private takeBack(
    run: ActiveRun,
    connection: Connection,
    { group, name, from, base64, last }: Extract<FromGenerator, { kind: 'broughtBack' }>,
  ): void {
    const key = `${connection.machineId}/${group}/${name}`
    const parts = from === 0 ? [] : (run.comingBack.get(key) ?? [])
    const have = parts.reduce((sum, p) => sum + p.length, 0)
    const part = Buffer.from(base64, 'base64')
    const fault
      = from !== have
        ? `part of “${name}” from byte ${from}, where byte ${have} was to come`
        : have + part.length > MOST_BROUGHT_BYTES
          ? `“${name}” is larger than ${MOST_BROUGHT_BYTES / 1024 / 1024} MB`
          : undefined
    if (fault || last) run.comingBack.delete(key)
    if (fault) throw new MessageError(fault)
    if (last) return this.keepLeftover(run, connection, group, name, Buffer.concat([...parts, part]))
    run.comingBack.set(key, [...parts, part])
  }

  private keepLeftover(run: ActiveRun, connection: Connection, group: string, name: string, content: Buffer): void {
    const generator = this.numberOf(run, connection.machineId)
    if (generator >= 0 && content.length > 0)
      this.tools.ingest.leftover(run.id, this.tools.runFile(run.id), generator, group, name, content)
  }

  onExemplars(runId: number, generator: number, incarnation: number, batch: number): void {
    const run = this.active.get(runId)
    const machineId = run && this.crewOf(run)[generator]?.machineId
    if (machineId) this.tools.hub.connections.get(machineId)?.say({ kind: 'exemplarsAck', incarnation, batch })
  }

  /** A frame of a machine's generator, for the merge. */
  onFrame(machineId: string, bytes: Uint8Array): void {
    const run = runOfMachine(this.active, machineId, this.tools.machines)
    const number = run ? this.numberOf(run, machineId) : -1
    if (run && number >= 0) this.tools.ingest.frame(run.id, number, bytes, runSecond(run, this.tools.clock) + AHEAD_S)
  }

  /**
   * Something of a generator could not be read and was set aside. A frame may have been damaged on its way: its link is
   * closed, so that it comes again.
   */
  onAside(runId: number, generator: number, what: 'frame' | 'exemplars' | 'other', sentence: string): void {
    const { runs, clock, hub } = this.tools
    const run = this.active.get(runId)
    if (!run) return
    const now = clock.now()
    const of = run.generators[generator]
    const before = run.asides.get(generator) ?? { told: false, links: 0, at: Number.NEGATIVE_INFINITY }
    const again = what === 'frame' && before.links < MOST_CLOSED_FOR_FRAMES && now - before.at > CLOSED_FOR_FRAMES_MS
    run.asides.set(generator, { told: true, links: before.links + Number(again), at: again ? now : before.at })
    if (!before.told)
      runs.remark(
        runId,
        run.stored.state,
        'setAside',
        `${of?.name ?? 'A generator'}: ${ASIDE_WORDS[what]}: ${sentence}. Everything else goes on${again ? ', and it is sent again' : ''}.`,
        now,
      )
    if (again && of) hub.connections.get(of.machineId)?.close()
  }

  /** A generator said something that cannot be read: its link was closed, and it opens another. */
  onUnreadable(machineId: string, sentence: string): void {
    const run = runOfMachine(this.active, machineId, this.tools.machines)
    if (run)
      this.tools.runs.remark(
        run.id,
        run.stored.state,
        'setAside',
        `${run.generators.find(g => g.machineId === machineId)?.name ?? machineId}: a message could not be read: ${sentence}. Its link was closed, so that it comes again.`,
        this.tools.clock.now(),
      )
  }

  onAck(runId: number, ack: Ack): void {
    const machineId = this.active.get(runId)?.generators[ack.generator]?.machineId
    if (machineId)
      this.tools.hub.connections
        .get(machineId)
        ?.say({ kind: 'ack', incarnation: ack.incarnation, worker: ack.worker, upTo: ack.upTo })
  }
}

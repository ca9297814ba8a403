/** Reads what a shell line writes on a private host: run anew each time, or running on. */
import { byMoment, MOST_FAULTY, readLines, samplesOfPattern } from '../../core/target/lines'
import { SourceReadings, type CounterState, type Reading } from '../../core/target/readings'
import { ofRun, queryOfRun, type Source } from '../../core/target/source'
import { compileExpression, type Expression } from '../../core/values/expression'
import { CommandTimeout, HostProblem } from '../hosts/ssh/problem'
import type { SshSession } from '../hosts/ssh/session'
import { RunningCommand } from './running-command'
import { ageOf, type CommandHosts, type SourceReader, type SourceReading } from './source-reader'
import { SourceTrouble } from './trouble'

/** A command that is run anew each time has so long, ms. */
const TIMEOUT_MS = 5000

/** What was written at one moment. */
interface Written {
  text: string
  at: number
}

export class CommandReader implements SourceReader {
  private readonly readings: SourceReadings
  private readonly line: string
  /** Of its series in turn, where they are chosen by patterns. */
  private readonly patterns: readonly Expression[] | undefined
  private session: SshSession | undefined
  private running: RunningCommand | undefined
  private isClosed = false
  /** What it wrote at the last reading. */
  text = ''

  constructor(
    private readonly source: Source,
    private readonly hosts: CommandHosts,
    private readonly now: () => number,
    runId: number,
    counters?: CounterState,
  ) {
    this.readings = new SourceReadings(source, runId, counters)
    this.line = ofRun(source.command ?? '', runId)
    this.patterns = source.byPattern ? source.series.map(s => compileExpression(queryOfRun(s, runId))) : undefined
  }

  get counters(): CounterState {
    return this.readings.state
  }

  /** @throws SourceTrouble */
  async read(): Promise<SourceReading> {
    const written = this.source.runsOn ? await this.cameMeanwhile() : [await this.runOnce()]
    this.text = written.map(w => w.text).join('')
    const readings = written.map(({ text, at }) => this.taken(text, at))
    const points = readings.flatMap(r => r.points)
    const readAt = written.length > 0 ? written[written.length - 1]!.at : this.now()
    return {
      points,
      beganAnew: readings.some(r => r.beganAnew),
      readAt,
      ageMs: ageOf({ points }, this.now()),
      clock: undefined,
    }
  }

  close(): void {
    this.isClosed = true
    this.running?.end()
    this.session?.close()
  }

  /** @throws SourceTrouble when nothing of it can be read, or too much cannot */
  private taken(text: string, at: number): Reading {
    if (this.patterns) {
      const { runsOn } = this.source
      return this.readings.takeAnswers(this.patterns.map(p => samplesOfPattern(text, p, runsOn)), at)
    }
    const { samples, faults } = readLines(text)
    if (faults.length === MOST_FAULTY || (samples.length === 0 && faults.length > 0))
      throw new SourceTrouble('page', faults[0]!.sentence, 'Let it write lines “name value”, or choose by pattern.')
    return this.readings.takeMoments(byMoment(samples), at)
  }

  private async runOnce(): Promise<Written> {
    const session = await this.signedIn()
    const askedAt = this.now()
    const { code, out, err } = await this.reached(() => session.run(this.line, { timeoutMs: TIMEOUT_MS }))
    if (code !== 0) throw this.ended(code, err)
    return { text: out, at: (askedAt + this.now()) / 2 }
  }

  /** What it wrote since the last time. It is begun at the first, and when it has ended. */
  private async cameMeanwhile(): Promise<Written[]> {
    const { running } = this
    const written = running?.taken() ?? []
    if (running && !running.ended) return written
    if (running?.ended && written.length === 0) {
      this.running = undefined
      throw this.ended(running.ended.code, running.ended.err)
    }
    if (running) return written
    const session = await this.signedIn()
    const channel = await this.reached(() => session.channel(RunningCommand.wrapped(this.line)))
    if (this.isClosed) channel.close()
    else this.running = new RunningCommand(channel, this.now)
    return []
  }

  private ended(code: number | null, err: string): SourceTrouble {
    const how = code === null ? 'was ended by a signal' : `ended with exit code ${code}`
    const said = err.trim().split('\n')[0]!.slice(0, 200)
    return new SourceTrouble(
      'answer',
      `${this.source.address}: the command ${how}${said === '' ? '' : `: ${said}`}.`,
      'Try the command on the host.',
    )
  }

  private async signedIn(): Promise<SshSession> {
    if (this.session) return this.session
    const session = await this.reached(() => this.hosts.open(this.source.address))
    session.onClose(() => {
      if (this.session === session) this.session = undefined
    })
    if (this.isClosed) session.close()
    else this.session = session
    return session
  }

  private async reached<T>(act: () => Promise<T>): Promise<T> {
    try {
      return await act()
    }
    catch (error) {
      // Of whatever was thrown, each of these may be missing.
      const { name, sentence, remedy = '' } = error as { name: string, sentence?: string, remedy?: string }
      if (error instanceof CommandTimeout)
        throw new SourceTrouble(
          'answer',
          `${this.source.address}: the command has not ended within ${error.timeoutMs / 1000} s.`,
          'Let it end sooner, or have it run on.',
        )
      if (error instanceof HostProblem) throw new SourceTrouble('connection', `${error.message}.`, error.remedy)
      if (name === 'ControlError' && sentence !== undefined) throw new SourceTrouble('approval', sentence, remedy)
      throw error
    }
  }
}

/**
 * The load of a command journey on this generator: one process, told its users and ramp in its environment, its samples
 * recorded like any other. Approval cannot be enforced inside it.
 */
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { CommandJourney } from '../../core/journey/journey'
import { measuresOf, OTHER_STEP } from '../../core/journey/measures'
import { targetValues } from '../../core/journey/target'
import type { RunDocument } from '../../core/run/document'
import type { SlicedUser } from '../../core/run/slice'
import { Recorder, type CutFrame } from '../../protocol/recorder'
import { NOT_ON_THE_LINE } from '../../protocol/series-second'
import type { FeedRows } from '../journey/feed-dealer'
import { maskOf } from '../journey/masking'
import type { FetchedSupplies } from '../link/supplies'
import type { HealthReader } from '../users/health'
import { climbs, unpackKit } from './kit'
import { Lines } from './lines'
import { readSample } from '../../core/elsewhere/sample-line'
import { csvAsIs } from '../../core/formats/csv'
import { present } from '../../core/values/present'

const PREPARE_MS = 120_000
/** Standard error is kept up to this, its end, characters. */
const MOST_LOG_CHARACTERS = 60_000
const MOST_BROUGHT_BYTES = 16 * 1024 * 1024
/** Lines that are no samples are told, the first of them. */
const MOST_COMPLAINTS = 5

export interface CommandOptions {
  runId: string
  document: RunDocument
  /** Index of the group in the plan. */
  group: number
  journey: CommandJourney
  users: readonly SlicedUser[]
  supplies: FetchedSupplies
  generator: number
  generators: number
  incarnation: number
  worker: number
  leaveMs: number
  health: HealthReader
  onFrame: (frame: CutFrame) => void
  onTrouble: (sentence: string) => void
  onLog: (text: string) => void
  onBroughtBack: (name: string, content: Buffer) => void
  onFinished: () => void
}

export class CommandLoad {
  private folder = ''
  private child: ChildProcess | undefined
  private recorder: Recorder | undefined
  private log = ''
  private complaints = 0
  private ticker: NodeJS.Timeout | undefined
  private ending: NodeJS.Timeout | undefined
  private finished = false

  constructor(private readonly options: CommandOptions) {}

  /** Unpacks the kit, writes the feeds beside it, runs what prepares it. @throws Error that says what is wrong */
  async prepare(): Promise<void> {
    const { journey, supplies } = this.options
    const archive = supplies.files.find(([id]) => id === journey.kit)?.[1]
    if (!archive) throw new Error('The kit did not come along: upload it again.')
    this.folder = await unpackKit(archive)
    for (const use of journey.feeds ?? []) {
      const feed = supplies.feeds.find(([id]) => id === use.feed)?.[1]
      const rows = use.deal === 'once' ? feed?.slice : feed?.whole
      if (feed && rows) writeFileSync(join(this.folder, `${use.as}.csv`), feedFile(feed.columns, rows))
    }
    const [program, ...args] = journey.prepare ?? []
    if (program) await this.runToEnd(program, args)
  }

  /** Starts the program. @param startedAt monotonic moment of run second 0, ms */
  // eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
  run(startedAt: number): void {
    const { document, group, journey, users, health } = this.options
    const measures = measuresOf(journey)
    const first = users[0]?.firstSeries ?? 0
    const seriesOf = new Map(measures.map((m, i) => [m.name, first + i]))
    const other = present(seriesOf.get(OTHER_STEP), 'the series of what a command does not announce')
    const recorder = (this.recorder = new Recorder({
      incarnation: this.options.incarnation,
      worker: this.options.worker,
      groups: document.plan.groups.length,
      startedAt,
      health: health.read,
      onFrame: this.options.onFrame,
    }))
    const mask = maskOf(this.options.supplies.secrets)
    const [program = '', ...args] = journey.run
    const child = (this.child = spawn(program, args, {
      cwd: this.folder,
      env: { ...process.env, ...this.environment() },
      stdio: ['ignore', 'pipe', 'pipe'],
      detached: true,
    }))
    const lines = new Lines((line) => {
      const sample = readSample(line)
      if (typeof sample === 'string')
        return this.complain(`a line of the command is no sample: ${sample}: ${mask(line).slice(0, 120)}`)
      const series = seriesOf.get(sample.step) ?? other
      if (!seriesOf.has(sample.step))
        this.complain(
          `the command wrote a sample of “${sample.step}”, which the journey does not announce: filed under ${OTHER_STEP}`,
        )
      // A second that was cut stays cut: a sample is filed no earlier than where the recorder stands.
      const now = performance.now()
      recorder.started(series, now)
      const onTheLine = { ...NOT_ON_THE_LINE, status: sample.status, bytes: sample.bytes, bytesSent: sample.sent }
      const { durationMs: ms } = sample
      if (sample.ok) recorder.right(series, now, ms, ms, ms, onTheLine)
      else recorder.failed(series, now, 'expectation', 'sent', ms, onTheLine)
    })
    child.stdout.setEncoding('utf8').on('data', (text: string) => lines.add(text))
    // By whole lines: a secret may come in two parts.
    const said = new Lines((line) => {
      this.log = `${this.log}${mask(line)}\n`.slice(-MOST_LOG_CHARACTERS)
    })
    child.stderr.setEncoding('utf8').on('data', (text: string) => said.add(text))
    child.on('error', error => this.options.onTrouble(`the command could not be started: ${error.message}`))
    child.on('close', (code, signal) => {
      lines.end()
      said.end()
      if (code !== 0 && signal === null)
        this.options.onTrouble(
          `the command ended with code ${code}: ${this.log.trim().split('\n').pop()?.slice(0, 200) ?? ''}`,
        )
      this.finish()
    })
    const everySecond = () => {
      const now = performance.now()
      // As planned, for nobody can look inside.
      recorder.present[group] = users.filter(u =>
        u.stays.some(s => startedAt + s.startMs <= now && now < startedAt + s.stopMs),
      ).length
      recorder.roll(now)
      this.ticker = setTimeout(everySecond, 1001 - ((now - startedAt) % 1000))
    }
    everySecond()
    const lastStop = Math.max(0, ...users.flatMap(u => u.stays.map(s => s.stopMs)))
    this.ending = setTimeout(() => this.drain(), Math.max(0, startedAt + lastStop - performance.now()) + 1000)
  }

  /** Asks the program to end, and ends it when it does not. */
  drain(): void {
    clearTimeout(this.ending)
    this.signal('SIGTERM')
    this.ending = setTimeout(() => this.signal('SIGKILL'), this.options.leaveMs)
  }

  abort(): void {
    this.signal('SIGKILL')
  }

  private signal(signal: NodeJS.Signals): void {
    if (!this.child || this.child.exitCode !== null || this.child.pid === undefined) return
    // With everything it has started.
    try {
      process.kill(-this.child.pid, signal)
    }
    catch {
      this.child.kill(signal)
    }
  }

  private finish(): void {
    if (this.finished) return
    this.finished = true
    clearTimeout(this.ticker)
    clearTimeout(this.ending)
    const { recorder, options } = this
    if (recorder) {
      recorder.present[options.group] = 0
      recorder.finish(performance.now())
    }
    options.onLog(this.log)
    for (const name of options.journey.bringBack) {
      const path = join(this.folder, name)
      if (climbs(name) || !existsSync(path)) options.onTrouble(`“${name}” is not there to be brought back`)
      else if (statSync(path).size > MOST_BROUGHT_BYTES)
        options.onTrouble(`“${name}” is larger than ${MOST_BROUGHT_BYTES / 1024 / 1024} MB and stays behind`)
      else options.onBroughtBack(name, readFileSync(path))
    }
    rmSync(this.folder, { recursive: true, force: true })
    options.onFinished()
  }

  private complain(sentence: string): void {
    if (++this.complaints <= MOST_COMPLAINTS) this.options.onTrouble(sentence)
  }

  private environment(): Record<string, string> {
    const { document, group, journey, users, supplies, generator, generators, runId } = this.options
    const { profile } = document.plan.groups[group]!
    const [up, hold] = profile.segments
    const lengthMs = profile.segments.reduce((sum, s) => sum + s.overMs, profile.startDelayMs)
    const values = targetValues(document.target, supplies.secrets)
    return {
      VORNAK_RUN: runId,
      VORNAK_USERS: String(users.length),
      VORNAK_START_DELAY_S: String(profile.startDelayMs / 1000),
      VORNAK_RAMP_S: String((up?.overMs ?? 0) / 1000),
      VORNAK_HOLD_S: String((hold?.overMs ?? 0) / 1000),
      VORNAK_LENGTH_S: String(lengthMs / 1000),
      VORNAK_PROFILE: JSON.stringify(profile),
      VORNAK_GENERATOR: String(generator),
      VORNAK_GENERATORS: String(generators),
      VORNAK_TARGET: document.target.baseUrl,
      ...Object.fromEntries(
        Object.entries(values).map(([name, value]) => [
          `VORNAK_TARGET_${name.toUpperCase().replace(/[^A-Z0-9]/g, '_')}`,
          value,
        ]),
      ),
      ...Object.fromEntries(
        (journey.feeds ?? []).map(f => [
          `VORNAK_FEED_${f.as.toUpperCase().replace(/[^A-Z0-9]/g, '_')}`,
          join(this.folder, `${f.as}.csv`),
        ]),
      ),
    }
  }

  private runToEnd(program: string, args: string[]): Promise<void> {
    return new Promise((resolve, reject) => {
      const child = spawn(program, args, {
        cwd: this.folder,
        env: { ...process.env, ...this.environment() },
        stdio: ['ignore', 'ignore', 'pipe'],
        timeout: PREPARE_MS,
      })
      let said = ''
      child.stderr.setEncoding('utf8').on('data', (text: string) => {
        said = (said + text).slice(-2000)
      })
      child.on('error', error => reject(new Error(`Preparing the kit failed: ${error.message}.`)))
      child.on('close', code =>
        code === 0
          ? resolve()
          : reject(new Error(`Preparing the kit failed (${code ?? 'timed out'}): ${said.trim().slice(-300)}`)),
      )
    })
  }
}

/** A feed's rows as a file that programs read. */
function feedFile(columns: readonly string[], { bytes, offsets }: FeedRows): string {
  const decoder = new TextDecoder()
  const rows = Array.from(
    { length: offsets.length - 1 },
    // Its rows were written by the import, as lists of cells.
    (_, row) => JSON.parse(decoder.decode(bytes.slice(offsets[row], offsets[row + 1]! - 1))) as string[],
  )
  return csvAsIs([columns, ...rows])
}

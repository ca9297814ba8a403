/**
 * Reads the sources of one run's target, each by its own beat, and keeps what they say: from before the load until
 * everything is as it was before, or five minutes have passed.
 */
import { recoveryOf } from '../../core/target/recovery'
import type { Source } from '../../core/target/source'
import type { Target } from '../../core/journey/target'
import type { Cancel, Clock } from '../clock'
import { TargetFile, type SourceStanding } from '../store/target-file'
import type { Inbox } from './inbox'
import { PageFetcher } from './page'
import { SourceTrouble } from './trouble'
import { readerOf } from './reader-of'
import type { CommandHosts, SourceReader } from './source-reader'
import { messageOf } from '../../core/values/thrown'

/** What happened to a source. */
export interface SourceNews {
  event: 'sourceSilent' | 'sourceHeard' | 'sourceAnew'
  source: string
  sentence: string
  at: number
}

export interface RunWatchOptions {
  runId: number
  target: Target
  secrets: Readonly<Record<string, string>>
  commands: CommandHosts
  inbox: Inbox
  path: string
  clock: Clock
  onNews: (news: SourceNews) => void
}

/** After the load's end a target has so long to be as before, ms. */
export const MOST_RECOVERY_MS = 300_000
/** Whether it is, is looked at so often, ms. */
const LOOK_MS = 5000

export class RunWatch {
  readonly file: TargetFile
  /** When it began to read, ms since 1970. */
  readonly beganAt: number
  private readonly fetcher: PageFetcher
  private readonly readers: SourceReader[] = []
  private readonly timers = new Map<string, Cancel>()
  private readonly standings: Map<string, SourceStanding>
  private lookedAt = Number.NEGATIVE_INFINITY
  /** Lines that are as before; they are not looked at again. */
  private readonly recovered = new Set<number>()
  private closed = false

  constructor(private readonly options: RunWatchOptions) {
    const { target, secrets, commands, inbox, path, clock, runId } = options
    this.file = new TargetFile(path)
    this.fetcher = new PageFetcher(target, secrets, () => clock.now())
    this.standings = this.file.standings()
    this.beganAt = clock.now()
    const from = { targetId: target.id, pages: this.fetcher, commands, inbox, now: () => clock.now() }
    for (const source of target.sources ?? []) {
      const reader = readerOf(source, from, runId, this.file.countersOf(source.name))
      this.readers.push(reader)
      this.beat(source, reader)
    }
  }

  /**
   * Every series is as it was before the load, and was read once after all was over; or that may no longer be waited
   * for. Moments in ms since 1970.
   */
  isOver(startAt: number | undefined, loadEndedAt: number, endedAt: number): boolean {
    const { clock, target } = this.options
    const now = clock.now()
    if (startAt === undefined || now - loadEndedAt > MOST_RECOVERY_MS) return true
    if ((target.sources ?? []).some(({ name }) => (this.standings.get(name)?.readAt ?? 0) <= endedAt)) return false
    if (now - this.lookedAt < LOOK_MS) return false
    this.lookedAt = now
    const series = new Map((target.sources ?? []).flatMap(s => s.series.map(c => [c.name, c])))
    return this.file.lines().every(({ id, series: name }) => {
      const choice = series.get(name)
      if (choice?.kind !== 'gauge' || this.recovered.has(id)) return true
      const loadEndsS = (loadEndedAt - startAt) / 1000
      const recovery = recoveryOf(this.file.values(id, startAt), loadEndsS, choice.standsFor === 'replicas')
      const isOver = recovery === undefined || recovery.atS !== undefined
      if (isOver) this.recovered.add(id)
      return isOver
    })
  }

  /** What was read of these series reaches up to a moment, ms since 1970; what cannot be read is not waited for. */
  isRead(series: ReadonlySet<string>, upTo: number): boolean {
    const { target } = this.options
    return (target.sources ?? [])
      .filter(source => source.series.some(s => series.has(s.name)))
      .every(({ name }) => {
        const { readAt, ageMs = 0, trouble } = this.standings.get(name) ?? { readings: 0, failures: 0 }
        return trouble !== undefined || (readAt !== undefined && readAt - ageMs >= upTo)
      })
  }

  /** The load has begun: what lies long before it is dropped. */
  begin(startAt: number, beforeS: number): void {
    this.file.dropBefore(startAt - beforeS * 1000)
  }

  async close(): Promise<void> {
    this.closed = true
    for (const timer of this.timers.values()) timer.cancel()
    for (const reader of this.readers) reader.close?.()
    await this.fetcher.close()
    this.file.close()
  }

  /** The next reading begins on a whole multiple of the source's seconds, whenever the one before came. */
  private beat(source: Source, reader: SourceReader): void {
    if (this.closed) return
    const { clock } = this.options
    const everyMs = source.everyS * 1000
    const waitMs = everyMs - (clock.now() % everyMs)
    this.timers.set(
      source.name,
      clock.after(waitMs, () => void this.read(source, reader).finally(() => this.beat(source, reader))),
    )
  }

  private async read(source: Source, reader: SourceReader): Promise<void> {
    const { clock, onNews } = this.options
    const { name } = source
    const before = this.standings.get(name) ?? { readings: 0, failures: 0 }
    const tell = (event: SourceNews['event'], sentence: string) => onNews({ event, source: name, sentence, at: clock.now() })
    try {
      const { points, beganAnew, readAt, ageMs, clock: known } = await reader.read()
      if (this.closed) return
      const { trouble, ageMs: _, ...rest } = before
      const age = ageMs ?? olderBy(before, readAt)
      const standing: SourceStanding = {
        ...rest,
        readAt,
        ...(age === undefined ? {} : { ageMs: age }),
        ...(known ? { offsetMs: known.offsetMs, offsetUncertaintyMs: known.uncertaintyMs } : {}),
        readings: before.readings + 1,
      }
      this.keep(source, points, standing, reader)
      if (trouble !== undefined) tell('sourceHeard', `${name} is read again.`)
      if (beganAnew) tell('sourceAnew', `${name}: its counters began anew; they are counted from nothing since.`)
    }
    catch (error) {
      if (this.closed) return
      const known = error instanceof SourceTrouble
      const trouble = known ? `${error.message} ${error.remedy}` : messageOf(error)
      this.keep(source, [], { ...before, trouble, failures: before.failures + 1 }, reader)
      if (before.trouble === undefined) tell('sourceSilent', `${name} cannot be read: ${trouble}`)
    }
  }

  private keep(
    source: Source,
    points: Parameters<TargetFile['add']>[2],
    standing: SourceStanding,
    reader: SourceReader,
  ): void {
    this.standings.set(source.name, standing)
    this.file.add(source.name, source.series.map(s => s.name), points, standing, reader.counters)
  }
}

/** Nothing new came: what was the newest has grown older, ms. */
const olderBy = ({ ageMs, readAt }: SourceStanding, now: number): number | undefined =>
  ageMs === undefined || readAt === undefined ? undefined : ageMs + now - readAt

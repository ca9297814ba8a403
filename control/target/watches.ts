/** Which runs' targets are read now: those whose plan asks, from gathering on until after the load. */
import { USUAL_BEFORE_S } from '../../core/target/source'
import { runLengthMs } from '../../core/plan/length'
import type { RunDocument } from '../../core/run/document'
import type { RunState } from '../../core/run/life'
import type { Target } from '../../core/journey/target'
import type { Cancel, Clock } from '../clock'
import type { Inbox } from './inbox'
import { seriesJudged } from './judged-values'
import { RunWatch, MOST_RECOVERY_MS, type SourceNews } from './run-watch'
import type { CommandHosts } from './source-reader'
import { messageOf } from '../../core/values/thrown'

/** A run as far as it matters here. */
export interface WatchedRun {
  id: number
  document: RunDocument
  state: RunState
  startAt?: number
  endedAt?: number
}

export interface WatchesOptions {
  clock: Clock
  /** Runs that are on. */
  active: () => WatchedRun[]
  /** Those of before this process, the latest first. */
  latest: WatchedRun[]
  run: (id: number) => WatchedRun | undefined
  /** @throws Error when they cannot be opened */
  secretsOf: (target: Target) => Record<string, string>
  commands: CommandHosts
  inbox: Inbox
  targetFile: (runId: number) => string
  remark: (run: WatchedRun, news: SourceNews) => void
  onChange: (runId: number) => void
}

const LOOK_MS = 500
/** An answer waits so long for what it is about, after the load, ms. */
const MOST_AWAITED_MS = 60_000

interface Watched {
  watch: RunWatch
  /** Its load has begun. */
  hasBegun: boolean
  /** The run, once it is over: it changes no more. */
  over?: WatchedRun
}

/** When a run's target is read. */
const READ_IN: readonly RunState[] = ['gathering', 'rollCall', 'rehearsing', 'armed', 'warming', 'loading', 'draining']

export class Watches {
  private readonly watches = new Map<number, Watched>()
  /** Runs that are not read, or no longer: nothing is to be waited for, or their secrets could not be opened. */
  private readonly done = new Set<number>()
  private readonly ticker: Cancel

  constructor(private readonly options: WatchesOptions) {
    // What was still waited for when an earlier process ended is waited for on.
    for (const run of options.latest)
      if (run.endedAt !== undefined && isToBeRead(run, options.clock.now())) this.open(run)
    this.ticker = options.clock.every(LOOK_MS, () => this.look())
  }

  /**
   * The earliest moment a run's load may begin, so that rest was read long enough before; undefined: at once.
   * @returns ms since 1970
   */
  notBefore({ id, document }: Pick<WatchedRun, 'id' | 'document'>): number | undefined {
    const beganAt = this.watches.get(id)?.watch.beganAt
    const beforeS = document.plan.targetFigures?.beforeS
    return beganAt === undefined || beforeS === undefined ? undefined : beganAt + beforeS * 1000
  }

  /**
   * What the objectives of a run are about was read up to the end of its load; or it has been waited for long enough.
   *
   * @param endedAt when the load ended, ms since 1970
   */
  isJudgeable({ id, document }: Pick<WatchedRun, 'id' | 'document'>, endedAt: number): boolean {
    const watch = this.watches.get(id)?.watch
    const series = seriesJudged(document)
    if (!watch || series.size === 0 || this.options.clock.now() - endedAt > MOST_AWAITED_MS) return true
    return watch.isRead(series, endedAt)
  }

  /** Whether a run's target is still read. */
  isReading(runId: number): boolean {
    return this.watches.has(runId)
  }

  async close(): Promise<void> {
    this.ticker.cancel()
    await Promise.all([...this.watches.values()].map(({ watch }) => watch.close()))
    this.watches.clear()
  }

  private look(): void {
    const { clock, active, run: runOf, onChange } = this.options
    const known = new Map(active().map(run => [run.id, run]))
    for (const run of known.values()) if (isToBeRead(run, clock.now())) this.open(run)
    for (const [id, held] of this.watches) {
      const run = known.get(id) ?? held.over ?? runOf(id)
      if (run?.endedAt !== undefined) held.over = run
      if (run?.startAt !== undefined && !held.hasBegun && clock.now() >= run.startAt) {
        held.hasBegun = true
        held.watch.begin(run.startAt, run.document.plan.targetFigures?.beforeS ?? USUAL_BEFORE_S)
      }
      if (run && (run.endedAt === undefined || !held.watch.isOver(run.startAt, loadEndOf(run), run.endedAt))) continue
      this.done.add(id)
      this.watches.delete(id)
      void held.watch.close().then(() => onChange(id))
    }
  }

  private open(run: WatchedRun): void {
    const { clock, secretsOf, commands, inbox, targetFile, remark } = this.options
    if (this.watches.has(run.id) || this.done.has(run.id)) return
    const { target } = run.document
    try {
      const watch = new RunWatch({
        runId: run.id,
        target,
        // Only what a page asks for is opened.
        secrets: (target.sources ?? []).some(s => s.authorization) ? secretsOf(target) : {},
        commands,
        inbox,
        path: targetFile(run.id),
        clock,
        onNews: news => remark(run, news),
      })
      this.watches.set(run.id, { watch, hasBegun: false })
    }
    catch (error) {
      this.done.add(run.id)
      const sentence = `The target's own figures are not read: ${messageOf(error)}`
      remark(run, { event: 'sourceSilent', source: target.name, sentence, at: clock.now() })
    }
  }
}

/** When a run's load ended, or will by its plan, ms since 1970. */
export function loadEndOf({ document, startAt = 0, endedAt = Number.POSITIVE_INFINITY }: Pick<WatchedRun, 'document' | 'startAt' | 'endedAt'>): number {
  return Math.min(endedAt, startAt + runLengthMs(document))
}

function isToBeRead({ document, state, startAt, endedAt }: WatchedRun, now: number): boolean {
  const { plan, target, calibration } = document
  if (!plan.targetFigures || calibration || (target.sources ?? []).length === 0) return false
  if (READ_IN.includes(state)) return true
  return startAt !== undefined && endedAt !== undefined && now - endedAt < MOST_RECOVERY_MS
}

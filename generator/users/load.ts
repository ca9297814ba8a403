/** The load of one worker: its users, their schedule and their recorder, from the start moment to the last one gone. */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import { USUAL_EXEMPLARS, type RunDocument } from '../../core/plan/document'
import type { SlicedUser } from '../../core/plan/slice'
import { seededRandom } from '../../core/random/seeded'
import { Recorder, type CutFrame } from '../../protocol/recorder'
import { approvedConnector } from '../exchange/approved-connector'
import { UndiciExchange } from '../exchange/undici-exchange'
import { ExemplarKeeper, EXEMPLAR_BODY_BYTES } from '../journey/exemplar-keeper'
import { FeedDealer, type DealerPost, type FeedRows } from '../journey/feed-dealer'
import { maskOf } from '../journey/masking'
import { prepareJourney } from '../journey/prepare-journey'
import type { PreparedJourney } from '../journey/prepared'
import type { HealthReader } from './health'
import { Schedule, type Cue } from './schedule'
import { User, type Surroundings } from './user'

/** What a worker has been given besides the document. */
export interface Supplies {
  secrets: Record<string, string>
  /** By content id. */
  files: ReadonlyMap<string, Uint8Array>
  /** By feed id: the whole feed, and this generator's slice of it for those that deal each row once. */
  feeds: ReadonlyMap<string, { columns: string[], whole?: FeedRows, slice?: FeedRows }>
  post: DealerPost
}

export const NO_SUPPLIES: Supplies = { secrets: {}, files: new Map(), feeds: new Map(), post: { generator: 0, generators: 1, worker: 0, workers: 1 } }

export interface LoadOptions {
  runId: string
  document: RunDocument
  users: readonly SlicedUser[]
  supplies: Supplies
  incarnation: number
  worker: number
  /** Users that still wait for an answer this long after they should have left are cut off, ms. */
  leaveMs: number
  health: HealthReader
  onFrame: (frame: CutFrame) => void
  onExemplar: (record: ExchangeRecord) => void
  /** Everybody has gone and the last frame is cut. @param dropped exemplars the bound took */
  onFinished: (dropped: number) => void
  /** Frames go on until then, ms, though nobody may be left: who has said its last word is thought to be done. */
  lastsMs?: number
  /** A rehearsal or a try: no pauses, one pass, every exchange kept. */
  trying?: boolean
}

export class Load {
  private readonly recorder: Recorder
  private readonly exemplars: ExemplarKeeper
  private readonly schedule: Schedule
  private readonly active = new Set<User>()
  private secondTimer: NodeJS.Timeout | undefined
  private leaveTimer: NodeJS.Timeout | undefined
  private finished = false

  /**
   * @param startedAt monotonic moment of run second 0, ms
   * @throws TemplateError and its kin when a journey cannot be compiled
   */
  constructor(private readonly options: LoadOptions, private readonly startedAt: number) {
    const { document, health, supplies, trying } = options
    const { plan, target } = document
    const random = seededRandom(plan.seed + (options.incarnation ^ (options.worker * 7919)))
    const rule = trying ? { failuresPerSecond: 0, slowest: false, oneInPasses: 1, mostMb: 16 } : plan.exemplars ?? USUAL_EXEMPLARS
    this.recorder = new Recorder({ incarnation: options.incarnation, worker: options.worker, groups: plan.groups.length, startedAt, health: health.read, onFrame: options.onFrame })
    this.exemplars = new ExemplarKeeper(rule, startedAt, options.onExemplar)
    const hosts = new Set(target.approval?.hosts ?? [])
    const connectors = [false, true].map(http2 => approvedConnector({ hosts, count: health.sockets, http2, ...(target.trust ? { trust: target.trust } : {}) }))
    const around: Surroundings = {
      recorder: this.recorder, lag: health.lag, random, nextInSequence: sequences(supplies.post),
      exchange: (http2, sessions, ended) => new UndiciExchange(connectors[http2 ? 1 : 0]!, sessions, http2, ended),
      exemplars: this.exemplars, mask: maskOf(supplies.secrets), startedAt, groups: plan.groups.map(g => g.letter), hurry: trying ?? false,
      gone: user => this.gone(user),
    }
    const exemplarBytes = rule.oneInPasses > 0 || rule.failuresPerSecond > 0 || rule.slowest ? EXEMPLAR_BODY_BYTES : 0
    const dealers = new Map<string, FeedDealer>()
    const journeyOfGroup = plan.groups.map((group) => {
      const journey = document.journeys.find(j => j.id === group.journeyId)
      if (journey?.kind !== 'http') return undefined
      const feeds = (journey.feeds ?? []).map((use) => {
        const given = supplies.feeds.get(use.feed)
        const rows = use.deal === 'once' ? given?.slice : given?.whole
        if (!given || !rows) throw new Error(`the feed ${use.feed} did not come along`)
        // Groups that share a feed share its rows: one row is never dealt to two of them.
        const key = `${use.feed} ${use.deal} ${use.atEnd}`
        let dealer = dealers.get(key)
        if (!dealer) dealers.set(key, dealer = new FeedDealer(rows, use.deal, use.atEnd === 'again', supplies.post, random))
        return { as: use.as, columns: given.columns, dealer, per: use.per, atEnd: use.atEnd === 'leave' ? 'leave' as const : 'fail' as const }
      })
      return prepareJourney(journey, { target, secrets: supplies.secrets, marking: { runId: options.runId, ...(trying ? { rehearsal: true } : {}) }, feeds, files: supplies.files, exemplarBytes })
    })
    this.schedule = new Schedule(this.cues(journeyOfGroup, around), startedAt, health.lag, () => this.finishIfEmpty())
  }

  private cues(journeyOfGroup: (PreparedJourney | undefined)[], around: Surroundings): Cue[] {
    const cues: Cue[] = []
    for (const sliced of this.options.users) {
      const journey = journeyOfGroup[sliced.group]
      // Users of a command journey are the command's.
      if (!journey) continue
      const user = new User(sliced.group, sliced.number, sliced.firstSeries, journey, around, this.options.trying ? 1 : 0)
      for (const stay of sliced.stays) {
        cues.push({ atMs: stay.startMs, act: now => this.start(user, now) })
        if (!this.options.trying) cues.push({ atMs: stay.stopMs, act: now => this.leave(user, now) })
      }
    }
    if (this.options.lastsMs !== undefined) cues.push({ atMs: this.options.lastsMs, act: () => { /* only the end of the list */ } })
    return cues
  }

  /** Begins; call before the start moment. */
  run(): void {
    const wait = Math.max(0, this.startedAt - performance.now())
    this.secondTimer = setTimeout(() => {
      this.schedule.run()
      this.everySecond()
    }, wait)
  }

  /** Everybody leaves as soon as their answer is in; nobody new starts. */
  drain(): void {
    this.schedule.stop()
    const now = performance.now()
    for (const user of [...this.active]) this.leave(user, now)
    this.finishIfEmpty()
  }

  /** Everybody goes now. */
  abort(): void {
    this.schedule.stop()
    this.cutAll()
    this.finishIfEmpty()
  }

  private start(user: User, now: number): void {
    this.recorder.roll(now)
    this.active.add(user)
    user.start(now)
  }

  private leave(user: User, now: number): void {
    this.recorder.roll(now)
    user.leave()
    if (user.away) return
    // One timer serves everybody who leaves in the same stretch; it is set anew by whoever leaves after it fired.
    this.leaveTimer ??= setTimeout(() => {
      this.leaveTimer = undefined
      this.cutLeaving()
    }, this.options.leaveMs)
  }

  private cutLeaving(): void {
    if (this.schedule.finished) this.cutAll()
    else for (const user of [...this.active]) if (user.isLeaving) user.cut(performance.now())
    this.finishIfEmpty()
  }

  private cutAll(): void {
    for (const user of [...this.active]) user.cut(performance.now())
  }

  private gone(user: User): void {
    this.active.delete(user)
    this.finishIfEmpty()
  }

  private readonly everySecond = (): void => {
    const now = performance.now()
    this.recorder.roll(now)
    if (this.finished) return
    const intoSecond = (now - this.startedAt) % 1000
    this.secondTimer = setTimeout(this.everySecond, 1001 - intoSecond)
  }

  private finishIfEmpty(): void {
    if (this.finished || !this.schedule.finished || this.active.size > 0) return
    this.finished = true
    clearTimeout(this.secondTimer)
    clearTimeout(this.leaveTimer)
    this.exemplars.finish()
    this.recorder.finish(performance.now())
    this.options.onFinished(this.exemplars.dropped)
  }
}

/** Most worker threads a generator is thought to have, for numbers that are never the same twice in a run. */
const MOST_WORKERS = 256

/** Numbers of sequences: each worker counts in a stride that only it has. From 1 on the first worker of the first generator. */
function sequences({ generator, generators, worker }: DealerPost): (name: string) => number {
  const turns = new Map<string, number>()
  const stride = generators * MOST_WORKERS
  return (name) => {
    const turn = turns.get(name) ?? 0
    turns.set(name, turn + 1)
    return turn * stride + generator * MOST_WORKERS + worker + 1
  }
}

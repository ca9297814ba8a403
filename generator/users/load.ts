/** The load of one worker: its users, their schedule and their recorder, from the start moment to the last one gone. */
import type { ExchangeRecord } from '../../core/journey/exchange-record'
import type { PassRecord } from '../../core/journey/pass-record'
import { USUAL_EXEMPLARS } from '../../core/plan/document'
import { clientsOf } from '../../core/plan/shares'
import type { RunDocument } from '../../core/run/document'
import type { Slice, SlicedArrivals, SlicedUser } from '../../core/run/slice'
import { wholeUsers, type UserBounds } from '../../core/load/held-rate'
import { lengthMs, levelAt, type Stay } from '../../core/load/profile'
import { expectedPass } from '../../core/plan/expected'
import { runLengthMs } from '../../core/plan/length'
import { DIRECT } from '../../core/network/profile'
import { seededRandom } from '../../core/random/seeded'
import { Recorder, type CutFrame } from '../../protocol/recorder'
import { approvedConnector } from '../exchange/approved-connector'
import type { Proxy } from '../exchange/proxy'
import { UndiciExchange } from '../exchange/undici-exchange'
import { boundedRule, ExemplarKeeper, EXEMPLAR_BODY_BYTES } from '../journey/exemplar-keeper'
import { FeedDealer, type DealerPost, type FeedRows } from '../journey/feed-dealer'
import { maskOf } from '../journey/masking'
import { prepareJourney } from '../journey/prepare-journey'
import type { PreparedJourney } from '../journey/prepared'
import type { HealthReader } from './health'
import { cueList, Schedule, type Cue, type CueList } from './schedule'
import { User, type UserSurroundings } from './user'

/** What a worker has been given besides the document. */
export interface Supplies {
  secrets: Record<string, string>
  /** By content id. */
  files: ReadonlyMap<string, Uint8Array>
  /** By feed id: the whole feed, and this generator's slice of it for those that deal each row once. */
  feeds: ReadonlyMap<string, { columns: string[], whole?: FeedRows, slice?: FeedRows }>
  post: DealerPost
}

export const NO_SUPPLIES: Supplies = {
  secrets: {},
  files: new Map(),
  feeds: new Map(),
  post: { generator: 0, generators: 1, worker: 0, workers: 1 },
}

export interface LoadOptions {
  runId: string
  document: RunDocument
  slice: Slice
  supplies: Supplies
  incarnation: number
  worker: number
  /** Users that still wait for an answer this long after they should have left are cut off, ms. */
  leaveMs: number
  health: HealthReader
  onFrame: (frame: CutFrame) => void
  onExemplar: (record: ExchangeRecord) => void
  /** Left out: passes are not kept, as in a try. */
  onPass?: (record: PassRecord) => void
  /** Everybody has gone and the last frame is cut. @param dropped exemplars the bound took */
  onFinished: (dropped: number) => void
  /** Frames go on until then, ms, though nobody may be left: who has said its last word is thought to be done. */
  lastsMs?: number
  /** Connections go out through it. */
  proxy?: Proxy
  /** A rehearsal or a try: no pauses, one pass, every exchange kept. */
  trying?: boolean
}

/**
 * Users who should be there already, of a lost generator or of one that comes late, come one after the other for this
 * long, ms: they must not storm anybody.
 */
const CATCH_UP_MS = 5000
/** How often users of held rates are called, ms: a ramp has no steps anybody could see. */
const DRIVE_RATES_MS = 100
/** A load that begins this long after its run has joined it, ms. */
const JOINED_MS = 1000

/** A journey as it is walked with each client of a group, by the client's id; empty: a command walks it. */
type OfClients = ReadonlyMap<string, PreparedJourney>

export class Load {
  private readonly recorder: Recorder
  private readonly exemplars: ExemplarKeeper
  private readonly schedule: Schedule
  private readonly journeys: readonly OfClients[]
  private readonly around: UserSurroundings
  /** Also what was taken over from a lost generator. */
  private readonly arrivals: { schedule: Schedule, missing: (from: number, now: number) => void }[]
  /** What each held rate takes, as the controller said last, or as it is expected. */
  private readonly rates = new Map<number, { betweenS: number, mostRate: number, bounds: UserBounds }>()
  private rateTimer: NodeJS.Timeout | undefined
  /**
   * Users of groups that hold a rate, by group: they come and go as the rate asks; in a calibration, as the controller
   * does.
   */
  private readonly onCall = new Map<number, { user?: User, number: number, make: () => User }[]>()
  private readonly active = new Set<User>()
  /** Every group's users leave after this many passes: the load is over when they have, whatever the profile says. */
  private readonly endsByPasses: boolean
  private startsLeft = 0
  private secondTimer: NodeJS.Timeout | undefined
  private leaveTimer: NodeJS.Timeout | undefined
  private finished = false

  /**
   * @param startedAt monotonic moment of run second 0, ms
   * @throws TemplateError and its kin when a journey cannot be compiled
   */
  // eslint-disable-next-line max-lines-per-function -- a closure: its functions share what it keeps
  constructor(
    private readonly options: LoadOptions,
    private readonly startedAt: number,
  ) {
    const { document, health, supplies, trying } = options
    const { plan, target } = document
    this.endsByPasses = plan.groups.every(g => g.passes !== undefined)
    const random = seededRandom(plan.seed + (options.incarnation ^ (options.worker * 7919)))
    const rule = trying
      ? { failuresPerSecond: 0, slowest: false, oneInPasses: 1, mostMb: 16 }
      : (plan.exemplars ?? USUAL_EXEMPLARS)
    this.recorder = new Recorder({
      incarnation: options.incarnation,
      worker: options.worker,
      groups: plan.groups.length,
      startedAt,
      health: health.read,
      onFrame: options.onFrame,
    })
    const { generators, workers } = supplies.post
    const bounded = boundedRule(rule, runLengthMs(document), generators * workers)
    this.exemplars = new ExemplarKeeper(bounded, startedAt, options.onExemplar, options.onPass)
    const hosts = new Set(target.approval?.hosts ?? [])
    const connectors = [false, true].map(http2 =>
      approvedConnector({
        hosts,
        addressRanges: target.approval?.addressRanges ?? [],
        count: health.sockets,
        http2,
        ...(target.trust ? { trust: target.trust } : {}),
        ...(options.proxy ? { proxy: options.proxy } : {}),
      }),
    )
    const around: UserSurroundings = {
      recorder: this.recorder,
      lag: health.lag,
      random,
      nextInSequence: sequences(supplies.post),
      exchange: (http2, visitor, ended) => new UndiciExchange(connectors[http2 ? 1 : 0]!, visitor, http2, ended),
      insideName: target.insideName || undefined,
      exemplars: this.exemplars,
      mask: maskOf(supplies.secrets),
      startedAt,
      groups: plan.groups.map(g => g.letter),
      hurry: trying ?? false,
      gone: user => this.gone(user),
    }
    const exemplarBytes = rule.oneInPasses > 0 || rule.failuresPerSecond > 0 || rule.slowest ? EXEMPLAR_BODY_BYTES : 0
    const dealers = new Map<string, FeedDealer>()
    this.journeys = plan.groups.map((group): OfClients => {
      const journey = document.journeys.find(j => j.id === group.journeyId)
      // Users of a command journey are the command's.
      if (journey?.kind !== 'http') return new Map()
      const feeds = (journey.feeds ?? []).map((use) => {
        const given = supplies.feeds.get(use.feed)
        const rows = use.deal === 'once' ? given?.slice : given?.whole
        if (!given || !rows) throw new Error(`the feed ${use.feed} did not come along`)
        // Groups that share a feed share its rows: one row is never dealt to two of them.
        const key = `${use.feed} ${use.deal} ${use.atEnd}`
        let dealer = dealers.get(key)
        if (!dealer)
          dealers.set(key, (dealer = new FeedDealer(rows, use.deal, use.atEnd === 'again', supplies.post, random)))
        return {
          as: use.as,
          columns: given.columns,
          dealer,
          per: use.per,
          atEnd: use.atEnd === 'leave' ? ('leave' as const) : ('fail' as const),
        }
      })
      const prepared = {
        target,
        secrets: supplies.secrets,
        marking: {
          runId: options.runId,
          ...(trying ? { rehearsal: true } : {}),
          ...(plan.traces ? { traces: true } : {}),
        },
        feeds,
        files: supplies.files,
        exemplarBytes,
        ...(group.thinkScale === undefined ? {} : { thinkScale: group.thinkScale }),
      }
      return new Map(
        clientsOf(group).map(({ client: id }) => {
          const client = document.clients?.find(c => c.id === id)
          return [id, prepareJourney(journey, client ? { ...prepared, client } : prepared)]
        }),
      )
    })
    if (!trying && !document.calibration)
      for (const [g, group] of plan.groups.entries()) {
        if (group.drive?.kind !== 'requests') continue
        const { ms, requests } = expectedPass(
          document.journeys.find(j => j.id === group.journeyId),
          group,
        )
        this.rates.set(g, {
          betweenS: ms / 1000 / Math.max(1, requests),
          mostRate: Number.POSITIVE_INFINITY,
          bounds: group.drive,
        })
      }
    const done = () => this.finishIfEmpty()
    this.around = around
    this.schedule = new Schedule(cueList(this.cues(around)), startedAt, health.lag, done)
    this.arrivals = options.slice.arrivals.flatMap((arrivals) => {
      if (this.journeys[arrivals.group]!.size === 0) return []
      const list = this.arrivalCues(arrivals, around)
      return [{ schedule: new Schedule(list, startedAt, health.lag, done), missing: list.missing }]
    })
  }

  private cues(around: UserSurroundings): Cue[] {
    const { plan } = this.options.document
    const cues: Cue[] = []
    const sinceMs = performance.now() - this.startedAt
    const joins = sinceMs > JOINED_MS && !this.options.trying
    for (const [i, sliced] of this.options.slice.users.entries()) {
      if (this.journeys[sliced.group]!.size === 0) continue
      const group = plan.groups[sliced.group]!
      if (group.drive?.kind === 'requests' && !this.options.trying) {
        // Made when first called: many more may be allowed than ever come.
        const one = { number: sliced.number, make: () => this.userFor(sliced, around, 0) }
        const called = this.onCall.get(sliced.group)
        if (called) called.push(one)
        else this.onCall.set(sliced.group, [one])
        continue
      }
      const user = this.userFor(sliced, around, this.options.trying ? 1 : (group.passes ?? 0))
      for (const stay of sliced.stays) {
        const atMs = joins ? comesAt(stay, sinceMs, (i + 1) / this.options.slice.users.length) : stay.startMs
        if (atMs === undefined) continue
        this.startsLeft++
        cues.push({
          atMs,
          act: (now) => {
            this.startsLeft--
            this.start(user, now)
          },
        })
        if (!this.options.trying) cues.push({ atMs: stay.stopMs, act: now => this.leave(user, now) })
      }
    }
    // Users who are not there by a plan of their own leave when the profile ends.
    for (const group of new Set([...this.onCall.keys(), ...this.options.slice.arrivals.map(a => a.group)]))
      cues.push({ atMs: lengthMs(plan.groups[group]!.profile), act: now => this.leaveGroup(group, now) })
    // Where everybody leaves after a number of passes, the load is over when they have.
    const { lastsMs } = this.options
    if (lastsMs !== undefined && !this.endsByPasses)
      cues.push({
        atMs: lastsMs,
        act: () => {
          /* only the end of the list */
        },
      })
    return cues
  }

  private userFor(
    { group, number, firstSeries, network, client }: Omit<SlicedUser, 'stays'>,
    around: UserSurroundings,
    passes: number,
  ): User {
    const profile = network === DIRECT ? undefined : this.options.document.networks?.find(n => n.id === network)
    // A journey is prepared for each client of its group.
    return new User(group, number, firstSeries, this.journeys[group]!.get(client)!, around, passes, profile)
  }

  /** Each pass is a user of its own, as long as not too many are under way. */
  private arrivalCues(
    { group, atMs, numbers, kindOf, kinds }: SlicedArrivals,
    around: UserSurroundings,
  ): CueList & { missing: (from: number, now: number) => void } {
    const planned = this.options.document.plan.groups[group]!
    const most =
      planned.drive?.kind === 'arrivals' ? this.ownPart(planned.drive.mostInFlight) : Number.POSITIVE_INFINITY
    const { recorder, startedAt } = this
    const measure = (i: number) => {
      const { client, firstSeries } = kinds[kindOf[i]!]!
      // As above.
      return firstSeries + this.journeys[group]!.get(client)!.passMeasure
    }
    return {
      length: atMs.length,
      atMs: i => atMs[i]!,
      give: (i, now) => {
        if (recorder.present[group]! >= most) return recorder.passNotStarted(measure(i), now, 'ceiling')
        const user = this.userFor({ group, number: numbers[i]!, ...kinds[kindOf[i]!]! }, around, 1)
        this.start(user, now, startedAt + atMs[i]!)
      },
      missing: (from, now) => {
        for (let i = from; i < atMs.length; i++) recorder.passNotStarted(measure(i), now, 'stopped')
      },
    }
  }

  /** This worker's part of what a generator may have: the first workers take what does not divide. */
  private ownPart(most: number): number {
    const { worker, workers } = this.options.supplies.post
    return Math.floor(most / workers) + (worker < most % workers ? 1 : 0)
  }

  /** What a held rate takes from now on. Nobody saying anything more, it goes on with that. */
  holdRate(group: number, betweenS: number, mostRate: number): void {
    const rate = this.rates.get(group)
    if (rate) Object.assign(rate, { betweenS, mostRate })
  }

  /** Calls as many users of each held rate as its profile asks for now. */
  private readonly driveRates = (): void => {
    const sinceMs = performance.now() - this.startedAt
    for (const [group, { betweenS, mostRate, bounds }] of this.rates) {
      const { profile } = this.options.document.plan.groups[group]!
      if (sinceMs < lengthMs(profile))
        this.steer(group, wholeUsers(Math.min(levelAt(profile, sinceMs), mostRate), betweenS, bounds, sinceMs / 1000))
    }
  }

  /** As many users of a group that holds a rate as are asked for: the lowest numbers of all generators together. */
  steer(group: number, users: number): void {
    if (this.finished || this.schedule.finished) return
    const now = performance.now()
    for (const one of this.onCall.get(group) ?? []) {
      const here = one.user !== undefined && this.active.has(one.user) && !one.user.isLeaving
      if (one.number <= users && !here) this.start((one.user ??= one.make()), now)
      else if (one.number > users && one.user && here) this.leave(one.user, now)
    }
  }

  /**
   * Plays users of a lost generator too: those who should be there come over some seconds, the others when they are
   * due. Passes that are due from now on start here.
   */
  takeOver({ users, arrivals }: Slice): void {
    if (this.finished || this.schedule.finished) return
    const sinceMs = performance.now() - this.startedAt
    const cues: Cue[] = []
    users.forEach((sliced, i) => {
      if (this.journeys[sliced.group]!.size === 0) return
      const { passes = 0 } = this.options.document.plan.groups[sliced.group]!
      const user = this.userFor(sliced, this.around, passes)
      for (const stay of sliced.stays) {
        const atMs = comesAt(stay, sinceMs, (i + 1) / users.length)
        if (atMs !== undefined)
          cues.push(
            { atMs, act: now => this.start(user, now) },
            { atMs: stay.stopMs, act: now => this.leave(user, now) },
          )
      }
    })
    for (const { group } of arrivals)
      cues.push({
        atMs: lengthMs(this.options.document.plan.groups[group]!.profile),
        act: now => this.leaveGroup(group, now),
      })
    this.follow(cueList(cues), () => {
      /* they are not passes */
    })
    for (const taken of arrivals) {
      if (this.journeys[taken.group]!.size === 0) continue
      const list = this.arrivalCues(from(taken, sinceMs), this.around)
      this.follow(list, list.missing)
    }
  }

  /** Begins with one more list of cues now. */
  private follow(list: CueList, missing: (from: number, now: number) => void): void {
    const schedule = new Schedule(list, this.startedAt, this.options.health.lag, () => this.finishIfEmpty())
    this.arrivals.push({ schedule, missing })
    schedule.run()
  }

  /** Begins; call before the start moment, or later to join a run that loads. */
  run(): void {
    this.recorder.begin(performance.now())
    const wait = Math.max(0, this.startedAt - performance.now())
    this.secondTimer = setTimeout(() => {
      this.schedule.run()
      for (const { schedule } of this.arrivals) schedule.run()
      this.everySecond()
      if (this.rates.size === 0) return
      this.driveRates()
      this.rateTimer = setInterval(this.driveRates, DRIVE_RATES_MS)
    }, wait)
  }

  /** Everybody leaves as soon as their answer is in; nobody new starts. */
  drain(): void {
    const now = performance.now()
    this.stopStarting(now)
    for (const user of [...this.active]) this.leave(user, now)
    this.finishIfEmpty()
  }

  /** Everybody goes now. */
  abort(): void {
    this.stopStarting(performance.now())
    this.cutAll()
    this.finishIfEmpty()
  }

  /** Nobody new comes; passes that were still due are counted. */
  private stopStarting(now: number): void {
    clearInterval(this.rateTimer)
    this.schedule.stop()
    for (const { schedule, missing } of this.arrivals) {
      missing(schedule.position, now)
      schedule.stop()
    }
  }

  private start(user: User, now: number, dueAt?: number): void {
    this.recorder.roll(now)
    this.active.add(user)
    user.start(now, dueAt)
  }

  private leaveGroup(group: number, now: number): void {
    for (const user of [...this.active]) if (user.group === group) this.leave(user, now)
  }

  private leave(user: User, now: number): void {
    this.recorder.roll(now)
    user.leave()
    if (user.away) return
    // One timer serves everybody who leaves in the same stretch; it is set anew by the first who leaves after it fired.
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
    if (this.finished || this.active.size > 0) return
    const allGiven = this.schedule.finished && this.arrivals.every(a => a.schedule.finished)
    if (!allGiven && !(this.endsByPasses && this.startsLeft === 0 && this.arrivals.length === 0)) return
    this.finished = true
    this.schedule.stop()
    clearTimeout(this.secondTimer)
    clearTimeout(this.leaveTimer)
    clearInterval(this.rateTimer)
    this.exemplars.finish()
    this.recorder.finish(performance.now())
    this.options.onFinished(this.exemplars.dropped)
  }
}

/**
 * When somebody comes whose stay may have begun already: those who should be there come one after the other. @param
 * part place in that row, 0–1 @returns ms from the start of the run; undefined: not any more
 */
function comesAt({ startMs, stopMs }: Stay, sinceMs: number, part: number): number | undefined {
  const atMs = startMs >= sinceMs ? startMs : sinceMs + part * CATCH_UP_MS
  return atMs < stopMs ? atMs : undefined
}

/** Those that are due from a moment on. */
function from(arrivals: SlicedArrivals, sinceMs: number): SlicedArrivals {
  const first = arrivals.atMs.findIndex(ms => ms >= sinceMs)
  const at = first < 0 ? arrivals.atMs.length : first
  return {
    ...arrivals,
    atMs: arrivals.atMs.subarray(at),
    numbers: arrivals.numbers.subarray(at),
    kindOf: arrivals.kindOf.subarray(at),
  }
}

/** Most worker threads a generator is thought to have, for numbers that are never the same twice in a run. */
const MOST_WORKERS = 256

/**
 * Numbers of sequences: each worker counts in a stride that only it has. From 1 on the first worker of the first
 * generator.
 */
function sequences({ generator, generators, worker }: DealerPost): (name: string) => number {
  const turns = new Map<string, number>()
  const stride = generators * MOST_WORKERS
  return (name) => {
    const turn = turns.get(name) ?? 0
    turns.set(name, turn + 1)
    return turn * stride + generator * MOST_WORKERS + worker + 1
  }
}

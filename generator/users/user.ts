/**
 * One simulated user: walks its journey step by step, thinks between steps, judges each answer and records it. Written
 * as callbacks on one long-lived object, because thousands of these share a thread.
 */
import { drawThinkMs, type Stage } from '../../core/journey/journey'
import { DIRECT, type NetworkProfile } from '../../core/network/profile'
import type { FailureKind } from '../../core/journey/failure-kinds'
import type { ValueScope } from '../../core/values/scope'
import { bodyBytes, type Exchange, type Outcome, type PreparedRequest } from '../exchange/exchange'
import type { Visitor } from '../exchange/approved-connector'
import { CookieKeeper } from '../journey/cookie-keeper'
import { recordOf, type JudgedExchange } from '../journey/exchange-record'
import type { ExemplarKeeper } from '../journey/exemplar-keeper'
import { LoadedAnswer } from '../journey/loaded-answer'
import { PassLog } from '../journey/pass-log'
import type { Mask } from '../journey/masking'
import type { PreparedJourney, PreparedPart, PreparedStep } from '../journey/prepared'
import type { Recorder } from '../../protocol/recorder'
import { NOT_ON_THE_LINE, type OnTheLine } from '../../protocol/series-second'
import { insideMs, onTheLine } from './on-the-line'
import { UserNetwork } from '../shaper/user-network'
import { isRedirect, redirected, redirectTarget } from './redirect'

/** What all users of a worker share. */
export interface UserSurroundings {
  recorder: Recorder
  /** Notes how late an act began, ms. */
  lag: (ms: number) => void
  random: () => number
  /** Next number of a sequence: never the same twice in a run. */
  nextInSequence: (name: string) => number
  /** Makes one of a user's roads to the target; its outcomes go to `ended`. */
  exchange: (http2: boolean, visitor: Visitor, ended: (outcome: Outcome) => void) => Exchange
  /** Name of the `Server-Timing` metric that is the time inside; undefined: none. */
  insideName: string | undefined
  exemplars: ExemplarKeeper
  mask: Mask
  /** Monotonic moment of run second 0, ms. */
  startedAt: number
  /** Letters of the plan's groups. */
  groups: readonly string[]
  /** Pauses are left out: a rehearsal or a try. */
  hurry: boolean
  /** A user has gone. */
  gone: (user: User) => void
}

/** `away`: not there. `thinking`: a timer runs. `waiting`: at least one exchange is under way. */
type State = 'away' | 'thinking' | 'waiting'

/**
 * One road to the target with what is under way on it. A single request takes the first; a bundle as many as go at
 * once.
 */
interface Road {
  exchange: Exchange
  answer: LoadedAnswer
  part: PreparedPart
  /** As it was sent first, and as it is under way: after a redirect, another. */
  first: PreparedRequest
  request: PreparedRequest
  /** Begin of the first request, before any redirect, ms. */
  beganAt: number
  hops: { status: number, url: string, to: string }[]
  /** How long connections took that were made for earlier hops, and in which parts; −1 and undefined where none was. */
  connectMs: number
  handshake: Outcome['handshake']
}

/**
 * Pause after a failure when the step has none, ms: a refusing target must not be hammered harder than a working one.
 */
const LEAST_PAUSE_AFTER_FAILURE_MS = 100
const NO_HOPS: Road['hops'] = []

export class User implements ValueScope {
  private state: State = 'away'
  private leaving = false
  private stage: Stage = 'opening'
  private at = 0
  /**
   * Moment the next (or current) step should begin, on the monotonic clock, ms. A paced pass can be late through the
   * target's fault.
   */
  private intendedAt = 0
  /** Moment its timer should fire: what is later is this generator's fault. */
  private dueAt = 0
  /** A request of this stay has been sent. */
  private begun = false
  private timer: NodeJS.Timeout | undefined
  private roads: Road[] = []
  private visitor: Visitor
  private readonly cookies = new CookieKeeper()

  private readonly line: OnTheLine = { ...NOT_ON_THE_LINE }

  // The step under way.
  private stepBeganAt = 0
  private nextPart = 0
  private under = 0
  private stepFailure: FailureKind | undefined

  // The pass under way.
  private pass = 0
  private passIntendedAt = 0
  /** Its first step has not begun. */
  private passDue = false
  /** Pauses drawn so far. */
  private passPausesMs = 0
  /** It is one in n: kept whatever comes of it. */
  private passChosen = false
  /** Its exchanges are kept, from here on. */
  private passKept = false
  /** All its steps are through. */
  private passDone = false
  private readonly log = new PassLog()
  private readonly spanBeganAt: number[]
  private readonly spanBusyMs: number[]
  private readonly spanFailure: (FailureKind | undefined)[]
  private roundBusyMs = 0
  private roundFailure: FailureKind | undefined

  // Values for templates.
  rows: (string[] | undefined)[]
  captured: (string | undefined)[]

  /**
   * @param userNumber within the group, from 1
   * @param firstSeries number of the journey's first measure
   * @param passes after this many the user leaves by itself; 0: as planned
   * @param network what is added to the real network of this user
   */
  constructor(
    readonly group: number,
    readonly userNumber: number,
    private readonly firstSeries: number,
    private readonly journey: PreparedJourney,
    private readonly around: UserSurroundings,
    private readonly passes = 0,
    private readonly network?: NetworkProfile,
  ) {
    this.visitor = { sessions: new Map(), network: network && new UserNetwork(network, around.random) }
    this.spanBeganAt = journey.spans.map(() => -1)
    this.spanBusyMs = journey.spans.map(() => 0)
    this.spanFailure = journey.spans.map(() => undefined)
    this.rows = journey.feeds.map(() => undefined)
    this.captured = new Array<string | undefined>(journey.captures).fill(undefined)
  }

  get away(): boolean {
    return this.state === 'away'
  }

  get isLeaving(): boolean {
    return this.leaving
  }

  get passNumber(): number {
    return this.pass
  }

  random(): number {
    return this.around.random()
  }

  next(sequence: string): number {
    return this.around.nextInSequence(sequence)
  }

  now(): number {
    return performance.timeOrigin + performance.now()
  }

  /**
   * Begins a stay. The first pause is random, so that users who start together do not march in step.
   *
   * @param dueAt for a pass that arrives at a moment of its own: it begins at once, and its wait counts from then
   */
  start(now: number, dueAt?: number): void {
    this.around.recorder.present[this.group]!++
    this.leaving = false
    // Called back while the last answer of the stay before is still out: the user simply stays.
    if (this.state !== 'away') return
    this.pass = 0
    this.begun = false
    this.beSomebodyNew()
    if (!this.dealRows('user')) {
      this.around.recorder.passNotStarted(this.firstSeries + this.journey.passMeasure, now, 'noRow')
      return this.leave()
    }
    const pause = this.around.hurry || dueAt !== undefined ? 0 : this.around.random() * this.journey.meanThinkMs
    this.passIntendedAt = dueAt ?? now + pause
    this.beginPass(now)
    if (this.state === 'away' && !this.leaving) this.think(pause, this.passIntendedAt)
  }

  /** Ends the stay: after the current answer, and the closing where there is one. */
  leave(): void {
    if (this.leaving) return
    this.leaving = true
    this.around.recorder.present[this.group]!--
    if (this.state === 'waiting') return
    clearTimeout(this.timer)
    if (this.begun) this.depart()
    else this.go()
  }

  /** Ends the stay now; exchanges under way are broken off, which is no failure. */
  cut(now: number): void {
    if (this.state === 'away') return
    if (!this.leaving) {
      this.leaving = true
      this.around.recorder.present[this.group]!--
    }
    for (const road of this.roads) {
      if (road.beganAt === 0) continue
      road.exchange.cut()
      this.around.recorder.cutOff(this.firstSeries + road.part.measure, now)
      road.beganAt = 0
    }
    this.go()
  }

  // From pass to pass, from step to step.

  /** Sets out on the next pass; the opening comes first where it is due. */
  private beginPass(now: number): void {
    this.endLog(now, false)
    this.pass++
    this.passDue = true
    this.passKept = this.passChosen = this.around.exemplars.keepsPass()
    this.passDone = false
    if (!this.dealRows('pass')) {
      this.around.recorder.passNotStarted(this.firstSeries + this.journey.passMeasure, now, 'noRow')
      return this.leave()
    }
    this.stage = this.journey.opening.length > 0 && (this.pass === 1 || this.journey.fresh) ? 'opening' : 'round'
    this.at = 0
    this.roundBusyMs = 0
    this.roundFailure = undefined
    this.passPausesMs = 0
  }

  private step(): PreparedStep {
    return this.journey[this.stage][this.at]!
  }

  /** @param intendedAt when the step should begin, if that is not when the pause is over */
  private think(ms: number, intendedAt?: number): void {
    const now = performance.now()
    this.state = 'thinking'
    this.dueAt = now + Math.max(0, ms)
    this.intendedAt = intendedAt ?? this.dueAt
    if (ms > 0) this.timer = setTimeout(this.act, ms)
    else this.act()
  }

  private readonly act = (): void => {
    const now = performance.now()
    // Timers can fire up to a millisecond early: wait the rest rather than count a negative delay.
    if (now < this.dueAt) {
      if (this.dueAt - now > 0.5) {
        this.timer = setTimeout(this.act, 1)
        return
      }
      this.intendedAt = Math.min(this.intendedAt, now)
      this.dueAt = now
    }
    this.around.lag(now - this.dueAt)
    this.state = 'waiting'
    this.begun = true
    if (this.passDue && this.stage !== 'closing') {
      this.passDue = false
      this.around.recorder.passBegan(this.firstSeries + this.journey.passMeasure, now)
    }
    const step = this.step()
    this.stepBeganAt = -1
    this.stepFailure = undefined
    this.nextPart = 0
    this.under = 0
    const roads = step.bundle ? Math.min(step.bundle.parallel, step.parts.length) : 1
    for (let i = 0; i < roads && this.sendNext(i, now); i++);
  }

  /**
   * Sends the next request of the step on a road, or ends the step when it was the last. @returns whether it is still
   * under way
   */
  private sendNext(number: number, lastEndedAt: number): boolean {
    const step = this.step()
    // A request that cannot be made fails unsent; the loop goes on to the next without growing the stack.
    while (this.nextPart < step.parts.length) {
      const part = step.parts[this.nextPart++]!
      const request = part.fixed ?? part.build(this)
      const now = performance.now()
      if (this.stepBeganAt < 0) this.beginTiming(step, now)
      this.around.recorder.started(this.firstSeries + part.measure, now)
      if (typeof request !== 'string') {
        this.under++
        const road = (this.roads[number] ??= this.openRoad(number))
        road.part = part
        road.beganAt = now
        road.hops = NO_HOPS
        road.connectMs = -1
        road.handshake = undefined
        road.first = road.request = this.withCookies(request)
        road.exchange.send(road.request)
        return true
      }
      const kind = this.rows.some((row, i) => !row && request.startsWith(`${this.journey.journey.feeds?.[i]?.as}.`))
        ? 'noRow'
        : 'value'
      this.stepFailure ??= kind
      this.around.recorder.failed(this.firstSeries + part.measure, now, kind, 'neverSent', 0, NOT_ON_THE_LINE)
      this.log.add(part, now, now, -1, NOT_ON_THE_LINE, undefined, -1, kind)
    }
    if (this.under > 0) return true
    this.stepOver(Math.max(lastEndedAt, this.stepBeganAt))
    return false
  }

  /** The step's first request goes out now: from here on it, and the spans that begin with it, are timed. */
  private beginTiming(step: PreparedStep, now: number): void {
    this.stepBeganAt = now
    for (const span of step.spansBegin) {
      this.spanBeganAt[span] = now
      this.spanBusyMs[span] = 0
      this.spanFailure[span] = undefined
    }
  }

  private withCookies(request: PreparedRequest): PreparedRequest {
    const cookies = this.cookies.lineFor(request.origin, request.path)
    if (cookies === '') return request
    const { origin, path, method, headers, body, timeoutMs, keepBytes, needsWhole, saysHost } = request
    const lines = headers.slice()
    lines.push('cookie', cookies)
    // Written out: a spread of eight fields took four times as long.
    return { origin, path, method, headers: lines, body, timeoutMs, keepBytes, needsWhole, saysHost }
  }

  private openRoad(number: number): Road {
    // What is missing is set below, before anything is sent on it.
    const road = { answer: new LoadedAnswer(), beganAt: 0, hops: NO_HOPS } as unknown as Road
    road.exchange = this.around.exchange(this.journey.http2, this.visitor, outcome =>
      this.exchangeEnded(number, road, outcome),
    )
    return road
  }

  // eslint-disable-next-line max-lines-per-function -- one calculation or case after the other, with what they share
  private exchangeEnded(number: number, road: Road, outcome: Outcome): void {
    const { part } = road
    const { recorder, exemplars } = this.around
    const series = this.firstSeries + part.measure
    const answer = road.answer.of(outcome)
    if (outcome.status > 0) {
      const lines = answer.setCookies()
      if (lines) this.cookies.take(road.request.origin + road.request.path, lines)
      if (outcome.failure === undefined && part.redirects > 0 && this.followed(road, outcome, series)) return
    }
    const now = outcome.endedAt
    const responseMs = now - road.beganAt
    const seen = this.judge(road, outcome, answer, series)
    const judged: JudgedExchange =
      outcome.readLate && outcome.failure === undefined
        ? {
            ...seen,
            failure: 'ownDelay',
            problem: `answered in time, but read ${Math.round(responseMs)} ms after it was asked: the generator stood still`,
          }
        : seen
    const { failure } = judged
    const tookInsideMs = insideMs(answer, this.around.insideName)
    if (failure === undefined) {
      // The first request of a step should have begun when its pause was over; those behind it in a bundle begin when a
      // road is free.
      const late = part === this.step().parts[0] ? Math.max(0, road.beganAt - this.intendedAt) : 0
      recorder.right(
        series,
        now,
        responseMs,
        responseMs + late,
        outcome.firstByteAt - road.beganAt,
        onTheLine(this.line, road, outcome, 'sent'),
        tookInsideMs,
      )
    }
    else {
      // A timeout counts as at least its limit, so that a dying target cannot look faster.
      const reach = road.hops.length > 0 ? 'sent' : outcome.failure === undefined ? 'sent' : outcome.reach
      recorder.failed(
        series,
        now,
        failure,
        reach,
        failure === 'timeout' ? Math.max(responseMs, part.timeoutMs) : responseMs,
        onTheLine(this.line, road, outcome, reach),
      )
      this.stepFailure ??= failure
    }
    const firstByteAt = outcome.status > 0 ? outcome.firstByteAt : -1
    const handshake = outcome.handshake ?? road.handshake
    this.log.add(part, road.beganAt, now, firstByteAt, this.line, handshake, tookInsideMs, failure)
    const keptFor = exemplars.wants(series, now, responseMs, failure, this.passKept)
    // What came of a failure is kept with it.
    if (keptFor === 'failure') this.passKept = true
    if (keptFor) {
      exemplars.take(
        series,
        responseMs,
        recordOf({
          keptFor,
          group: this.around.groups[this.group] ?? '',
          journeyId: this.journey.journey.id,
          user: this.userNumber,
          pass: this.pass,
          startedAt: this.around.startedAt,
          beganAt: road.beganAt,
          part,
          request: road.first,
          outcome,
          answer,
          hops: road.hops,
          handshake,
          insideMs: tookInsideMs,
          judged,
          mask: this.around.mask,
        }),
      )
    }
    answer.forget()
    road.beganAt = 0
    this.under--
    this.sendNext(number, now)
  }

  /** Goes after a redirect. @returns false when the answer is none, or one too many */
  private followed(road: Road, outcome: Outcome, series: number): boolean {
    if (!isRedirect(outcome.status)) return false
    const from = road.request.origin + road.request.path
    const to = redirectTarget(road.answer.header('location'), from)
    if (!to) return false
    if (road.hops.length >= road.part.redirects) {
      outcome.failure = 'redirects'
      outcome.problem = `more than ${road.part.redirects} redirects, the last to ${to.href}`
      return false
    }
    road.hops = [...road.hops, { status: outcome.status, url: from, to: to.href }]
    if (outcome.connectMs >= 0) {
      road.connectMs = outcome.connectMs
      road.handshake = outcome.handshake
    }
    this.around.recorder.redirected(series, outcome.endedAt, bodyBytes(road.request))
    road.request = this.withCookies(
      redirected(
        road.request,
        outcome.status,
        to,
        road.hops.length,
        road.part.timeoutMs - (outcome.endedAt - road.beganAt),
      ),
    )
    road.exchange.send(road.request)
    return true
  }

  /** Holds the answer against what was expected and takes values out of it. */
  private judge({ part }: Road, outcome: Outcome, answer: LoadedAnswer, series: number): JudgedExchange {
    if (outcome.failure !== undefined) return { failure: outcome.failure, problem: outcome.problem, caught: [] }
    if (part.onlyStatus)
      return part.onlyStatus.has(outcome.status)
        ? RIGHT
        : { failure: 'status', problem: `answered ${outcome.status}, ${part.checks[0]!.name} expected`, caught: [] }
    let failure: FailureKind | undefined
    let problem = ''
    for (let i = 0; i < part.checks.length; i++) {
      const check = part.checks[i]!
      if (check.holds(answer)) continue
      this.around.recorder.missed(series, outcome.endedAt, i)
      if (check.onlyCount || failure !== undefined) continue
      failure = check.kind === 'status' ? 'status' : 'expectation'
      problem =
        check.kind === 'status'
          ? `answered ${outcome.status}, ${check.name} expected`
          : `expected: ${check.name}; saw ${check.saw(answer)}`
    }
    const caught =
      part.catches.length === 0
        ? NONE
        : part.catches.map((c) => {
            const value = c.take(answer) ?? c.otherwise
            if (value === undefined) {
              this.around.recorder.missed(series, outcome.endedAt, c.missNumber)
              if (failure === undefined) {
                failure = 'capture'
                problem = `the answer has no ${c.name}`
              }
            }
            this.captured[c.slot] = value
            return value
          })
    return { failure, problem, caught }
  }

  /** All requests of a step are through. */
  private stepOver(now: number): void {
    const step = this.step()
    const { recorder } = this.around
    const busyMs = now - this.stepBeganAt
    const failure = this.stepFailure
    this.log.busyMs += busyMs
    if (step.bundle) recorder.timed(this.firstSeries + step.bundle.measure, now, busyMs, failure)
    for (let span = 0; span < this.spanBeganAt.length; span++) {
      if (this.spanBeganAt[span]! < 0) continue
      this.spanBusyMs[span]! += busyMs
      this.spanFailure[span] ??= failure
    }
    for (const span of step.spansEnd) this.endSpan(span, now)
    if (this.stage === 'round') {
      this.roundBusyMs += busyMs
      this.roundFailure ??= failure
    }
    this.goOn(now, step, failure)
  }

  private endSpan(span: number, now: number): void {
    const began = this.spanBeganAt[span]!
    if (began < 0) return
    const { measure, withThink } = this.journey.spans[span]!
    this.around.recorder.timed(
      this.firstSeries + measure,
      now,
      withThink ? now - began : this.spanBusyMs[span]!,
      this.spanFailure[span],
    )
    this.spanBeganAt[span] = -1
  }

  private goOn(now: number, step: PreparedStep, failure: FailureKind | undefined): void {
    const { journey } = this
    const broken = failure !== undefined && journey.newPassAfterFailure && this.stage !== 'closing'
    const last = this.at + 1 >= journey[this.stage].length
    if (last && this.stage === 'round') this.passDone = true
    if (this.stage === 'closing' && last) {
      if (this.leaving) return this.go()
      // Called back while on the way out: a new stay begins.
      if (!journey.fresh) {
        this.pass = 0
        this.beSomebodyNew()
      }
      return this.nextPass(now, step, failure)
    }
    if (broken) this.breakPass(now)
    if (last && this.stage === 'round' && !broken && journey.roundMeasure >= 0)
      this.around.recorder.timed(this.firstSeries + journey.roundMeasure, now, this.roundBusyMs, this.roundFailure)
    if (this.passes > 0 && this.pass >= this.passes && (broken || (last && this.stage === 'round'))) this.leave()
    if (this.leaving && this.stage !== 'closing') return this.depart()
    if (broken || (last && this.stage === 'round')) {
      if (!journey.fresh || journey.closing.length === 0) return this.nextPass(now, step, failure)
      this.stage = 'closing'
      this.at = 0
    }
    else if (last) {
      this.stage = 'round'
      this.at = 0
    }
    else this.at++
    this.think(this.pauseAfter(step, failure))
  }

  private nextPass(now: number, step: PreparedStep, failure: FailureKind | undefined): void {
    const pause = this.pauseAfter(step, failure)
    const { pacingMs } = this.journey
    // Where the target answers at once, a pass takes its rhythm, or its own pauses where they are longer.
    const rhythmMs = Math.max(pacingMs, this.passPausesMs)
    this.state = 'away'
    if (this.journey.fresh) this.beSomebodyNew()
    this.beginPass(now)
    if (this.leaving) return
    if (pacingMs === 0 || this.around.hurry) {
      this.passIntendedAt = now + pause
      return this.think(pause)
    }
    // A paced pass that comes too late begins at once, and its wait is counted from when it should have begun.
    this.passIntendedAt += rhythmMs
    this.think(Math.max(now + pause, this.passIntendedAt) - now, this.passIntendedAt)
  }

  /** The rest of the pass is left out; what it would have timed has failed. */
  private breakPass(now: number): void {
    for (let span = 0; span < this.spanBeganAt.length; span++) this.endSpan(span, now)
    if (this.stage === 'round' && this.journey.roundMeasure >= 0)
      this.around.recorder.timed(this.firstSeries + this.journey.roundMeasure, now, this.roundBusyMs, this.roundFailure)
  }

  private pauseAfter(step: PreparedStep, failure: FailureKind | undefined): number {
    const pause = this.around.hurry ? 0 : drawThinkMs(step.think, this.around.random)
    this.passPausesMs += pause
    return failure !== undefined && !this.around.hurry && pause < LEAST_PAUSE_AFTER_FAILURE_MS
      ? LEAST_PAUSE_AFTER_FAILURE_MS
      : pause
  }

  /** On the way out: the closing, where there is one. */
  private depart(): void {
    this.spanBeganAt.fill(-1)
    if (this.journey.closing.length === 0 || this.stage === 'closing') return this.go()
    this.stage = 'closing'
    this.at = 0
    this.think(0)
  }

  private go(): void {
    clearTimeout(this.timer)
    this.endLog(performance.now(), !this.passDone)
    this.state = 'away'
    this.spanBeganAt.fill(-1)
    for (const road of this.roads) road.exchange.close()
    this.roads = []
    this.around.gone(this)
  }

  /** The pass under way is over: it is kept, or forgotten. @param cut it did not come to its end */
  private endLog(now: number, cut: boolean): void {
    const { log } = this
    if (log.exchanges > 0) {
      const { exemplars, groups, startedAt } = this.around
      const { id } = this.journey.journey
      const keptFor = exemplars.wantsPass(id, now, log.busyMs, log.failure, this.passChosen, cut)
      if (keptFor)
        exemplars.takePass(
          log.recordOf({
            keptFor,
            group: groups[this.group] ?? '',
            journeyId: id,
            network: this.network?.id ?? DIRECT,
            client: this.journey.client,
            user: this.userNumber,
            pass: this.pass,
            startedAt,
            endedAt: now,
            cut,
          }),
        )
    }
    log.clear()
  }

  /** Cookies, connections, sessions and captured values are gone. */
  private beSomebodyNew(): void {
    this.cookies.clear()
    this.visitor = { sessions: new Map(), network: this.visitor.network }
    this.captured.fill(undefined)
    for (const road of this.roads) road.exchange.close()
    this.roads = []
  }

  /** Takes the rows that are due. @returns false when a feed has run out and its users leave then */
  private dealRows(per: 'user' | 'pass'): boolean {
    const { feeds } = this.journey
    for (let i = 0; i < feeds.length; i++) {
      const feed = feeds[i]!
      if (feed.per !== per) continue
      this.rows[i] = feed.dealer.next()
      if (!this.rows[i] && feed.atEnd === 'leave') return false
    }
    return true
  }
}

const NONE: (string | undefined)[] = []
const RIGHT: JudgedExchange = { failure: undefined, problem: '', caught: NONE }

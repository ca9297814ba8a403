/**
 * One simulated user: goes through the round step by step, thinks between steps, judges each answer and records it. Written as callbacks on one
 * long-lived object, because thousands of these share a thread.
 */
import { drawThinkMs, meanThinkMs, type Step, type ThinkTime } from '../../core/journey/journey'
import type { Exchange, Outcome, PreparedRequest } from '../exchange/exchange'
import type { Recorder } from '../../protocol/recorder'

/** A step as its users need it. */
export interface PreparedStep {
  request: PreparedRequest
  think: ThinkTime
  expectStatus: ReadonlySet<number>
  expectText: string | undefined
}

/** What all users of a worker share. */
export interface Surroundings {
  recorder: Recorder
  /** Notes how late an act began, ms. */
  lag: (ms: number) => void
  random: () => number
  /** Makes a user's exchange; its outcomes go to `ended`. */
  exchange: (ended: (outcome: Outcome) => void) => Exchange
  /** A user has gone. */
  gone: (user: User) => void
}

type State = 'away' | 'thinking' | 'waiting'

export class User {
  private state: State = 'away'
  private leaving = false
  private exchange: Exchange | undefined
  private at = 0
  /** Moment the next (or current) request should begin, on the monotonic clock, ms. */
  private intendedAt = 0
  private timer: NodeJS.Timeout | undefined

  constructor(readonly group: number, private readonly firstSeries: number, private readonly steps: readonly PreparedStep[], private readonly around: Surroundings) {}

  get away(): boolean { return this.state === 'away' }
  get isLeaving(): boolean { return this.leaving }

  /** Begins a stay. The first pause is random, so that users who start together do not march in step. */
  start(now: number): void {
    this.around.recorder.present[this.group]!++
    this.leaving = false
    // Called back while the last answer of the stay before is still out: the user simply stays.
    if (this.state !== 'away') return
    this.at = 0
    this.exchange ??= this.around.exchange(this.exchangeEnded)
    const meanMs = this.steps.reduce((sum, s) => sum + meanThinkMs(s.think), 0) / this.steps.length
    this.think(now, this.around.random() * meanMs)
  }

  /** Ends the stay as soon as the current answer is in. */
  leave(): void {
    if (this.state === 'away' || this.leaving) return
    this.leaving = true
    this.around.recorder.present[this.group]!--
    if (this.state === 'thinking') this.go()
  }

  /** Ends the stay now; an exchange under way is broken off, which is no failure. */
  cut(now: number): void {
    if (this.state === 'away') return
    this.leave()
    if (this.state === 'waiting') {
      this.exchange!.cut()
      this.around.recorder.cutOff(this.firstSeries + this.at, now)
      this.go()
    }
  }

  private think(now: number, ms: number): void {
    this.state = 'thinking'
    this.intendedAt = now + ms
    if (ms > 0) this.timer = setTimeout(this.act, ms)
    else this.act()
  }

  private readonly act = (): void => {
    const now = performance.now()
    // Timers can fire up to a millisecond early: wait the rest rather than count a negative delay.
    if (now < this.intendedAt) {
      if (this.intendedAt - now > 0.5) {
        this.timer = setTimeout(this.act, 1)
        return
      }
      this.intendedAt = now
    }
    this.around.lag(now - this.intendedAt)
    this.state = 'waiting'
    this.around.recorder.started(this.firstSeries + this.at, now)
    this.exchange!.send(this.steps[this.at]!.request)
  }

  private readonly exchangeEnded = (outcome: Outcome): void => {
    const step = this.steps[this.at]!
    const { recorder } = this.around
    const series = this.firstSeries + this.at
    const now = outcome.endedAt
    const responseMs = now - outcome.beganAt
    if (outcome.failure !== undefined) {
      // A timeout counts as at least its limit, so that a dying target cannot look faster.
      const atLeast = outcome.failure === 'timeout' ? Math.max(responseMs, step.request.timeoutMs) : responseMs
      recorder.failed(series, now, outcome.failure, outcome.reach, atLeast, outcome.connectMs, outcome.bytes)
    }
    else if (!step.expectStatus.has(outcome.status)) recorder.failed(series, now, 'status', 'sent', responseMs, outcome.connectMs, outcome.bytes)
    else if (step.expectText !== undefined && !outcome.body.includes(step.expectText)) recorder.failed(series, now, 'expectation', 'sent', responseMs, outcome.connectMs, outcome.bytes)
    else recorder.right(series, now, responseMs, now - this.intendedAt, outcome.firstByteAt - outcome.beganAt, outcome.connectMs, outcome.bytes)
    if (this.leaving) return this.go()
    this.at = this.at + 1 === this.steps.length ? 0 : this.at + 1
    const pause = drawThinkMs(step.think, this.around.random)
    // A failed exchange without any pause would spin; a refusing target must not be hammered harder than a working one.
    this.think(now, outcome.failure !== undefined && pause < LEAST_PAUSE_AFTER_FAILURE_MS ? LEAST_PAUSE_AFTER_FAILURE_MS : pause)
  }

  private go(): void {
    clearTimeout(this.timer)
    this.state = 'away'
    this.exchange!.close()
    this.exchange = undefined
    this.around.gone(this)
  }
}

/** Pause after a failure when the step has none, ms. */
const LEAST_PAUSE_AFTER_FAILURE_MS = 100

export function prepareStep(step: Step, request: PreparedRequest): PreparedStep {
  return { request, think: step.think, expectStatus: new Set(step.expectStatus), expectText: step.expectText }
}

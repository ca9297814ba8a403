/** The load of one worker: its users, their schedule and their recorder, from the start moment to the last one gone. */
import type { RunDocument } from '../../core/plan/document'
import type { SlicedUser } from '../../core/plan/slice'
import { approvedConnector } from '../exchange/approved-connector'
import { prepareRequest } from '../exchange/prepare-request'
import { UndiciExchange } from '../exchange/undici-exchange'
import type { HealthReader } from './health'
import { seededRandom } from '../../core/random/seeded'
import { Recorder, type CutFrame } from '../../protocol/recorder'
import { Schedule, type Cue } from './schedule'
import { prepareStep, User, type Surroundings } from './user'

export interface LoadOptions {
  runId: string
  document: RunDocument
  users: readonly SlicedUser[]
  incarnation: number
  worker: number
  /** Users that still wait for an answer this long after they should have left are cut off, ms. */
  leaveMs: number
  health: HealthReader
  onFrame: (frame: CutFrame) => void
  /** Everybody has gone and the last frame is cut. */
  onFinished: () => void
}

export class Load {
  private readonly recorder: Recorder
  private readonly schedule: Schedule
  private readonly active = new Set<User>()
  private secondTimer: NodeJS.Timeout | undefined
  private leaveTimer: NodeJS.Timeout | undefined
  private finished = false

  /** @param startedAt monotonic moment of run second 0, ms */
  constructor(private readonly options: LoadOptions, private readonly startedAt: number) {
    const { document, health } = options
    const random = seededRandom(document.plan.seed + (options.incarnation ^ (options.worker * 7919)))
    this.recorder = new Recorder({ incarnation: options.incarnation, worker: options.worker, groups: document.plan.groups.length, startedAt, health: health.read, onFrame: options.onFrame })
    const connector = approvedConnector({ hosts: new Set(document.target.approval?.hosts ?? []) }, health.sockets)
    const around: Surroundings = {
      recorder: this.recorder, lag: health.lag, random,
      exchange: ended => new UndiciExchange(connector, ended),
      gone: user => this.gone(user),
    }
    const stepsOfGroup = document.plan.groups.map((g) => {
      const journey = document.journeys.find(j => j.id === g.journeyId)!
      return journey.round.map(step => prepareStep(step, prepareRequest(step, document.target, { runId: options.runId })))
    })
    const cues: Cue[] = []
    for (const sliced of options.users) {
      const user = new User(sliced.group, sliced.firstSeries, stepsOfGroup[sliced.group]!, around)
      for (const stay of sliced.stays) {
        cues.push({ atMs: stay.startMs, act: now => this.start(user, now) })
        cues.push({ atMs: stay.stopMs, act: now => this.leave(user, now) })
      }
    }
    this.schedule = new Schedule(cues, startedAt, health.lag, () => this.finishIfEmpty())
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
    this.recorder.finish(performance.now())
    this.options.onFinished()
  }
}

/**
 * The portal's machinery: replicas, each with c workers and one queue, in virtual time. A request's completion is
 * worked out from arrival and service times when it arrives; only the answer waits for the clock. (Queueing by timers
 * alone added up to 5 %, measured.)
 */

export interface ReplicaSettings {
  /** Workers per replica. */
  workers: number
  /** Replicas at the beginning, and at most; more than the first means the portal scales itself. */
  replicas: number
  mostReplicas: number
  /** Requests a replica lets wait before it turns further ones away. */
  mostWaiting: number
  /** Mean number waiting per replica that makes the portal add one, and how long the new one takes to serve, ms. */
  scaleUpAtWaiting: number
  scaleUpAfterMs: number
  /** One is added, too, when more than this share of all workers was at work of late; left out: never for that. */
  scaleUpAtBusy?: number
  /** A replica that was added goes again after so long without anything waiting, ms. */
  scaleDownAfterMs: number
}

/** How often it is looked at how busy workers are, ms. */
const BUSY_LOOK_MS = 5000

/** When a request will be answered, or that it is turned away. */
export type Admission = { admitted: true, startsAt: number, endsAt: number } | { admitted: false }

class Replica {
  /** Moment each worker is free again, ms. */
  readonly freeAt: number[]
  /** Begin of service of everything accepted and not yet begun, in order. */
  private waiting: number[] = []

  constructor(
    workers: number,
    readonly servesFrom: number,
  ) {
    this.freeAt = new Array<number>(workers).fill(servesFrom)
  }

  waitingAt(now: number): number {
    while (this.waiting.length > 0 && this.waiting[0]! <= now) this.waiting.shift()
    return this.waiting.length
  }

  take(now: number, serviceMs: number): { startsAt: number, endsAt: number } {
    let earliest = 0
    for (let i = 1; i < this.freeAt.length; i++) if (this.freeAt[i]! < this.freeAt[earliest]!) earliest = i
    const startsAt = Math.max(now, this.freeAt[earliest]!)
    const endsAt = startsAt + serviceMs
    this.freeAt[earliest] = endsAt
    if (startsAt > now) this.waiting.push(startsAt)
    return { startsAt, endsAt }
  }
}

export class Replicas {
  private readonly replicas: Replica[]
  private next = 0
  private scalingUntil = 0
  /** When something waited last. */
  private waitedAt = 0
  private readonly changes: { at: number, replicas: number }[] = []
  private looked = { at: 0, workedMs: 0 }
  /** Work of everything that was accepted, ms. */
  private acceptedMs = 0

  constructor(readonly settings: ReplicaSettings) {
    this.replicas = Array.from({ length: settings.replicas }, () => new Replica(settings.workers, 0))
  }

  /** @param now moment of arrival, ms @param serviceMs how long a worker takes for it */
  admit(now: number, serviceMs: number): Admission {
    this.shrink(now)
    const serving = this.replicas.filter(r => r.servesFrom <= now)
    const replica = serving[this.next++ % serving.length]!
    const waiting = replica.waitingAt(now)
    this.scale(now, waiting)
    if (waiting > 0) this.waitedAt = now
    if (waiting >= this.settings.mostWaiting) return { admitted: false }
    this.acceptedMs += serviceMs
    return { admitted: true, ...replica.take(now, serviceMs) }
  }

  /** Requests that wait for a worker. */
  waiting(now: number): number {
    return this.replicas.reduce((sum, r) => sum + r.waitingAt(now), 0)
  }

  busy(now: number): number {
    return this.replicas.reduce((sum, r) => sum + r.freeAt.filter(t => t > now && r.servesFrom <= now).length, 0)
  }

  /** Work that was done so far: what was accepted, less what is still to be done. Workers make no pauses. */
  workedMs(now: number): number {
    const todo = this.replicas.reduce(
      (sum, r) => sum + r.freeAt.reduce((s, t) => s + Math.max(0, t - Math.max(now, r.servesFrom)), 0),
      0,
    )
    return this.acceptedMs - todo
  }

  /** Its own log: when it served with how many, ms since 1970. */
  log(): { at: number, replicas: number }[] {
    return this.changes.map(({ at, replicas }) => ({ at: performance.timeOrigin + at, replicas }))
  }

  serving(now: number): number {
    this.shrink(now)
    return this.replicas.filter(r => r.servesFrom <= now).length
  }

  /** Those that were added go, the last first, once nothing has waited for long. */
  private shrink(now: number): void {
    const { replicas, scaleDownAfterMs } = this.settings
    const last = this.replicas[this.replicas.length - 1]!
    if (this.replicas.length <= replicas || now - Math.max(this.waitedAt, last.servesFrom) < scaleDownAfterMs) return
    if (!last.freeAt.every(t => t <= now)) return
    this.replicas.pop()
    this.changes.push({ at: now, replicas: this.replicas.length })
  }

  /** Looked at once in a while: whether more was at work since the last look than should be. */
  private wasBusy(now: number): boolean {
    const { scaleUpAtBusy, workers } = this.settings
    const passed = now - this.looked.at
    if (scaleUpAtBusy === undefined || passed < BUSY_LOOK_MS) return false
    const workedMs = this.workedMs(now)
    const share = (workedMs - this.looked.workedMs) / (passed * workers * this.serving(now))
    this.looked = { at: now, workedMs }
    return share > scaleUpAtBusy
  }

  private scale(now: number, waiting: number): void {
    const { mostReplicas, scaleUpAtWaiting, scaleUpAfterMs, workers } = this.settings
    if (this.replicas.length >= mostReplicas || now < this.scalingUntil) return
    if (waiting < scaleUpAtWaiting && !this.wasBusy(now)) return
    this.scalingUntil = now + scaleUpAfterMs
    this.replicas.push(new Replica(workers, now + scaleUpAfterMs))
    this.changes.push({ at: now + scaleUpAfterMs, replicas: this.replicas.length })
  }
}

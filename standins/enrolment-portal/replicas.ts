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
}

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

  constructor(readonly settings: ReplicaSettings) {
    this.replicas = Array.from({ length: settings.replicas }, () => new Replica(settings.workers, 0))
  }

  /** @param now moment of arrival, ms @param serviceMs how long a worker takes for it */
  admit(now: number, serviceMs: number): Admission {
    const serving = this.replicas.filter(r => r.servesFrom <= now)
    const replica = serving[this.next++ % serving.length]!
    const waiting = replica.waitingAt(now)
    this.scale(now, waiting)
    if (waiting >= this.settings.mostWaiting) return { admitted: false }
    return { admitted: true, ...replica.take(now, serviceMs) }
  }

  /** Requests that wait for a worker. */
  waiting(now: number): number {
    return this.replicas.reduce((sum, r) => sum + r.waitingAt(now), 0)
  }

  busy(now: number): number {
    return this.replicas.reduce((sum, r) => sum + r.freeAt.filter(t => t > now && r.servesFrom <= now).length, 0)
  }

  serving(now: number): number {
    return this.replicas.filter(r => r.servesFrom <= now).length
  }

  private scale(now: number, waiting: number): void {
    const { mostReplicas, scaleUpAtWaiting, scaleUpAfterMs, workers } = this.settings
    if (this.replicas.length >= mostReplicas || waiting < scaleUpAtWaiting || now < this.scalingUntil) return
    this.scalingUntil = now + scaleUpAfterMs
    this.replicas.push(new Replica(workers, now + scaleUpAfterMs))
  }
}

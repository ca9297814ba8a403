/**
 * Holds the request rate of groups that are driven by it: once a second generators are told how long a user takes
 * between two requests; how many users that makes they reckon themselves.
 */
import { RateEstimate, usersAsked, type UserBounds } from '../../core/load/held-rate'
import { levelAt, peakOf } from '../../core/load/profile'
import type { SecondFigures } from '../../core/merge/second-figures'
import { expectedPass } from '../../core/plan/expected'
import type { Group } from '../../core/plan/document'
import type { RunDocument } from '../../core/run/document'
import type { RehearsedStep } from '../../protocol/messages'

/** A group's users from now on, over all generators: of a calibration. */
export interface SteeringOrder {
  group: number
  users: number
}

/** A group's rate from now on. */
export interface RateOrder {
  group: number
  /** Mean time between two requests of one user, s. */
  betweenS: number
  /** No rate above this, 1/s. */
  mostRate: number
}

/** Seconds of grace before the newest figures are believed: the frames of all generators must be in. */
const SETTLED_BEHIND_S = 1
/** A generator that leads a run from this second on has led it from the start, s. */
const JUST_STARTED_S = 3

interface Loop {
  group: number
  bounds: UserBounds
  estimate: RateEstimate
  /** Users asked for in each run second. */
  asked: Map<number, number>
  /** Newest second noted. */
  noted: number
  /** Generators have been told something. */
  begun: boolean
  notReached: { second: number, users: number, rate: number } | undefined
}

export class Steering {
  private readonly loops: Loop[]
  /** Rates are held no higher than this part of their peaks. */
  private most = 1
  private readonly figures = new Map<number, SecondFigures>()
  private steppedFor = -1

  /** @param rehearsed what answers took in the rehearsal; left out: what is assumed */
  constructor(
    private readonly document: RunDocument,
    rehearsed: readonly RehearsedStep[] = [],
  ) {
    this.loops = document.calibration
      ? []
      : document.plan.groups.flatMap((group, index): Loop[] => {
          if (group.drive?.kind !== 'requests') return []
          const { fewestUsers, mostUsers } = group.drive
          const bounds = { fewestUsers, mostUsers }
          return [
            {
              group: index,
              bounds,
              estimate: new RateEstimate(betweenRequestsS(document, group, rehearsed), bounds),
              asked: new Map(),
              noted: -1,
              begun: false,
              notReached: undefined,
            },
          ]
        })
  }

  get active(): boolean {
    return this.loops.length > 0
  }

  /** From now on no rate is held above this part of its peak. @returns whether that is less than before */
  holdAt(part: number): boolean {
    if (part >= this.most) return false
    this.most = part
    return true
  }

  /** Figures of seconds as they come; later ones of the same second take their place. */
  note(seconds: readonly SecondFigures[]): void {
    if (!this.active) return
    for (const figures of seconds) this.figures.set(figures.second, figures)
    for (const second of this.figures.keys()) if (second < this.steppedFor - 10) this.figures.delete(second)
  }

  /** @param second run second now @returns what generators are to be told; nothing more than once a second */
  step(second: number): RateOrder[] {
    if (!this.active || second < 0 || second <= this.steppedFor) return []
    this.steppedFor = second
    return this.loops.flatMap((loop): RateOrder[] => {
      this.learn(loop, second - 1 - SETTLED_BEHIND_S)
      // Generators of a run that was taken up know better than this process, until it has measured for itself.
      loop.begun ||= second <= JUST_STARTED_S || loop.estimate.isMeasured
      if (!loop.begun) return []
      const { betweenS } = loop.estimate
      loop.asked.set(second, usersAsked(this.wantedIn(loop.group, second), betweenS, loop.bounds))
      return [{ group: loop.group, betweenS, mostRate: this.mostRate(loop.group) }]
    })
  }

  /** Rates that could not be reached so far, in words. */
  notReached(): { group: number, sentence: string }[] {
    return this.loops.flatMap(({ group, notReached }) => {
      const { name } = this.document.plan.groups[group]!
      return notReached
        ? [
            {
              group,
              sentence: `${name}: ${this.wantedIn(group, notReached.second).toFixed(1)} requests/s cannot be reached: ${Math.round(notReached.users)} users, the most allowed, sent ${notReached.rate.toFixed(0)}.`,
            },
          ]
        : []
    })
  }

  /** Notes every second up to this one that is whole, and was asked for by this process. */
  private learn(loop: Loop, until: number): void {
    for (let s = loop.noted + 1; s <= until; s++) {
      const figures = this.figures.get(s)
      // Before this process asked for anybody, those who were there had been asked for.
      const asked = loop.asked.get(s) ?? figures?.usersByGroup[loop.group]
      loop.asked.delete(s)
      const sent = figures?.startedByGroup[loop.group]
      if (asked === undefined || sent === undefined) continue
      const wanted = this.wantedIn(loop.group, s)
      loop.estimate.note(wanted, asked, sent)
      if (loop.estimate.cannotReach) loop.notReached ??= { second: s, users: asked, rate: sent }
    }
    loop.noted = Math.max(loop.noted, until)
  }

  private mostRate(group: number): number {
    return peakOf(this.document.plan.groups[group]!.profile) * this.most
  }

  /** Requests wished in a run second: the rate in its middle. */
  private wantedIn(group: number, second: number): number {
    return Math.min(levelAt(this.document.plan.groups[group]!.profile, second * 1000 + 500), this.mostRate(group))
  }
}

/**
 * Mean time between two requests of one user as it is expected, s: pauses, and what answers took when they were
 * rehearsed.
 */
function betweenRequestsS(document: RunDocument, group: Group, rehearsed: readonly RehearsedStep[]): number {
  const mine = rehearsed.filter(s => s.journeyId === group.journeyId && s.ok)
  const answerMs = mine.length > 0 ? mine.reduce((sum, s) => sum + s.durationMs, 0) / mine.length : undefined
  const pass = expectedPass(
    document.journeys.find(j => j.id === group.journeyId),
    group,
    answerMs,
  )
  return pass.ms / 1000 / Math.max(1, pass.requests)
}

/** Holds the request rate of groups that are driven by it: once a second, users are asked for so that the rate is met. */
import { levelAt, peakOf } from '../../core/load/profile'
import { RateController } from '../../core/load/rate-controller'
import type { SecondFigures } from '../../core/merge/second-figures'
import { expectedPass } from '../../core/plan/expected'
import type { RunDocument } from '../../core/plan/document'

/** A group's users from now on, over all generators. */
export interface Order { group: number, users: number }

/** Seconds of grace before the newest figures are believed: the frames of all generators must be in. */
const SETTLED_BEHIND_S = 1

export class Steering {
  private readonly loops: { group: number, controller: RateController, users: number, notReached: { second: number, users: number, rate: number } | undefined }[]
  /** Rates are held no higher than this part of their peaks. */
  private most = 1
  private readonly figures = new Map<number, SecondFigures>()
  private steppedFor = -1

  constructor(private readonly document: RunDocument) {
    this.loops = document.calibration ? [] : document.plan.groups.flatMap((group, index) => {
      if (group.drive?.kind !== 'requests') return []
      const pass = expectedPass(document.journeys.find(j => j.id === group.journeyId), group)
      return [{ group: index, controller: new RateController(group.drive.fewestUsers, group.drive.mostUsers, Math.max(1, pass.requests) / (pass.ms / 1000)), users: 0, notReached: undefined }]
    })
  }

  get active(): boolean { return this.loops.length > 0 }

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

  /** @param second run second now @returns what changes; nothing more than once a second */
  step(second: number): Order[] {
    if (!this.active || second < 0 || second <= this.steppedFor) return []
    this.steppedFor = second
    // The newest second that is whole: the one before the last.
    const known = this.figures.get(second - 1 - SETTLED_BEHIND_S)
    return this.loops.flatMap((loop): Order[] => {
      const { profile } = this.document.plan.groups[loop.group]!
      const wanted = Math.min(levelAt(profile, (second + 1) * 1000), peakOf(profile) * this.most)
      const measured = known?.startedByGroup[loop.group]
      const { users, cannotReach } = loop.controller.next(wanted, measured, known?.usersByGroup[loop.group] ?? 0)
      if (cannotReach && !loop.notReached) loop.notReached = { second, users, rate: measured ?? 0 }
      loop.users = users
      return [{ group: loop.group, users }]
    })
  }

  /** Rates that could not be reached so far, in words. */
  notReached(): { group: number, sentence: string }[] {
    return this.loops.flatMap(({ group, notReached }) => {
      const { name, profile } = this.document.plan.groups[group]!
      return notReached ? [{ group, sentence: `${name}: ${levelAt(profile, notReached.second * 1000).toFixed(1)} requests/s cannot be reached: ${notReached.users} users, the most allowed, sent ${notReached.rate.toFixed(0)}.` }] : []
    })
  }
}

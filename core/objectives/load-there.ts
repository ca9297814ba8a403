/**
 * The load that was asked for, held against the load that was there: users as planned second by second, passes that
 * were due, requests that were wished. An answer claims no more than what was there.
 */
import { dealLocations } from '../placement/deal-users'
import { isByPlan } from '../load/drive'
import { levelAt } from '../load/profile'
import { presentAtSecondEnds, staysOf } from '../load/stays'
import type { SecondFigures } from '../merge/second-figures'
import type { SeriesSum } from '../merge/series-sum'
import type { RunDocument } from '../run/document'
import { isCounted, type Series } from '../run/series'
import { resolveShares } from '../plan/shares'
import { dealtIn, momentsOf } from '../run/slice'
import { runLengthMs } from '../plan/length'
import { groupsOf, locationsOf, type Subject } from './subject'
import type { Window } from './windows'

/** What was asked for and not there. Users: in the worst second; rates: per second, over the window. */
export interface Shortfall {
  kind: 'users' | 'arrivals' | 'requests'
  asked: number
  there: number
  /** Of users: in how many seconds of how many. */
  shortS?: number
  ofS?: number
  /** Of users: how many more may have been there, on generators that were not heard. Left out: none. */
  unknown?: number
}

export interface LoadThere {
  /** Somebody was asked for at all. */
  asked: boolean
  shortfalls: Shortfall[]
  /**
   * Users held: the fewest that come and go by the plan, and the mean of the others. Undefined where runs of earlier
   * releases do not say.
   */
  users: number | undefined
}

/** Tolerated: this share, and one user. */
const SHORT_SHARE = 0.02
/** A frame may be cut a moment early or late: this many seconds of a window may look short. */
const PASSING_S = 2
/** A rate that is steered scatters: three standard deviations of a count n are 3·√n (Poisson). */
const SCATTER = 3

export class LoadBook {
  private readonly lengthS: number
  private readonly locationOf: Uint16Array[]
  private readonly planned = new Map<string, Int32Array>()
  private readonly due = new Map<number, Int32Array>()

  constructor(
    private readonly document: RunDocument,
    private readonly series: readonly Series[],
  ) {
    const { plan } = document
    this.lengthS = Math.ceil(runLengthMs(document) / 1000)
    this.locationOf = dealLocations(
      plan.groups.map(g => ({ users: dealtIn(g, plan.seed), shares: resolveShares(plan, g.letter).bp })),
      plan.locations.length,
    )
  }

  /** @param sums of the window, by series number @param seconds by run second; holes where nothing was merged */
  // eslint-disable-next-line max-lines-per-function -- a list, in the order in which it is told
  of(
    subject: Subject,
    { fromS, toS }: Window,
    sums: ReadonlyMap<number, SeriesSum>,
    seconds: readonly (SecondFigures | undefined)[],
  ): LoadThere {
    const { plan } = this.document
    const groups = groupsOf(subject, plan)
    const byPlan = groups.filter(g => isByPlan(plan.groups[g]!))
    const others = groups.filter(g => !isByPlan(plan.groups[g]!))
    const drivenBy = (kind: 'arrivals' | 'requests') => others.filter(g => plan.groups[g]!.drive?.kind === kind)
    const [arriving, steered] = [drivenBy('arrivals'), drivenBy('requests')]
    const inside = Array.from({ length: Math.max(0, toS - fromS) }, (_, i) => fromS + i)
    const present = (of: readonly number[], s: number) => presentIn(seconds[s], of, subject, this.document)
    // A run that went with fewer machines was asked for more than its document says now.
    const lowered = this.document.wentWith?.factor ?? 1
    const planned = this.plannedFor(byPlan, subject)
    const askedIn = (s: number) => (planned[s] ?? 0) / lowered
    const shortfalls: Shortfall[] = []

    const here = byPlan.length === 0 ? undefined : inside.map(s => present(byPlan, s))
    const known = here?.every((n): n is number => n !== undefined) ? here : undefined
    const short = inside.filter((s, i) => known && isShort(askedIn(s), known[i]!))
    if (known && short.length > Math.min(PASSING_S, Math.max(0, inside.length - 1))) {
      const worst = short.reduce((a, b) => (known[b - fromS]! / askedIn(b) < known[a - fromS]! / askedIn(a) ? b : a))
      const [asked, there] = [Math.round(askedIn(worst)), known[worst - fromS]!]
      // Of whom nobody knows, it is not known which group they are of.
      const unknown =
        groups.length < plan.groups.length
          ? 0
          : locationsOf(subject, plan).reduce((n, l) => n + (seconds[worst]?.unknownByLocation?.[l] ?? 0), 0)
      shortfalls.push({
        kind: 'users',
        asked,
        there,
        shortS: short.length,
        ofS: inside.length,
        ...(unknown > 0 ? { unknown: Math.min(unknown, asked - there) } : {}),
      })
    }
    const duePasses = inside.reduce((sum, s) => sum + this.dueIn(arriving, subject, s), 0) / lowered
    const passes = this.count(sums, arriving, subject, s => s.passes)
    if (duePasses - passes > Math.max(1, SHORT_SHARE * duePasses))
      shortfalls.push({ kind: 'arrivals', asked: duePasses / inside.length, there: passes / inside.length })
    const wished =
      inside.reduce((sum, s) => sum + steered.reduce((n, g) => n + this.wishedIn(g, subject, s), 0), 0) / lowered
    const sent = this.count(sums, steered, subject, (s, of) => (isCounted(of) ? s.started : 0))
    if (wished - sent > Math.max(1, SHORT_SHARE * wished, SCATTER * Math.sqrt(wished)))
      shortfalls.push({ kind: 'requests', asked: wished / inside.length, there: sent / inside.length })

    const besides = inside.map(s => present(others, s))
    const meanBesides =
      others.length === 0
        ? 0
        : besides.every((n): n is number => n !== undefined)
          ? besides.reduce((a, b) => a + b, 0) / Math.max(1, inside.length)
          : undefined
    const fewest = byPlan.length === 0 ? 0 : known && lowest(known)
    return {
      asked:
        inside.some(s => askedIn(s) > 0) ||
        duePasses > 0 ||
        wished > 0 ||
        others.length > arriving.length + steered.length,
      shortfalls,
      users:
        inside.length === 0 || fewest === undefined || meanBesides === undefined
          ? undefined
          : fewest + Math.round(meanBesides),
    }
  }

  /** Users planned at the end of each run second. */
  private plannedFor(groups: readonly number[], { location }: Subject): Int32Array {
    const key = `${groups.join()} ${location ?? ''}`
    let planned = this.planned.get(key)
    if (planned) return planned
    const { plan } = this.document
    const at = location === undefined ? -1 : plan.locations.findIndex(l => l.code === location)
    planned = presentAtSecondEnds(
      groups.flatMap(g => staysOf(plan.groups[g]!.profile).filter((_, u) => at < 0 || this.locationOf[g]![u] === at)),
      this.lengthS,
    )
    this.planned.set(key, planned)
    return planned
  }

  /** Passes due in a run second. @param groups their numbers, all of them driven by arrivals */
  dueIn(groups: readonly number[], subject: Subject, second: number): number {
    const { plan } = this.document
    const wanted = locationsOf(subject, plan)
    return groups.reduce((sum, g) => {
      let due = this.due.get(g)
      if (!due) {
        due = new Int32Array(this.lengthS * plan.locations.length)
        for (const [u, ms] of momentsOf(plan.groups[g]!, plan.seed).entries())
          due[Math.floor(ms / 1000) * plan.locations.length + this.locationOf[g]![u]!]!++
        this.due.set(g, due)
      }
      return sum + wanted.reduce((n, l) => n + (due[second * plan.locations.length + l] ?? 0), 0)
    }, 0)
  }

  /**
   * Requests wished in a run second: the area under the profile there, as far as it falls to the subject's locations.
   */
  private wishedIn(group: number, subject: Subject, second: number): number {
    const { plan } = this.document
    const { profile, letter } = plan.groups[group]!
    const { bp } = resolveShares(plan, letter)
    const whole = bp.reduce((a, b) => a + b, 0)
    return whole === 0 || second >= this.lengthS
      ? 0
      : (levelAt(profile, second * 1000 + 500) * locationsOf(subject, plan).reduce((sum, l) => sum + bp[l]!, 0)) / whole
  }

  private count(
    sums: ReadonlyMap<number, SeriesSum>,
    groups: readonly number[],
    subject: Subject,
    of: (sum: SeriesSum, series: Series) => number,
  ): number {
    if (groups.length === 0) return 0
    const wanted = locationsOf(subject, this.document.plan)
    let n = 0
    for (const [number, sum] of sums) {
      const series = this.series[number]!
      if (groups.includes(series.group) && wanted.includes(series.location)) n += of(sum, series)
    }
    return n
  }
}

function isShort(asked: number, there: number): boolean {
  return asked - there > Math.max(1, SHORT_SHARE * asked)
}

/** The fewest there were for more than a passing moment. */
function lowest(present: readonly number[]): number {
  const rising = [...present].sort((a, b) => a - b)
  return rising[Math.min(PASSING_S, rising.length - 1)] ?? 0
}

/**
 * Users of these groups who were present at a subject's locations at the end of a second; undefined: it does not say.
 */
function presentIn(
  second: SecondFigures | undefined,
  groups: readonly number[],
  subject: Subject,
  { plan }: RunDocument,
): number | undefined {
  // A second nobody has told of had nobody in it.
  if (!second) return 0
  const { usersByCell, usersByGroup, usersByLocation } = second
  if (usersByCell)
    return locationsOf(subject, plan).reduce(
      (sum, l) => sum + groups.reduce((n, g) => n + (usersByCell[l * plan.groups.length + g] ?? 0), 0),
      0,
    )
  if (subject.location === undefined) return groups.reduce((sum, g) => sum + (usersByGroup[g] ?? 0), 0)
  return groups.length === plan.groups.length ? (usersByLocation[locationsOf(subject, plan)[0] ?? -1] ?? 0) : undefined
}

/** Makes the figures of one second from its sums, for the stave and the live feed. */
import { Histogram } from '../../core/histogram/histogram'
import type { SecondFigures, StepSecond } from '../../core/merge/second-figures'
import { SeriesSum } from '../../core/merge/series-sum'
import type { RunDocument } from '../../core/run/document'
import { timedObjective } from '../../core/objectives/judge'
import type { JudgedSeries } from '../../core/objectives/judged-second'
import { isAbout, stepKey, type Subject } from '../../core/objectives/subject'
import { isCounted, type Series } from '../../core/run/series'
import { SIGNAL_ORDER, toldWorst, type Health } from '../../core/capacity/signals'

/** A second that frames are still being added to. */
export interface OpenSecond {
  sums: Map<number, SeriesSum>
  /** Users present, per generator worker. */
  users: Map<string, { location: number, byGroup: number[] }>
  /** Per generator number. */
  health: Map<number, Health>
}

/** What is not in a second's own frames. */
export interface AroundSecond {
  /** Every live generator has passed it. */
  final: boolean
  judged: JudgedSeries
  /** Users per location of whom nobody knows. */
  unknownByLocation: number[]
  /** Per objective, requests of generators that are not heard. */
  lost: ArrayLike<number>
}

// eslint-disable-next-line max-lines-per-function -- one calculation or case after the other, with what they share
export function secondFigures(
  document: RunDocument,
  series: readonly Series[],
  second: number,
  open: OpenSecond,
  { final, judged, unknownByLocation, lost }: AroundSecond,
): SecondFigures {
  const { plan } = document
  // Locations are told apart for the objective that screens draw; without one, for all requests.
  const drawn: Subject = { ...timedObjective(plan.objectives)?.objective, location: undefined }
  const whole = new SeriesSum()
  const steps = new Map<string, StepSum>()
  const locations = new Map<string, StepSum>()
  const into = (sums: Map<string, StepSum>, key: string, sum: SeriesSum) => {
    const s = sums.get(key)
    // Most keys have one series: what it is alone need not be copied.
    if (!s) return void sums.set(key, { right: sum.timings.right, failed: sum.failed, isBorrowed: true })
    if (s.isBorrowed) {
      const own = new Histogram()
      own.add(s.right)
      s.right = own
      s.isBorrowed = false
    }
    s.right.add(sum.timings.right)
    s.failed += sum.failed
  }
  const startedByGroup = plan.groups.map(() => 0)
  const passesByGroup = plan.groups.map(() => 0)
  let notStarted = 0
  const everything: StepSum = { right: new Histogram(), failed: 0 }
  for (const [number, sum] of open.sums) {
    const of = series[number]!
    into(steps, stepKey(of.journeyId, of.stepName), sum)
    if (isAbout(drawn, of, plan)) into(locations, plan.locations[of.location]!.code, sum)
    if (!isCounted(of)) continue
    whole.started += sum.started
    whole.passes += sum.passes
    for (const n of sum.notStarted) notStarted += n
    startedByGroup[of.group]! += sum.started
    passesByGroup[of.group]! += sum.passes
    whole.right += sum.right
    whole.cut += sum.cut
    whole.bytes += sum.bytes
    sum.failures.forEach((n, kind) => {
      whole.failures[kind]! += n
    })
    everything.right.add(sum.timings.right)
    everything.failed += sum.failed
  }
  const usersByLocation = plan.locations.map(() => 0)
  const usersByGroup = plan.groups.map(() => 0)
  const usersByCell = new Array<number>(plan.locations.length * plan.groups.length).fill(0)
  for (const { location, byGroup } of open.users.values()) {
    byGroup.forEach((n, g) => {
      if (g >= usersByGroup.length) return
      usersByLocation[location]! += n
      usersByGroup[g]! += n
      usersByCell[location * plan.groups.length + g]! += n
    })
  }
  return {
    second,
    final,
    usersByLocation,
    usersByGroup,
    usersByCell,
    ...(unknownByLocation.some(n => n > 0) ? { unknownByLocation } : {}),
    startedByGroup,
    passesByGroup,
    passes: whole.passes,
    notStarted,
    started: whole.started,
    right: whole.right,
    failed: whole.failed,
    cut: whole.cut,
    bytes: whole.bytes,
    failures: whole.failuresByKind(),
    all: figuresOf(everything),
    steps: mapped(steps),
    locations: mapped(locations),
    judged: judged.of(open.sums, usersByCell, lost),
    // How other programs were is not known.
    generators: (document.claimed ? [] : [...open.health]).map(([number, health]) => [number, ...toldWorst(health)]),
    ...(document.calibration
      ? {
          health: [...open.health].map(([number, health]): [number, ...number[]] => [
            number,
            ...SIGNAL_ORDER.map(s => health[s]),
          ]),
        }
      : {}),
  }
}

interface StepSum {
  right: Histogram
  failed: number
  /** It is a series' own, and must not be added to. */
  isBorrowed?: boolean
}

function figuresOf({ right, failed }: StepSum): StepSecond {
  const at = (p: number) => {
    const us = right.percentileUs(p)
    return us === undefined ? null : us / 1000
  }
  return [right.count, failed, at(0.5), at(0.95), at(0.99)]
}

function mapped(sums: Map<string, StepSum>): Record<string, StepSecond> {
  return Object.fromEntries([...sums].map(([key, sum]) => [key, figuresOf(sum)]))
}

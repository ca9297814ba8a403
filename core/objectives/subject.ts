/**
 * What an objective is about: a step of a journey, a group, a location, or everything; and the sums of series that
 * belong to it.
 */
import { SeriesSum } from '../merge/series-sum'
import type { Objective, Plan } from '../plan/document'
import { isCounted, type Series } from '../run/series'

export type Subject = Pick<Objective, 'journeyId' | 'step' | 'group' | 'location'>

/** Key of a step among those of all journeys: two may have steps of one name. */
export function stepKey(journeyId: string, step: string): string {
  return `${journeyId}/${step}`
}

/** Groups of the plan, by their places, that a subject is about. */
export function groupsOf({ journeyId, group }: Subject, { groups }: Pick<Plan, 'groups'>): number[] {
  return groups.flatMap((g, i) =>
    (journeyId === undefined || g.journeyId === journeyId) && (group === undefined || g.letter === group) ? [i] : [],
  )
}

/** Locations of the plan, by their places. */
export function locationsOf({ location }: Subject, { locations }: Pick<Plan, 'locations'>): number[] {
  return locations.flatMap((l, i) => (location === undefined || l.code === location ? [i] : []))
}

/** Whether a series is of the subject's users, whatever they do. */
function isBorneBy({ journeyId, group, location }: Subject, of: Series, plan: Plan): boolean {
  return (
    (journeyId === undefined || of.journeyId === journeyId) &&
    (group === undefined || plan.groups[of.group]!.letter === group) &&
    (location === undefined || plan.locations[of.location]!.code === location)
  )
}

/**
 * Whether a series is what a subject is about. Without a step it is about requests: spans and bundles time what their
 * requests count already, so they belong to it only when they are asked for by name.
 */
export function isAbout(subject: Subject, of: Series, plan: Plan): boolean {
  return (subject.step === undefined ? isCounted(of) : of.stepName === subject.step) && isBorneBy(subject, of, plan)
}

/**
 * The requests somebody waits for when a subject stalls: those of its step, or of its users where the step only times
 * others.
 */
export function isWaitedFor(subject: Subject, of: Series, plan: Plan, isRequest: boolean): boolean {
  return (
    isCounted(of) &&
    (subject.step === undefined || !isRequest || of.stepName === subject.step) &&
    isBorneBy(subject, of, plan)
  )
}

export function sumOf(
  subject: Subject,
  sums: ReadonlyMap<number, SeriesSum>,
  series: readonly Series[],
  plan: Plan,
): SeriesSum {
  const whole = new SeriesSum()
  for (const [number, sum] of sums) if (isAbout(subject, series[number]!, plan)) whole.add(sum)
  return whole
}

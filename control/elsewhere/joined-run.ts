/**
 * A run of this house that results from elsewhere join: handed on second by second as it was merged, a sender for each
 * of its locations. Requests alone: spans and passes are its plan's, which the joint run has not.
 */
import type { Sender } from '../../core/elsewhere/claimed-document'
import { SeriesSum, sumIn } from '../../core/merge/series-sum'
import type { RunDocument } from '../../core/run/document'
import { isCounted, seriesOf } from '../../core/run/series'
import type { ClaimedFrames } from '../ingest/claimed-frames'
import { openRun } from '../ingest/run-reader'

/** As it is told to a program that joins something to it. */
export interface JoinedWish {
  id: number
  /** Of its file. */
  path: string
  document: RunDocument
  /** Moment of its second 0, ms since 1970. */
  startAt: number
}

export class JoinedRun {
  readonly senders: Sender[]
  private readonly run
  private readonly steps: { location: number, name: string }[]
  /** Per series the number of the first that is the same step at the same location: they are handed on as one. */
  private readonly firstOf: number[]
  /** Numbers of series that are requests. */
  private readonly counted: ReadonlySet<number>
  private readonly users: number[][] = []
  /** Answers came up to its end, which may be later than its plan's. */
  private readonly lengthS: number
  /** Its next second to be handed on. */
  private next = 0

  constructor(private readonly of: JoinedWish) {
    const { id, path, document } = of
    this.run = openRun(path)
    const series = seriesOf(document)
    const journeysOf = new Map<string, Set<string>>()
    for (const { stepName, journeyId } of series) {
      const own = journeysOf.get(stepName) ?? new Set()
      journeysOf.set(stepName, own.add(journeyId))
    }
    const called = (journeyId: string) => document.journeys.find(j => j.id === journeyId)?.name ?? journeyId
    this.steps = series.map(({ location, stepName, journeyId }) => ({
      location,
      // Filled above for each name.
      name: journeysOf.get(stepName)!.size > 1 ? `${stepName} in ${called(journeyId)}` : stepName,
    }))
    this.firstOf = this.steps.map(({ location, name }) =>
      this.steps.findIndex(s => s.location === location && s.name === name))
    this.counted = new Set(series.flatMap((s, n) => (isCounted(s) ? [n] : [])))
    this.senders = document.plan.locations.map(l => ({ name: `run ${id} at ${l.code}`, place: l.code, how: 'run' }))
    for (const { second, usersByLocation } of this.run.seconds()) this.users[second] = usersByLocation
    this.lengthS = this.users.length
  }

  get startAt(): number {
    return this.of.startAt
  }

  /** Its second 0 begins one of the joint run's: it is merged by whole seconds. @param firstMs of all that joins it */
  beginsAt(firstMs: number): number {
    const { startAt } = this.of
    return firstMs >= startAt ? startAt : startAt - Math.ceil((startAt - firstMs) / 1000) * 1000
  }

  get endMs(): number {
    return this.of.startAt + this.lengthS * 1000 - 1
  }

  /** First second in which a step was begun, as a moment, ms; undefined: it has none of that name. */
  markMs(step: string): number | undefined {
    for (const { second } of this.run.seconds()) {
      const sums = this.run.counts(second, second + 1)
      for (const [n, sum] of sums)
        if (this.steps[n]!.name === step && sum.started > 0) return this.of.startAt + second * 1000
    }
    return undefined
  }

  /**
   * Hands on what it has before a second of the joint run.
   *
   * @param zeroMs moment of the joint run's second 0 @param first number of its first sender
   */
  hand(frames: ClaimedFrames, zeroMs: number, first: number, before: number): void {
    const offsetS = Math.round((this.of.startAt - zeroMs) / 1000)
    for (; this.next < Math.min(this.lengthS, before - offsetS); this.next++) {
      const sums = new Map<number, SeriesSum>()
      this.run.addWindow(this.next, this.next + 1, n =>
        this.counted.has(n) ? sumIn(sums, this.firstOf[n]!) : undefined)
      for (const [n, sum] of sums) {
        const { location, name } = this.steps[n]!
        frames.addSum(first + location, this.next + offsetS, name, sum)
      }
    }
  }

  /** @param second of the joint run */
  usersAt(location: number, zeroMs: number, second: number): number {
    return this.users[second - Math.round((this.of.startAt - zeroMs) / 1000)]?.[location] ?? 0
  }

  /** Locations of which some exchanges were begun, and nobody saw how they ended. */
  unended(): number[] {
    const whole = this.senders.map(() => new SeriesSum())
    this.run.addWindow(0, this.lengthS, n => (this.counted.has(n) ? whole[this.steps[n]!.location] : undefined), [])
    return whole.flatMap((sum, location) => (sum.started === sum.right + sum.failed + sum.cut ? [] : [location]))
  }

  close(): void {
    this.run.close()
  }
}

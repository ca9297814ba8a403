/**
 * Figures of any slice of a run: rows by step, group, journey, location, network, client or machine, each unfolded by
 * another of them, of everything or of what is chosen. Exact: the sums of the series that belong to a row.
 */
import type { Seconds } from '../run/folded'
import type { MeasureKind } from '../journey/measures'
import { figuresOf, type Figures } from '../merge/figures'
import { SeriesSum, type SumOf } from '../merge/series-sum'
import { stepKey } from '../objectives/subject'
import type { RunDocument } from '../run/document'
import { isCounted, seriesOf, type Series } from '../run/series'

/** What figures can be told apart by. */
export const DIMENSIONS = ['step', 'group', 'journey', 'location', 'network', 'client', 'machine'] as const
export type Dimension = (typeof DIMENSIONS)[number]

export interface SliceWish {
  /** What rows are, and what they unfold into: one dimension or two different ones. */
  rows: Dimension[]
  /**
   * Values that count, per dimension: a step's key, a group's letter, a journey's id, a location's code, a network's
   * id, a client's id, a machine's name. A dimension left out, or empty: all of it.
   */
  only?: Partial<Record<Dimension, string[]>>
}

/** What counts, from second `fromS` (inclusive) to `toS` (exclusive). */
export interface SliceOver {
  fromS: number
  toS: number
  only?: SliceWish['only']
}

/** The figures of a slice: those of a window, and its tails. Times in ms. */
export interface SliceFigures extends Figures {
  p999Ms: number | undefined
  /** Standard deviation of right answers, from the middle of each bin. */
  spreadMs: number | undefined
  firstByteP50Ms: number | undefined
  lookupP50Ms: number | undefined
  lookupP95Ms: number | undefined
  tlsP50Ms: number | undefined
  tlsP95Ms: number | undefined
  /** What the target says it took inside, and what was left of each answer's time. */
  insideP50Ms: number | undefined
  insideP95Ms: number | undefined
  onTheWayP50Ms: number | undefined
  onTheWayP95Ms: number | undefined
}

export interface SlicePart {
  /** See {@link SliceWish.only}. */
  value: string
  /** Of a row that is a step: what is measured. */
  kind?: MeasureKind
  figures: SliceFigures
}

export interface SliceRow extends SlicePart {
  /** By the second dimension. */
  parts?: SlicePart[]
}

export interface Slices {
  /** Requests of everything that counts; of chosen steps that are none, these. */
  whole: SliceFigures
  rows: SliceRow[]
  /** The window it is about, where that is wider than was asked for: of folded runs, by machine. */
  over?: Seconds
}

/** The value a series has in a dimension. */
export function valueIn(
  dimension: Dimension,
  of: Series & { machine?: string },
  { plan }: Pick<RunDocument, 'plan'>,
): string {
  switch (dimension) {
    case 'step':
      return stepKey(of.journeyId, of.stepName)
    case 'group':
      return plan.groups[of.group]!.letter
    case 'journey':
      return of.journeyId
    case 'location':
      return plan.locations[of.location]!.code
    case 'network':
      return of.network
    case 'client':
      return of.client
    case 'machine':
      return of.machine ?? ''
  }
}

/** Whether machines have to be told apart for it. */
export function asksMachines({ rows = [], only = {} }: Partial<SliceWish>): boolean {
  return rows.includes('machine') || (only.machine?.length ?? 0) > 0
}

/** The series of a run by their numbers, told apart by machine or not. */
export type SeriesList = readonly (Series | undefined)[]

/** Numbers of the series of a run that count. */
export function chosenSeries(
  document: RunDocument,
  series: SeriesList,
  only: NonNullable<SliceWish['only']>,
): number[] {
  const counts = DIMENSIONS.flatMap((d): [Dimension, Set<string>][] => (only[d]?.length ? [[d, new Set(only[d])]] : []))
  return [...series.entries()].flatMap(([number, of]) =>
    of && counts.every(([d, values]) => values.has(valueIn(d, of, document))) ? [number] : [],
  )
}

/**
 * What of the chosen adds up. Spans, bundles and rounds time what their requests count already: they are added up only
 * where nothing else was chosen, or where a row is one of them.
 */
export function addsUpIn(series: SeriesList, chosen: readonly number[]): (of: Series) => boolean {
  const noRequests = !chosen.some(number => isCounted(series[number]!))
  return of => noRequests || isCounted(of)
}

/**
 * @param addWindow adds every series of the window, by its number, to the sum it is given; undefined: to none
 * @param series told apart by machine where machines are asked for
 * @returns a row for every value of the plan that is not left out, in its order, also where nothing happened
 */
export function slicesOf(
  document: RunDocument,
  addWindow: (into: SumOf) => void,
  { rows: [by, then], only = {} }: SliceWish,
  series: SeriesList = seriesOf(document),
): Slices {
  const chosen = chosenSeries(document, series, only)
  const addsUp = addsUpIn(series, chosen)
  const byStep = by === 'step' || then === 'step'
  const whole = new Row('', undefined, true)
  /** Where each series is added. */
  const sums = new Map<number, SeriesSum>()
  for (const number of chosen) {
    const of = series[number]!
    const adds = addsUp(of)
    const row = (into: Row, d: Dimension) =>
      into.part(valueIn(d, of, document), d === 'step' ? of.kind : undefined, d !== 'step' || adds)
    const outer = by ? row(whole, by) : whole
    const inner = then ? row(outer, then) : outer
    if (byStep || adds) sums.set(number, inner.sum)
  }
  addWindow(number => sums.get(number))
  const { figures, parts = [] } = whole.told()
  return { whole: figures, rows: parts }
}

/** A row that is being summed: of series, or of the rows it unfolds into, so that every sum is added once. */
class Row {
  readonly sum = new SeriesSum()
  private readonly parts = new Map<string, Row>()

  /** @param adds it counts in the row it is a part of */
  constructor(
    private readonly value: string,
    private readonly kind: MeasureKind | undefined,
    private readonly adds: boolean,
  ) {}

  part(value: string, kind: MeasureKind | undefined, adds: boolean): Row {
    let part = this.parts.get(value)
    if (!part) this.parts.set(value, (part = new Row(value, kind, adds)))
    return part
  }

  told(): SliceRow {
    const parts = Array.from(this.parts.values(), p => p.told())
    for (const part of this.parts.values()) if (part.adds) this.sum.add(part.sum)
    return {
      value: this.value,
      ...(this.kind ? { kind: this.kind } : {}),
      figures: sliceFiguresOf(this.sum),
      ...(parts.length > 0 ? { parts } : {}),
    }
  }
}

function sliceFiguresOf(sum: SeriesSum): SliceFigures {
  const { right, firstByte, lookup, tls, inside, onTheWay } = sum.timings
  const ms = (us: number | undefined) => (us === undefined ? undefined : us / 1000)
  return {
    ...figuresOf(sum),
    p999Ms: ms(right.percentileUs(0.999)),
    spreadMs: ms(right.spreadUs()),
    firstByteP50Ms: ms(firstByte.percentileUs(0.5)),
    lookupP50Ms: ms(lookup.percentileUs(0.5)),
    lookupP95Ms: ms(lookup.percentileUs(0.95)),
    tlsP50Ms: ms(tls.percentileUs(0.5)),
    tlsP95Ms: ms(tls.percentileUs(0.95)),
    insideP50Ms: ms(inside.percentileUs(0.5)),
    insideP95Ms: ms(inside.percentileUs(0.95)),
    onTheWayP50Ms: ms(onTheWay.percentileUs(0.5)),
    onTheWayP95Ms: ms(onTheWay.percentileUs(0.95)),
  }
}

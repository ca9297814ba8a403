/**
 * From readings of a source to points of its chosen series: gauges as they stand, counters as what they grew by since
 * the first reading, histograms as what they counted between two readings.
 */
import { compilePath } from '../values/json-path'
import { momentOf, numberOf } from '../values/written'
import type { SamplesAtMoment } from './lines'
import type { MetricsPage, MetricSample } from './metrics-page'
import { labelsOfRun, tellsRunsApart, type SeriesChoice, type Source } from './source'

export interface Point {
  /** Which of the source's series. */
  series: number
  /** Value of the label that tells its lines apart; empty: it is not split. */
  split: string
  /** ms since 1970: its own stamp where it has one, else when it was read. */
  atMs: number
  value: number
}

export interface Reading {
  points: Point[]
  /** A counter went down: it began anew, with the program that counts. */
  beganAnew: boolean
}

/** What was last read of each counter, and what it grew by; as it is kept over a restart. */
export interface CounterState {
  last: Record<string, number>
  grown: Record<string, number>
  /** Newest stamp of each line: a page that says the same again tells nothing new. */
  stamped: Record<string, number>
  hasRead: boolean
  /** When it was read last, ms since 1970. */
  readAtMs?: number
}

const NOTHING_READ = (): CounterState => ({ last: {}, grown: {}, stamped: {}, hasRead: false })

/** Ends that a counter's and a histogram's samples carry behind the metric's name. */
const COUNTER_ENDS = ['_total', ''] as const
const PERCENTILES = { p50: 0.5, p95: 0.95, p99: 0.99 } as const

/** Names of samples a series is read from. */
function sampleNames({ of, kind }: Pick<SeriesChoice, 'of' | 'kind'>): string[] {
  if (kind === 'gauge') return [of]
  if (kind === 'count') return COUNTER_ENDS.map(end => of + end)
  return kind === 'mean' ? [`${of}_sum`, `${of}_count`] : [`${of}_bucket`]
}

/** A series as it is looked for. */
interface Chosen extends SeriesChoice {
  labels: Record<string, string>
  /** Of samples. */
  names: ReadonlySet<string>
  /** Only this run is counted. */
  isOfRun: boolean
}

/** Reads one source again and again. */
export class SourceReadings {
  /** Names of samples that are wanted of a page. */
  readonly wanted: ReadonlySet<string>
  private readonly choices: Chosen[]
  private beganAnew = false

  constructor(
    private readonly source: Pick<Source, 'kind' | 'series' | 'stamp' | 'command'>,
    runId: number,
    readonly state: CounterState = NOTHING_READ(),
  ) {
    this.choices = source.series.map(choice => ({
      ...choice,
      labels: labelsOfRun(choice, runId),
      names: new Set(sampleNames(choice)),
      isOfRun: tellsRunsApart(choice, source),
    }))
    this.wanted = new Set(this.choices.flatMap(c => [...c.names]))
  }

  /** @param atMs when it was read, ms since 1970 @param offsetMs by how much its clock is ahead of ours */
  takePage({ samples }: Pick<MetricsPage, 'samples'>, atMs: number, offsetMs = 0): Reading {
    return this.take(atMs, offsetMs, choice => linesOf(choice, samples))
  }

  /** @param document a page of JSON, parsed */
  takeJson(document: unknown, atMs: number, offsetMs = 0): Reading {
    const stamp = this.source.stamp === undefined ? undefined : momentOf(compilePath(this.source.stamp).first(document))
    return this.take(atMs, offsetMs, ({ of, name }) => {
      const value = numberOf(compilePath(of).first(document))
      if (value === undefined) return new Map<string, MetricSample[]>()
      return new Map([['', [{ name, labels: {}, value, ...(stamp === undefined ? {} : { atMs: stamp }) }]]])
    })
  }

  /** Lines, or what was sent: each moment is a reading of its own. */
  takeMoments(moments: readonly SamplesAtMoment[], atMs: number, offsetMs = 0): Reading {
    const readings = moments.map(({ samples, atMs: own }) =>
      this.takePage({ samples }, own === undefined ? atMs : own - offsetMs, offsetMs))
    return { points: readings.flatMap(r => r.points), beganAnew: readings.some(r => r.beganAnew) }
  }

  /**
   * What a metrics server answered at one moment.
   *
   * @param answers of each series in turn: values with their own stamps, ms since 1970
   */
  takeAnswers(answers: readonly (readonly MetricSample[])[], atMs: number, offsetMs = 0): Reading {
    return this.take(atMs, offsetMs, (choice, series) => splitBy(choice, answers[series] ?? []))
  }

  private take(
    readAtMs: number,
    offsetMs: number,
    find: (choice: Chosen, series: number) => Map<string, MetricSample[]>,
  ): Reading {
    this.beganAnew = false
    const points: Point[] = []
    this.choices.forEach((choice, series) => {
      for (const [split, samples] of find(choice, series)) {
        const line = `${series} ${split}`
        const stamps = samples.flatMap(s => (s.atMs === undefined ? [] : [s.atMs]))
        const stamp = stamps.length > 0 ? Math.max(...stamps) : undefined
        if (stamp !== undefined && this.state.stamped[line] !== undefined && stamp <= this.state.stamped[line]) continue
        if (stamp !== undefined) this.state.stamped[line] = stamp
        const isNew = this.state.grown[line] === undefined
        const value = this.valueOf(choice, line, samples)
        if (value === undefined || !Number.isFinite(value)) continue
        // One that appears now has counted since the reading before: there it was at nothing.
        const { readAtMs: before } = this.state
        if (isNew && choice.kind === 'count' && value > 0 && before !== undefined)
          points.push({ series, split, atMs: before, value: 0 })
        points.push({ series, split, atMs: stamp === undefined ? readAtMs : stamp - offsetMs, value })
      }
    })
    this.state.hasRead = true
    this.state.readAtMs = readAtMs
    return { points, beganAnew: this.beganAnew }
  }

  private valueOf(
    { kind, factor = 1, of, isOfRun }: Chosen,
    line: string,
    samples: MetricSample[],
  ): number | undefined {
    if (kind === 'gauge') return factor * samples.reduce((sum, s) => sum + s.value, 0)
    if (kind === 'count') {
      const grew = samples.reduce((sum, s) => sum + this.growthOf(line, s, isOfRun), 0)
      const grown = (this.state.grown[line] ?? 0) + factor * grew
      this.state.grown[line] = grown
      return grown
    }
    const isFirst = !this.state.hasRead
    const growths = samples.map(sample => ({ sample, grew: this.growthOf(line, sample) }))
    if (isFirst) return undefined
    if (kind === 'mean') {
      const grown = (end: string) => growths.reduce((sum, g) => sum + (g.sample.name === of + end ? g.grew : 0), 0)
      const calls = grown('_count')
      return calls > 0 ? (factor * grown('_sum')) / calls : undefined
    }
    const p = percentileOf(growths.map(g => ({ le: Number(boundOf(g.sample)), grew: g.grew })), PERCENTILES[kind])
    return p === undefined ? undefined : factor * p
  }

  /**
   * What a counter grew by since it was last read. One that is smaller began anew, from nothing; one that was not there
   * at the reading before began since. At the first reading nothing is known of what came before, unless it counts
   * this run alone.
   */
  private growthOf(line: string, { name, labels, value, isGrowth }: MetricSample, isOfRun = false): number {
    if (!Number.isFinite(value)) return 0
    if (isGrowth) return value
    const key = `${line} ${name} ${Object.entries(labels).map(([l, v]) => `${l}=${v}`).sort().join(' ')}`
    const before = this.state.last[key]
    this.state.last[key] = value
    if (before === undefined) return this.state.hasRead || isOfRun ? value : 0
    if (value >= before) return value - before
    this.beganAnew = true
    return value
  }
}

/** Samples of a series, by the value of the label that tells its lines apart. */
function linesOf(
  { names, labels, by }: Chosen,
  samples: readonly MetricSample[],
): Map<string, MetricSample[]> {
  const must = Object.entries(labels)
  return splitBy(
    { by },
    samples.filter(s => names.has(s.name) && !must.some(([l, v]) => (s.labels[l] ?? '') !== v)),
  )
}

function splitBy({ by }: Pick<Chosen, 'by'>, samples: readonly MetricSample[]): Map<string, MetricSample[]> {
  const lines = new Map<string, MetricSample[]>()
  for (const sample of samples) {
    const split = by === undefined ? '' : (sample.labels[by] ?? '')
    const line = lines.get(split)
    if (line) line.push(sample)
    else lines.set(split, [sample])
  }
  return lines
}

const boundOf = ({ labels }: MetricSample): string => ({ '+Inf': 'Infinity' })[labels.le ?? ''] ?? labels.le ?? ''

/**
 * A percentile of cumulative buckets, evenly spread within each; the first begins at nothing. Beyond the last finite
 * bound no more is known than that bound.
 *
 * @param buckets counts of all that is at most `le`; several of one bound are added @returns undefined: nothing counted
 */
export function percentileOf(buckets: readonly { le: number, grew: number }[], share: number): number | undefined {
  const byBound = new Map<number, number>()
  for (const { le, grew } of buckets) if (!Number.isNaN(le)) byBound.set(le, (byBound.get(le) ?? 0) + grew)
  const sorted = [...byBound].sort((a, b) => a[0] - b[0])
  const total = sorted[sorted.length - 1]?.[1] ?? 0
  if (total <= 0) return undefined
  const rank = share * total
  let [below, under] = [0, 0]
  for (const [le, upTo] of sorted) {
    if (upTo >= rank && upTo > under) {
      if (!Number.isFinite(le) || le <= 0) return Number.isFinite(le) ? le : below
      return below + (le - below) * ((rank - under) / (upTo - under))
    }
    below = le
    under = Math.max(under, upTo)
  }
  return below
}

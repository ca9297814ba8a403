/**
 * Reads the series of a metrics server. Each is asked for every beat since the last time, and so is the newest stamp
 * of the samples it is made of: values stand at their own moments, not at that of the question.
 */
import { identityOf } from '../../core/target/lines'
import { momentsToAsk, readQuery, stampQuery, type AnsweredLine, type ReadQuery } from '../../core/target/query'
import type { MetricSample } from '../../core/target/metrics-page'
import { SourceReadings, type CounterState, type Point } from '../../core/target/readings'
import { queryOfRun, type SeriesChoice, type Source } from '../../core/target/source'
import { SourceClockBook } from '../../core/target/source-clock'
import { MetricsServer } from './metrics-server'
import type { PageFetcher } from './page'
import { ageOf, type SourceReader, type SourceReading } from './source-reader'

/** Moments are asked for, and told, to the ms. */
const MS = 1000
const toMs = (atS: number) => Math.round(atS * MS)

interface Asked extends Pick<SeriesChoice, 'name' | 'by'> {
  query: string
  read: ReadQuery
}

export class ServerReader implements SourceReader {
  private readonly readings: SourceReadings
  private readonly clock = new SourceClockBook()
  private readonly server: MetricsServer
  private readonly asked: Asked[]
  private lastS: number | undefined

  constructor(
    private readonly source: Source,
    fetcher: Pick<PageFetcher, 'fetch'>,
    runId: number,
    counters?: CounterState,
  ) {
    this.readings = new SourceReadings(source, runId, counters)
    this.server = new MetricsServer(source, fetcher)
    this.asked = source.series.map((choice) => {
      const query = queryOfRun(choice, runId)
      return { name: choice.name, ...(choice.by === undefined ? {} : { by: choice.by }), query, read: readQuery(query) }
    })
  }

  get counters(): CounterState {
    return this.readings.state
  }

  /** @throws SourceTrouble */
  async read(): Promise<SourceReading> {
    const { data: nowS, askedAt, gotAt } = await this.server.time()
    this.clock.noteMoment(nowS * MS, 1, askedAt, gotAt)
    const clock = this.clock.known
    const moments = momentsToAsk(nowS, this.lastS, this.source.everyS)
    const answers = await Promise.all(this.asked.map(asked => this.answersOf(asked, moments)))
    this.lastS = nowS
    const points: Point[] = []
    let beganAnew = false
    const at = new Set(answers.flatMap(byMoment => [...byMoment.keys()]))
    for (const atMs of [...at].sort((a, b) => a - b)) {
      const reading = this.readings.takeAnswers(answers.map(a => a.get(atMs) ?? []), atMs, clock?.offsetMs)
      points.push(...reading.points)
      beganAnew ||= reading.beganAnew
    }
    return { points, beganAnew, readAt: (askedAt + gotAt) / 2, ageMs: ageOf({ points }, gotAt), clock }
  }

  /** What each series was in the last seconds, for a look. @throws SourceTrouble */
  async courses(lastS: number, stepS: number): Promise<AnsweredLine[][]> {
    const { data: nowS } = await this.server.time()
    return Promise.all(this.asked.map(({ query }) => this.server.range(query, nowS - lastS, nowS, stepS)))
  }

  /** Values with their own stamps, by the moment they were asked for, ms since 1970. */
  private async answersOf(
    { query, read, by }: Asked,
    { startS, endS }: { startS: number, endS: number },
  ): Promise<Map<number, MetricSample[]>> {
    const { everyS } = this.source
    const [stamps, lines] = await Promise.all([
      this.server.range(stampQuery(read, by), startS, endS, everyS),
      this.server.range(query, startS, endS, everyS),
    ])
    const keyOf = (labels: Record<string, string>) =>
      read.isSelector ? identity(labels) : by === undefined ? '' : (labels[by] ?? '')
    const stamped = new Map<string, Map<number, number>>()
    for (const { metric, values } of stamps)
      stamped.set(keyOf(metric), new Map(values.map(([atS, value]) => [toMs(atS), Number(value) * MS])))
    const found = new Map<number, MetricSample[]>()
    for (const { metric, values } of lines) {
      const { __name__: name = '', ...labels } = metric
      const own = stamped.get(keyOf(labels))
      for (const [atS, value] of values) {
        const sample = { name, labels, value: Number(value), atMs: own?.get(toMs(atS)) ?? atS * MS }
        const at = found.get(toMs(atS))
        if (at) at.push(sample)
        else found.set(toMs(atS), [sample])
      }
    }
    return found
  }
}

/** Labels of a line, its name left out, whatever their order. */
const identity = ({ __name__: _, ...labels }: Record<string, string>): string => identityOf({ name: '', labels })

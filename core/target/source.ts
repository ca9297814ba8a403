/** Where a target's own figures are read, and which of them. Kept with the target. */

/** What is made of the numbers that are read. */
export const SERIES_KINDS = ['gauge', 'count', 'mean', 'p50', 'p95', 'p99'] as const
/**
 * `gauge`: as it stands. `count`: a counter, drawn per second, whose growth is kept. `mean`, `p50` …: of what a
 * histogram counted since the reading before (a mean of a summary, too).
 */
export type SeriesKind = (typeof SERIES_KINDS)[number]

export const SERIES_KIND_WORDS: Record<SeriesKind, string> = {
  gauge: 'as it stands',
  count: 'a counter, per second',
  mean: 'mean of a histogram',
  p50: 'p50 of a histogram',
  p95: 'p95 of a histogram',
  p99: 'p99 of a histogram',
}

/** What a series is known to be: by it changes are marked, and accounts closed. */
export const STANDS_FOR = ['calls', 'duration', 'cpu', 'memory', 'connections', 'replicas', 'queue'] as const
export type StandsFor = (typeof STANDS_FOR)[number]

export const STANDS_FOR_WORDS: Record<StandsFor, string> = {
  calls: 'calls of steps',
  duration: 'time inside',
  cpu: 'CPU',
  memory: 'memory',
  connections: 'connections',
  replicas: 'replicas',
  queue: 'queue',
}

/** One chosen series; split by a label it has a line for each of its values. */
export interface SeriesChoice {
  /** Unique in its target. */
  name: string
  /** Name of the metric on a page of metrics, without the ends `_total`, `_bucket` …; a JSONPath on a page of JSON. */
  of: string
  kind: SeriesKind
  /** Labels it must carry; `{{run}}` in a value is the number of the run, as requests carry it. */
  labels?: Record<string, string>
  /** Name of the label that tells lines apart. */
  by?: string
  /** As it is shown behind its values. */
  unit?: string
  /** Values are multiplied by it: 100 makes shares of one percent. */
  factor?: number
  standsFor?: StandsFor
  /** Drawn with it. */
  limit?: number
}

export interface Source {
  /** Unique in its target. */
  name: string
  /** `metrics`: OpenMetrics, or the older text form. `json`: a page of JSON, read by JSONPath. */
  kind: 'metrics' | 'json'
  address: string
  /** Read so often, s. */
  everyS: number
  /** Value of the header Authorization; `{{target.NAME}}` stands for a sealed value. */
  authorization?: string
  /** JSONPath of the moment the values of a page of JSON are of: ISO 8601, s or ms since 1970. */
  stamp?: string
  series: SeriesChoice[]
}

/** How a plan reads its target's own figures. */
export interface TargetFigures {
  /** From so long before the load, s: what rest looks like. */
  beforeS: number
}

export const USUAL_BEFORE_S = 30

export interface SourceFault {
  /** Of the source in the list, and of its series. */
  source: number
  series?: number
  sentence: string
  remedy: string
}

/** What is wrong with the sources of a target beyond their schema; empty: nothing. */
export function sourceFaults(sources: readonly Source[]): SourceFault[] {
  const found: SourceFault[] = []
  const names = sources.map(s => s.name)
  const series = sources.flatMap(s => s.series.map(c => c.name))
  sources.forEach((source, s) => {
    const tell = (sentence: string, remedy: string, c?: number) =>
      found.push({ source: s, ...(c === undefined ? {} : { series: c }), sentence, remedy })
    if (!URL.canParse(source.address) || !/^https?:$/.test(new URL(source.address).protocol))
      tell(`“${source.address}” is no address of a page.`, 'Write one like https://portal.example:9100/metrics.')
    if (names.indexOf(source.name) !== s) tell(`Two sources are called ${source.name}.`, 'Give one another name.')
    source.series.forEach((choice, c) => {
      if (series.filter(name => name === choice.name).length > 1)
        tell(`Two series are called ${choice.name}.`, 'Give one another name.', c)
      if (source.kind === 'json' && !['gauge', 'count'].includes(choice.kind))
        tell(`${choice.name}: a page of JSON has no histograms.`, 'Take it as it stands, or as a counter.', c)
    })
  })
  return found
}

/** `{{run}}` filled in. */
export function labelsOfRun({ labels = {} }: Pick<SeriesChoice, 'labels'>, runId: number): Record<string, string> {
  return Object.fromEntries(
    Object.entries(labels).map(([name, value]) => [name, value.replaceAll('{{run}}', String(runId))]),
  )
}

/** Requests carry the run's mark, and the target counts by it: other callers are told apart exactly. */
export const tellsRunsApart = ({ labels = {} }: Pick<SeriesChoice, 'labels'>): boolean =>
  Object.values(labels).some(value => value.includes('{{run}}'))

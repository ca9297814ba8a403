/** Where a target's own figures are read, and which of them. Kept with the target. */
import { compileExpression, ExpressionError } from '../values/expression'
import { QueryError, readQuery } from './query'

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
export const STANDS_FOR = [
  'calls', 'duration', 'cpu', 'memory', 'requestUse', 'limitUse', 'connections', 'replicas', 'queue', 'costPerHour',
] as const
export type StandsFor = (typeof STANDS_FOR)[number]

export const STANDS_FOR_WORDS: Record<StandsFor, string> = {
  calls: 'calls of steps',
  duration: 'time inside',
  cpu: 'CPU',
  memory: 'memory',
  requestUse: 'use against request',
  limitUse: 'use against limit',
  connections: 'connections',
  replicas: 'replicas',
  queue: 'queue',
  costPerHour: 'cost per hour',
}

/** One chosen series; split by a label it has a line for each of its values. */
export interface SeriesChoice {
  /** Unique in its target. */
  name: string
  /**
   * Name of the metric on a page of metrics, in lines and in what is sent, without the ends `_total`, `_bucket` …; a
   * JSONPath on a page of JSON; a query to a metrics server, or a pattern over what a command
   * writes, where `{{run}}` is the number of the run.
   */
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

export const SOURCE_KINDS = ['metrics', 'json', 'server', 'command', 'sent'] as const
/**
 * `metrics`: a page of OpenMetrics, or of the older text form. `json`: a page of JSON, read by JSONPath. `server`: a
 * metrics server, asked by its query API. `command`: what a shell line writes on a private host. `sent`: what is sent
 * here, as lines or in the open telemetry protocol.
 */
export type SourceKind = (typeof SOURCE_KINDS)[number]

export const SOURCE_KIND_WORDS: Record<SourceKind, string> = {
  metrics: 'page of metrics',
  json: 'page of JSON',
  server: 'metrics server',
  command: 'command on a host',
  sent: 'sent here',
}

export interface Source {
  /** Unique in its target. */
  name: string
  kind: SourceKind
  /**
   * Of the page; of a metrics server, what its API lies under; of a command, the private host it runs on, as
   * `site/host`. Empty where figures are sent here.
   */
  address: string
  /** Read so often, s. */
  everyS: number
  /** Value of the header Authorization; `{{target.NAME}}` stands for a sealed value. */
  authorization?: string
  /** JSONPath of the moment the values of a page of JSON are of: ISO 8601, s or ms since 1970. */
  stamp?: string
  /** Shell line; `{{run}}` is the number of the run. */
  command?: string
  /** The command runs on, and its lines are read as they come; else it is run anew each time. */
  runsOn?: boolean
  /** Series are chosen by patterns over what it writes; else it writes lines `name value [time]`. */
  byPattern?: boolean
  series: SeriesChoice[]
}

/** What a series is chosen by. */
export function chosenBy({ kind, byPattern }: Pick<Source, 'kind' | 'byPattern'>): string {
  const words = { metrics: 'metric', json: 'JSONPath', server: 'query', command: 'name', sent: 'name' } as const
  return byPattern ? 'pattern' : words[kind]
}

/** Its series are chosen by name and labels among what it offers; else they are written. */
export const isChosenByName = ({ kind, byPattern }: Pick<Source, 'kind' | 'byPattern'>): boolean =>
  kind === 'metrics' || kind === 'sent' || (kind === 'command' && !byPattern)

/** How series of a source can be taken. A query works out itself what it wants of a histogram. */
export const kindsOf = ({ kind }: Pick<Source, 'kind'>): readonly SeriesKind[] =>
  kind === 'metrics' || kind === 'sent' ? SERIES_KINDS : SERIES_KINDS.filter(k => k === 'gauge' || k === 'count')

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
    const [sentence, remedy] = placeFault(source) ?? []
    if (sentence !== undefined && remedy !== undefined) tell(sentence, remedy)
    if (names.indexOf(source.name) !== s) tell(`Two sources are called ${source.name}.`, 'Give one another name.')
    source.series.forEach((choice, c) => {
      if (series.filter(name => name === choice.name).length > 1)
        tell(`Two series are called ${choice.name}.`, 'Give one another name.', c)
      if (!kindsOf(source).includes(choice.kind))
        tell(`${choice.name}: a ${SOURCE_KIND_WORDS[source.kind]} gives no histograms.`, 'Take it as it stands, or as a counter.', c)
      const [fault, help] = choiceFault(source, choice) ?? []
      if (fault !== undefined && help !== undefined) tell(`${choice.name}: ${fault}`, help, c)
    })
  })
  return found
}

/** What is wrong, and what to do about it. */
type Fault = readonly [sentence: string, remedy: string]

function placeFault({ name, kind, address, command }: Source): Fault | undefined {
  if (kind === 'sent') return undefined
  if (kind === 'command') {
    if (!/^[^/]+\/[^/]+$/.test(address)) return [`${name} names no host.`, 'Choose the private host the command runs on.']
    return command?.trim() ? undefined : [`${name} has no command.`, 'Write one like ss -s.']
  }
  const isPage = URL.canParse(address) && /^https?:$/.test(new URL(address).protocol)
  return isPage ? undefined : [`“${address}” is no address of a page.`, 'Write one like https://portal.example:9100/metrics.']
}

function choiceFault({ kind, byPattern }: Source, choice: SeriesChoice): Fault | undefined {
  try {
    if (kind === 'server') readQuery(queryOfRun(choice, 0))
    else if (kind === 'command' && byPattern) compileExpression(queryOfRun(choice, 0))
    return undefined
  }
  catch (error) {
    if (error instanceof QueryError) return [error.message, 'Write one like sum by (pod) (rate(calls_total[10s])).']
    if (error instanceof ExpressionError) return [`${error.message}.`, 'Write one like established (\\d+).']
    throw error
  }
}

const RUN = '{{run}}'
export const ofRun = (text: string, runId: number): string => text.replaceAll(RUN, String(runId))

/** `{{run}}` filled in. */
export function labelsOfRun({ labels = {} }: Pick<SeriesChoice, 'labels'>, runId: number): Record<string, string> {
  return Object.fromEntries(Object.entries(labels).map(([name, value]) => [name, ofRun(value, runId)]))
}

/** The same of a query. */
export const queryOfRun = ({ of }: Pick<SeriesChoice, 'of'>, runId: number): string => ofRun(of, runId)

/** Requests carry the run's mark, and the target counts by it: other callers are told apart exactly. */
export const tellsRunsApart = (
  { labels = {}, of }: Pick<SeriesChoice, 'labels' | 'of'>,
  { command = '' }: Pick<Source, 'command'> = {},
): boolean => [of, command, ...Object.values(labels)].some(text => text.includes(RUN))

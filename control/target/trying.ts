/** Tries a source at once: at which step it fails, what it offers, and what would be read of it. */
import type { TriedSource } from '../../api/views'
import type { Clock } from '../clock'
import { notFound } from '../errors'
import { refuseSources, type Library } from '../library/library'
import type { AnsweredLine } from '../../core/target/query'
import { readMetricsPage, type Family, type Sample } from '../../core/target/metrics-page'
import type { Source } from '../../core/target/source'
import { PageFetcher, PageTrouble, type FetchedPage, type PageStep } from './page'
import { MetricsServer } from './metrics-server'
import { isOpenMetrics, PageReader, unreadable } from './page-reader'
import { ServerReader } from './server-reader'
import type { SourceReading } from './source-reader'

const STEPS: readonly PageStep[] = ['approval', 'connection', 'answer', 'page']
/** Metrics of a page that are offered. */
const MOST_OFFERED = 3000
/** Values of a label that are told. */
const MOST_VALUES = 50

/** Run that a try is made for: there is none. */
const NO_RUN = 0

/** Of a target as it is kept: what its owner has agreed to counts. @throws ControlError */
export async function trySource(
  targetId: string,
  source: Source,
  library: Pick<Library, 'target' | 'secretsOf'>,
  clock: Pick<Clock, 'now'>,
): Promise<TriedSource> {
  const target = library.target(targetId)
  if (!target) throw notFound(`target ${targetId}`)
  refuseSources([source])
  const secrets = source.authorization ? library.secretsOf({ ...target, sources: [source] }) : {}
  const fetcher = new PageFetcher(target, secrets, () => clock.now())
  try {
    return source.kind === 'server' ? await triedServer(source, fetcher, clock) : await triedPage(source, fetcher)
  }
  catch (error) {
    const trouble = error instanceof PageTrouble ? error : unreadable(error)
    const at = STEPS.indexOf(trouble.step)
    return {
      steps: STEPS.slice(0, at + 1).map((step, i) => ({
        step,
        isRight: i < at,
        ...(i === at ? { sentence: trouble.message, remedy: trouble.remedy } : {}),
      })),
      offered: [],
      found: [],
    }
  }
  finally {
    await fetcher.close()
  }
}

/** The page is fetched once, and read twice: for what is offered, and for what is chosen. @throws PageTrouble */
async function triedPage(source: Source, fetcher: PageFetcher): Promise<TriedSource> {
  const page = await fetcher.fetch(source)
  const offered = source.kind === 'json' ? [] : offersOf(page)
  const reading = await new PageReader(source, { fetch: () => Promise.resolve(page) }, NO_RUN).read()
  return {
    steps: STEPS.map(step => ({ step, isRight: true })),
    tookMs: page.gotAt - page.askedAt,
    bytes: Buffer.byteLength(page.text),
    ...(reading.clock ? { clock: reading.clock } : {}),
    offered,
    found: foundOf(source, reading, page.gotAt),
  }
}

/** What a series was is shown for so long, s, at moments so far apart. */
const COURSE = { lastS: 300, stepS: 5 }

/** @throws PageTrouble */
async function triedServer(source: Source, fetcher: PageFetcher, clock: Pick<Clock, 'now'>): Promise<TriedSource> {
  const askedAt = clock.now()
  const reader = new ServerReader(source, fetcher, NO_RUN)
  const reading = await reader.read()
  const gotAt = clock.now()
  const known = await new MetricsServer(source, fetcher).metrics()
  const courses = await reader.courses(COURSE.lastS, COURSE.stepS)
  return {
    steps: STEPS.map(step => ({ step, isRight: true })),
    tookMs: gotAt - askedAt,
    ...(reading.clock ? { clock: reading.clock } : {}),
    offered: known.slice(0, MOST_OFFERED).map(({ name, type = 'untyped', unit, help }) => ({
      of: name,
      type,
      ...(unit ? { unit } : {}),
      ...(help ? { help } : {}),
      labels: {},
    })),
    found: foundOf(source, reading, gotAt).map((found, series) => ({
      ...found,
      labels: [...new Set(courses[series]!.flatMap(({ metric }) => Object.keys(metric)))].filter(l => l !== '__name__').sort(),
      course: courseOf(courses[series]!, source.series[series]!.factor),
    })),
  }
}

function foundOf({ series }: Pick<Source, 'series'>, { points }: Pick<SourceReading, 'points'>, gotAt: number) {
  return series.map(({ name }, at) => ({
    name,
    lines: points
      .filter(p => p.series === at)
      .map(({ split, value, atMs }) => ({ split, value, ageMs: Math.max(0, gotAt - atMs) })),
  }))
}

/** All lines together, moment by moment. */
function courseOf(lines: readonly AnsweredLine[], factor = 1): { agoS: number, value: number }[] {
  const sums = new Map<number, number>()
  for (const { values } of lines)
    for (const [atS, value] of values) sums.set(atS, (sums.get(atS) ?? 0) + factor * Number(value))
  const newest = Math.max(...sums.keys())
  return [...sums].sort(([a], [b]) => a - b).map(([atS, value]) => ({ agoS: newest - atS, value }))
}

/** Ends that samples of one metric have. */
const ENDS = /_(?:total|created|bucket|count|sum|gcount|gsum|info)$/

function offersOf(page: FetchedPage): TriedSource['offered'] {
  const { samples, families } = readMetricsPage(page.text, undefined, isOpenMetrics(page))
  const metrics = new Map<string, { family: Family | undefined, samples: Sample[] }>()
  for (const sample of samples) {
    const short = sample.name.replace(ENDS, '')
    const name = families.has(sample.name) || !families.has(short) ? sample.name : short
    const metric = metrics.get(name)
    if (metric) metric.samples.push(sample)
    else metrics.set(name, { family: families.get(name), samples: [sample] })
  }
  return Array.from(metrics, ([of, { family, samples }]) => ({
    of,
    type: family?.type ?? 'untyped',
    ...(family?.unit ? { unit: family.unit } : {}),
    ...(family?.help ? { help: family.help } : {}),
    value: samples.length === 1 ? samples[0]!.value : undefined,
    lines: samples.length,
    labels: labelsOf(samples),
  })).slice(0, MOST_OFFERED)
}

function labelsOf(samples: readonly Sample[]): Record<string, string[]> {
  const labels: Record<string, Set<string>> = {}
  for (const { labels: own } of samples) {
    for (const [label, value] of Object.entries(own)) {
      if (label === 'le' || label === 'quantile') continue
      const values = (labels[label] ??= new Set())
      if (values.size < MOST_VALUES) values.add(value)
    }
  }
  return Object.fromEntries(Object.entries(labels).map(([label, values]) => [label, [...values].sort()]))
}

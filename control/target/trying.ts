/** Tries a source at once: at which step it fails, what it offers, and what would be read of it. */
import type { TriedSource } from '../../api/views'
import { setTimeout as sleep } from 'node:timers/promises'
import { notFound } from '../errors'
import { refuseSources, type Library } from '../library/library'
import type { AnsweredLine } from '../../core/target/query'
import { readMetricsPage, type Family, type MetricSample } from '../../core/target/metrics-page'
import { byMoment, identityOf, readLines } from '../../core/target/lines'
import { SourceReadings } from '../../core/target/readings'
import type { Source, SourceKind } from '../../core/target/source'
import { CommandReader } from './command-reader'
import { PageFetcher, type FetchedPage } from './page'
import { SourceTrouble, type SourceStep } from './trouble'
import { MetricsServer } from './metrics-server'
import { isOpenMetrics, PageReader, unreadable } from './page-reader'
import { ServerReader } from './server-reader'
import type { SourceReading, Surroundings } from './source-reader'

const STEPS: readonly SourceStep[] = ['approval', 'connection', 'answer', 'page']
/** Metrics of a page that are offered. */
const MOST_OFFERED = 3000
/** Values of a label that are told. */
const MOST_VALUES = 50
/** Of what a command writes, so much is shown, characters. */
const MOST_SHOWN = 4000

/** Run that a try is made for: there is none. */
const NO_RUN = 0

/** Of a target as it is kept: what its owner has agreed to counts. @throws ControlError */
export async function trySource(
  targetId: string,
  source: Source,
  library: Pick<Library, 'target' | 'secretsOf'>,
  { commands, inbox, now }: Pick<Surroundings, 'commands' | 'inbox' | 'now'>,
): Promise<TriedSource> {
  const target = library.target(targetId)
  if (!target) throw notFound(`target ${targetId}`)
  refuseSources([source])
  const secrets = source.authorization ? library.secretsOf({ ...target, sources: [source] }) : {}
  const pages = new PageFetcher(target, secrets, now)
  try {
    return await TRIES[source.kind](source, { targetId, pages, commands, inbox, now })
  }
  catch (error) {
    const trouble = error instanceof SourceTrouble ? error : unreadable(error)
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
    await pages.close()
  }
}

type Try = (source: Source, from: Surroundings) => Promise<TriedSource>

const TRIES: Readonly<Record<SourceKind, Try>> = {
  metrics: triedPage,
  json: triedPage,
  server: triedServer,
  command: triedCommand,
  sent: triedSent,
}

/** All went well. */
const RIGHT = STEPS.map(step => ({ step, isRight: true }))

/** The page is fetched once, and read twice: for what is offered, and for what is chosen. @throws SourceTrouble */
async function triedPage(source: Source, { pages }: Surroundings): Promise<TriedSource> {
  const page = await pages.fetch(source)
  const offered = source.kind === 'json' ? [] : offersOfPage(page)
  const reading = await new PageReader(source, { fetch: () => Promise.resolve(page) }, NO_RUN).read()
  return {
    steps: RIGHT,
    tookMs: page.gotAt - page.askedAt,
    bytes: Buffer.byteLength(page.text),
    ...(reading.clock ? { clock: reading.clock } : {}),
    offered,
    found: foundOf(source, reading, page.gotAt),
  }
}

/** What a series was is shown for so long, s, at moments so far apart. */
const COURSE = { lastS: 300, stepS: 5 }

/** @throws SourceTrouble */
async function triedServer(source: Source, { pages, now }: Surroundings): Promise<TriedSource> {
  const askedAt = now()
  const reader = new ServerReader(source, pages, NO_RUN)
  const reading = await reader.read()
  const gotAt = now()
  const known = await new MetricsServer(source, pages).metrics()
  const courses = await reader.courses(COURSE.lastS, COURSE.stepS)
  return {
    steps: RIGHT,
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

/** A command that runs on is listened to for so long, at most, ms. */
const LISTEN_MS = 3000

/** What it writes is offered as it came; runs on: until something was read, or for a while. @throws SourceTrouble */
async function triedCommand(source: Source, { commands, now }: Surroundings): Promise<TriedSource> {
  const askedAt = now()
  const reader = new CommandReader(source, commands, now, NO_RUN)
  try {
    let reading = await reader.read()
    while (source.runsOn && reader.text === '' && now() - askedAt < LISTEN_MS) {
      await sleep(LISTEN_MS / 20)
      reading = await reader.read()
    }
    const gotAt = now()
    return {
      steps: RIGHT,
      tookMs: gotAt - askedAt,
      bytes: Buffer.byteLength(reader.text),
      offered: source.byPattern ? [] : offersOf(readLines(reader.text).samples),
      text: reader.text.slice(0, MOST_SHOWN),
      found: foundOf(source, reading, gotAt),
    }
  }
  finally {
    reader.close()
  }
}

/** What came in the last minute. @throws SourceTrouble */
function triedSent(source: Source, { inbox, targetId, now }: Surroundings): Promise<TriedSource> {
  const gotAt = now()
  const came = inbox.of(targetId, source.name).latest(gotAt)
  const samples = came.flatMap(d => d.samples)
  if (samples.length === 0)
    return Promise.reject(
      new SourceTrouble('answer', 'Nothing was sent to it in the last minute.', 'Make a token, and send lines or metrics with it.'),
    )
  const readings = new SourceReadings(source, NO_RUN)
  const points = came.flatMap(d => readings.takeMoments(byMoment(d.samples), d.at).points)
  // Of each line the newest.
  const newest = new Map(points.map(p => [`${p.series} ${p.split}`, p]))
  return Promise.resolve({
    steps: RIGHT,
    offered: offersOf(latestOf(samples)),
    found: foundOf(source, { points: [...newest.values()] }, gotAt),
  })
}

const latestOf = (samples: readonly MetricSample[]): MetricSample[] =>
  [...new Map(samples.map(s => [identityOf(s), s])).values()]

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

const offersOfPage = (page: FetchedPage): TriedSource['offered'] => {
  const { samples, families } = readMetricsPage(page.text, undefined, isOpenMetrics(page))
  return offersOf(samples, families)
}

function offersOf(samples: readonly MetricSample[], families: ReadonlyMap<string, Family> = new Map()): TriedSource['offered'] {
  const metrics = new Map<string, { family: Family | undefined, samples: MetricSample[] }>()
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

function labelsOf(samples: readonly MetricSample[]): Record<string, string[]> {
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

/** What a target said of itself beside a run, as charts and tables ask for it. */
import { existsSync } from 'node:fs'
import type { TargetView } from '../../api/views'
import { targetCost } from '../../core/target/cost'
import { courseOf, thinned } from '../../core/target/course'
import { recoveryOf, stepsOf } from '../../core/target/recovery'
import type { SeriesChoice, Source } from '../../core/target/source'
import { TargetFile, type SourceStanding } from '../store/target-file'
import { loadEndOf, type WatchedRun } from './watches'

/** What is asked: values from a run time on, thinned to about this many of each line. */
export interface TargetWish {
  sinceS?: number
  most?: number
  /** Names of those that are told; left out: all. */
  series?: readonly string[]
}

export const USUAL_POINTS = 1200
/** A value older than this, in beats of its source, is stale: nothing may be decided by it. */
const STALE_BEATS = 3

/** @param isReading whether its sources are still read @param now ms since 1970 */
export async function targetView(
  run: WatchedRun,
  path: string,
  wish: TargetWish,
  isReading: boolean,
  now: number,
): Promise<TargetView> {
  if (!existsSync(path)) return { isReading, sources: [], series: [], steps: [] }
  const file = new TargetFile(path)
  try {
    const standings = file.standings()
    const sources = run.document.target.sources ?? []
    return {
      isReading,
      sources: sources.map(source => sourceView(source, standings.get(source.name), isReading, now)),
      series: await seriesViews(run, sources, file, wish, now),
      steps: replicaSteps(run, sources, file),
      ...costView(run, sources, file, now),
    }
  }
  finally {
    file.close()
  }
}

function sourceView(
  { name, everyS }: Source,
  standing: SourceStanding | undefined,
  isReading: boolean,
  now: number,
): TargetView['sources'][number] {
  const { readAt, ageMs: ageThen = 0, trouble, readings = 0, failures = 0 } = standing ?? {}
  const { offsetMs, offsetUncertaintyMs } = standing ?? {}
  const ageMs = readAt === undefined ? undefined : ageThen + (now - readAt)
  return {
    name,
    everyS,
    readings,
    failures,
    ...(isReading && ageMs !== undefined ? { ageMs, isStale: ageMs > STALE_BEATS * everyS * 1000 } : {}),
    ...(trouble === undefined ? {} : { trouble }),
    ...(offsetMs === undefined || offsetUncertaintyMs === undefined ? {} : { offsetMs, offsetUncertaintyMs }),
  }
}

async function seriesViews(
  run: WatchedRun,
  sources: readonly Source[],
  file: TargetFile,
  wish: TargetWish,
  now: number,
): Promise<TargetView['series']> {
  const lines = file.lines()
  const views: TargetView['series'] = []
  for (const { name: source, everyS, series } of sources) {
    for (const choice of series) {
      if (wish.series && !wish.series.includes(choice.name)) continue
      const { name, kind, unit, standsFor, limit, by } = choice
      const view: TargetView['series'][number] = {
        name,
        source,
        kind,
        ...(unit === undefined ? {} : { unit }),
        ...(standsFor === undefined ? {} : { standsFor }),
        ...(limit === undefined ? {} : { limit }),
        ...(by === undefined ? {} : { by }),
        everyS,
        lines: [],
      }
      for (const { id, split } of lines.filter(line => line.series === name)) {
        view.lines.push({ split, ...lineView(run, file, id, { choice, everyS, wish, now }) })
        // An hour of a hundred lines takes most of a second: nobody else waits for it.
        await new Promise(setImmediate)
      }
      views.push(view)
    }
  }
  return views
}

/**
 * This many beats before what is asked for are read, too: a counter grows from something, and a gap begins somewhere.
 */
const BEATS_BEFORE = 4

function lineView(
  run: WatchedRun,
  file: TargetFile,
  line: number,
  { choice, everyS, wish, now }: { choice: SeriesChoice, everyS: number, wish: TargetWish, now: number },
): Omit<TargetView['series'][number]['lines'][number], 'split'> {
  const { sinceS, most = USUAL_POINTS } = wish
  const zeroMs = run.startAt ?? now
  const loadEndsS = run.startAt === undefined ? undefined : (loadEndOf(run) - run.startAt) / 1000
  const isAfter = loadEndsS !== undefined && now > zeroMs + loadEndsS * 1000
  // How it was at rest is of interest once there is something to compare it with.
  const isWhole = sinceS === undefined || (isAfter && choice.kind === 'gauge')
  const values = file.values(line, zeroMs, isWhole ? undefined : zeroMs + (sinceS - BEATS_BEFORE * everyS) * 1000)
  const recovery =
    isWhole && choice.kind === 'gauge' && loadEndsS !== undefined
      ? recoveryOf(values, loadEndsS, choice.standsFor === 'replicas')
      : undefined
  const course = courseOf(values, choice.kind, everyS)
  const from = sinceS === undefined ? 0 : course.atS.findIndex(atS => atS >= sinceS)
  const shown = from < 0 ? { atS: [], values: [] } : { atS: course.atS.slice(from), values: course.values.slice(from) }
  return { ...thinned(shown, most), ...(recovery ? { recovery } : {}) }
}

/** Once the load is over: until then it goes on. */
function costView(run: WatchedRun, sources: readonly Source[], file: TargetFile, now: number): Pick<TargetView, 'cost'> {
  const { startAt, document: { target: { prices = {} } } } = run
  if (startAt === undefined || now < loadEndOf(run)) return {}
  const lines = file.lines()
  const series = sources.flatMap(s => s.series).filter(c => c.standsFor !== undefined)
  const cost = targetCost(
    prices,
    series.map(({ name, standsFor, unit }) => ({
      ...(standsFor === undefined ? {} : { standsFor }),
      ...(unit === undefined ? {} : { unit }),
      lines: lines.filter(l => l.series === name).map(l => file.values(l.id, startAt)),
    })),
  )
  return cost.length > 0 ? { cost } : {}
}

function replicaSteps(run: WatchedRun, sources: readonly Source[], file: TargetFile): TargetView['steps'] {
  const { startAt } = run
  if (startAt === undefined) return []
  const of = new Set(sources.flatMap(s => s.series.filter(c => c.standsFor === 'replicas').map(c => c.name)))
  return file
    .lines()
    .filter(line => of.has(line.series))
    .flatMap(({ id, series, split }) =>
      stepsOf(file.values(id, startAt)).filter(s => s.atS > 0).map(step => ({ ...step, series, split })))
    .sort((a, b) => a.atS - b.atS)
}

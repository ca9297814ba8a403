/** Two to six runs beside each other: what differed, by how much, and whether repeats differ as much by themselves. */
import type { CompareView } from '../../api/views'
import { differenceOf, standingsOf, yardstickOf, type Difference, type JudgedDifference, type Yardstick } from '../../core/compare/difference'
import { MOST_COMPARED, rowsOf, type ComparedMetric, type ComparedRow } from '../../core/compare/rows'
import { comparedSetUps, isRepeat, type SetUp } from '../../core/compare/set-up'
import type { Spread } from '../../core/compare/spread'
import { spreadOfReadings } from '../../core/compare/target-spread'
import type { TargetLineValues } from '../../core/objectives/target-values'
import type { Window } from '../../core/objectives/windows'
import type { AskedRun } from '../ingest/worker-messages'
import type { StoredRun } from '../store/runs'
import { ControlError } from '../errors'
import type { MeasureRun } from './known-measures'
import type { runLine } from './run-lines'
import { present } from '../../core/values/present'
import type { RunSummary } from '../../core/result/summary'

/** Repeats the yardstick is made of at most: the latest. */
const MOST_REPEATS = 12
/** Rows that are in view at once, about. */
export const FIRST_ROWS = 16

export interface CompareWish {
  /** The first is what the others are held against. */
  runs: readonly number[]
  /** Level that is compared; left out: the highest that all of them have. */
  users?: number
  /** Of steps, groups and locations. */
  metric?: ComparedMetric
  /** Only of the first rows how far they may be off: those who look at them need not wait for the rest. */
  first?: boolean
}

export interface ComparingOptions {
  /** With everything that it measured. @throws ControlError */
  run: (id: number) => StoredRun
  /** Runs of the same plan, the latest first. */
  ofPlan: (planId: string) => StoredRun[]
  line: (run: StoredRun) => ReturnType<typeof runLine>
  asked: (id: number) => AskedRun
  measures: MeasureRun
  /** What was read of its target's own figures. */
  targetLines: (run: StoredRun) => TargetLineValues[]
}

/** @throws ControlError */
export async function compared(wish: CompareWish, options: ComparingOptions): Promise<CompareView> {
  const runs = chosenRuns(wish, options)
  const [baseline, ...others] = runs
  const { levels, users } = chosenLevel(wish, runs)
  const rows = [
    ...rowsOf(baseline.document, wish.metric),
    ...targetRows(baseline.document, options.targetLines(baseline)),
  ]
  const withSpread = wish.first ? FIRST_ROWS : rows.length
  const coming = Math.max(0, rows.filter(r => !r.target).length - withSpread)
  const measure = (run: StoredRun, spread: boolean) =>
    measured(run, rows, windowsAt(run, users), spread ? withSpread : 0, options)
  const [own, theirs] = await Promise.all([measure(baseline, true), Promise.all(others.map(run => measure(run, true)))])
  const repeats = repeatsOf(baseline, options.ofPlan(baseline.planId), users)
  const known = new Map(runs.map((run, i) => [run.id, [own, ...theirs][i]!]))
  const repeated = await Promise.all(repeats.map(run => known.get(run.id) ?? measure(run, false)))
  const told = theirs.map((spreads, o) => {
    // One more run is foretold without itself.
    const before = repeated.filter((_, i) => repeats[i]!.id !== others[o]!.id)
    const judged = rows.map(({ metric }, r) => ({
      difference: differenceOf(metric, spreads[r]!, own[r]!),
      yardstick: yardstickOf(metric, before.map(of => of[r]!.value), own[r]!.value),
    }))
    // Chance is reckoned with over all rows or not at all.
    return { judged, standings: coming > 0 ? rows.map(() => 'untold' as const) : standingsOf(judged) }
  })
  return {
    runs: runs.map(run => ({ ...options.line(run), lengthS: summaryOf(run).lengthS, holds: holdsOf(run) })),
    levels,
    ...(users === undefined ? {} : { users }),
    setUp: comparedSetUps(runs.map(setUp)),
    repeats: repeats.map(r => r.id),
    ...(coming > 0 ? { coming } : {}),
    rows: rows.flatMap((row, r) => {
      const values = [own, ...theirs].map(spreads => spreads[r]!.value ?? null)
      // Nothing was measured of it anywhere.
      if (values.every(v => v === null)) return []
      return [{
        ...row,
        says: wordsOf(row, baseline),
        values,
        others: others.map((_, o) => ({
          ...drawnOf(told[o]!.judged[r]!),
          standing: told[o]!.standings[r]!,
        })),
      }]
    }),
  }
}

/** Two at least. */
function chosenRuns(wish: CompareWish, options: ComparingOptions): [StoredRun, ...StoredRun[]] {
  const ids = [...new Set(wish.runs)]
  if (ids.length < 2 || ids.length > MOST_COMPARED)
    throw new ControlError(
      'compare',
      400,
      ids.length === 1 ? 'One run is chosen.' : `${ids.length} runs are chosen.`,
      `Choose two to ${MOST_COMPARED} of them.`,
    )
  const [first, ...others] = ids.map(options.run)
  const runs: [StoredRun, ...StoredRun[]] = [present(first, 'the first of those that were asked for'), ...others]
  for (const { id, summary } of runs)
    if (!summary) throw new ControlError('not-judged', 409, `Run ${id} has no answer yet.`, 'Wait until it has settled.')
  return runs
}

function chosenLevel(wish: CompareWish, runs: readonly StoredRun[]) {
  const levels = commonLevels(runs)
  if (wish.users !== undefined && !levels.includes(wish.users))
    throw new ControlError(
      'compare',
      400,
      `Not all of them held ${wish.users} users.`,
      `Levels they have in common: ${levels.join(', ') || 'none'}.`,
    )
  return { levels, users: wish.users ?? levels.at(-1) }
}

/**
 * Of each row in turn, in these windows of a run: merged by others, or read of its target.
 *
 * @param withSpread rows of which it is asked how far they may be off, from the first
 */
async function measured(
  run: StoredRun,
  rows: readonly ComparedRow[],
  windows: Window[],
  withSpread: number,
  { measures, asked, targetLines }: ComparingOptions,
): Promise<Spread[]> {
  const merged = rows.filter(r => !r.target)
  const lines = merged.length < rows.length ? targetLines(run) : []
  const lineOf = ({ series, split }: NonNullable<ComparedRow['target']>) =>
    lines.find(l => l.series === series && l.split === split)
  return [
    ...(await measures(asked(run.id), { rows: merged.slice(0, withSpread), windows, spread: true })),
    ...(await measures(asked(run.id), { rows: merged.slice(withSpread), windows, spread: false })),
    ...rows.flatMap(({ target }) => (target ? [spreadOfReadings(lineOf(target), windows)] : [])),
  ]
}

/** A row for each line that was read beside the baseline. */
function targetRows({ target }: StoredRun['document'], lines: readonly TargetLineValues[]): ComparedRow[] {
  const units = new Map((target.sources ?? []).flatMap(s => s.series.map(c => [c.name, c.unit])))
  return lines.map(({ series, split }) => {
    const unit = units.get(series)
    return {
      key: `target|${series}|${split}`,
      about: 'target',
      metric: 'mean',
      subject: {},
      target: { series, split, ...(unit === undefined ? {} : { unit }) },
    }
  })
}

/** Without what is worked out by it. */
function drawnOf({ difference, yardstick }: JudgedDifference): { difference?: Difference, yardstick?: Yardstick } {
  if (!yardstick) return difference ? { difference } : {}
  const { least, most, repeats } = yardstick
  return { ...(difference ? { difference } : {}), yardstick: { least, most, repeats } }
}

const setUp = ({ document, about }: Pick<StoredRun, 'document' | 'about'>): SetUp => ({ document, build: about.build })

/** Of a run that is compared: the one who chooses it is told where it has none. @throws Error */
export function summaryOf({ summary }: Pick<StoredRun, 'summary'>): RunSummary {
  return present(summary, 'what was found of a run that is compared')
}

/** Levels of a run that were judged, as they were held. */
function levelsOf(run: Pick<StoredRun, 'summary'>) {
  const { judgements, settled } = summaryOf(run).answer
  return settled ? judgements.filter(j => (j.objective.window ?? 'holds') === 'holds').map(j => j.level) : []
}

/** Each once: several objectives are judged at the same levels. */
export function holdsOf(run: Pick<StoredRun, 'summary'>): { users: number, fromS: number, toS: number }[] {
  const held = levelsOf(run).map(({ users, fromS, toS }) => ({ users, fromS, toS }))
  return [...new Map(held.map(h => [`${h.fromS} ${h.toS}`, h])).values()].sort((a, b) => a.fromS - b.fromS)
}

function commonLevels(runs: readonly StoredRun[]): number[] {
  const [first = new Set<number>(), ...rest] = runs.map(run => new Set(levelsOf(run).map(l => l.users)))
  return [...first].filter(users => rest.every(own => own.has(users))).sort((a, b) => a - b)
}

/** Holds at a level; without one all of the load. */
export function windowsAt(run: StoredRun, users: number | undefined): Window[] {
  if (users === undefined) return [{ fromS: 0, toS: summaryOf(run).lengthS }]
  return holdsOf(run).filter(h => h.users === users).map(({ fromS, toS }) => ({ fromS, toS }))
}

/** Runs of the baseline's set-up that count: judged, not unsound, with the level; itself among them. */
function repeatsOf(baseline: StoredRun, ofPlan: readonly StoredRun[], users: number | undefined): StoredRun[] {
  return ofPlan
    .filter(run =>
      run.id === baseline.id
      || (run.summary !== undefined
        && run.clearedAt === undefined
        && !run.document.calibration
        && run.summary.soundness !== 'unsound'
        && (users === undefined || levelsOf(run).some(l => l.users === users))
        && isRepeat(setUp(baseline), setUp(run))))
    .slice(0, MOST_REPEATS)
}

function wordsOf({ subject, about }: ComparedRow, { document }: StoredRun): string {
  const { plan, journeys } = document
  const group = plan.groups.find(g => g.letter === subject.group)
  const parts = [
    subject.step,
    // Steps of one name in several journeys are told apart by them.
    subject.journeyId !== undefined && document.journeys.length > 1
      ? `in ${journeys.find(j => j.id === subject.journeyId)?.name ?? subject.journeyId}`
      : undefined,
    group && (about === 'group' ? `${group.letter} ${group.name}` : `by ${group.letter}`),
    subject.location && (about === 'location' ? subject.location : `from ${subject.location}`),
  ].filter(p => p !== undefined && p !== '')
  return parts.length > 0 ? parts.join(' ') : 'all requests'
}

/** How a plan has gone, run by run: its objectives as each was judged, its steps at the highest level of the newest. */
import type { TrendView } from '../../api/views'
import { rowsOf } from '../../core/compare/rows'
import { trendOf, type TrendRun, type TrendLine } from '../../core/compare/trend'
import { nameOf, printObjective } from '../../core/objectives/sentence'
import { defined } from '../../core/values/defined'
import type { StoredRun } from '../store/runs'
import { type ComparingOptions, holdsOf, summaryOf, windowsAt } from './comparing'
import { present } from '../../core/values/present'

/** Runs whose steps are shown: the latest. */
const MOST_RUNS_OF_STEPS = 50
const METRIC = 'p95'

type TrendOptions = Pick<ComparingOptions, 'line' | 'asked' | 'measures'>

/** @param judged runs of the plan, the oldest first, one at least */
export async function trendView(judged: readonly StoredRun[], options: TrendOptions): Promise<TrendView> {
  const newest = present(judged.at(-1), 'the newest of the runs a trend is drawn of')
  const users = Math.max(0, ...holdsOf(newest).map(h => h.users))
  return {
    planName: newest.document.plan.name,
    runs: judged.map(options.line),
    lines: trendOf(judged.map(run => judgedAs(run, summaryOf(run).answer.judgements)), printObjective),
    // What was held nowhere cannot be told of two runs alike.
    ...(users === 0 ? {} : { steps: { users, lines: await stepLines(judged, newest, users, options) } }),
  }
}

async function stepLines(
  judged: readonly StoredRun[],
  newest: StoredRun,
  users: number,
  { asked, measures }: TrendOptions,
): Promise<TrendLine[]> {
  const { document } = newest
  // Those that objectives are about, too: they are told there as they were judged, in the windows of that.
  const plan = { ...document.plan, objectives: [] }
  const rows = rowsOf({ ...document, plan }, METRIC).filter(r => r.about === 'step')
  const runs: TrendRun[] = []
  for (const run of judged.slice(-MOST_RUNS_OF_STEPS)) {
    const windows = windowsAt(run, users)
    if (windows.length === 0 || run.clearedAt !== undefined) continue
    const found = await measures(asked(run.id), { rows, windows, spread: false })
    runs.push(judgedAs(run, rows.map(({ subject: { journeyId, step } }, r) => ({
      objective: { metric: METRIC, ...defined({ journeyId, step }) },
      level: { ...windows[0]!, users },
      measured: found[r]!.value,
      held: true,
    }))))
  }
  return trendOf(runs, nameOf)
}

function judgedAs(run: StoredRun, judgements: TrendRun['judgements']): TrendRun {
  const { id, document, about } = run
  return { id, document, build: about.build, judgements, soundness: summaryOf(run).soundness }
}

/** Runs as lines: the question and its answer. */
import type { RunLine } from '../../api/views'
import { planInUsers } from '../../core/plan/expected'
import { peakOfPlan } from '../../core/plan/peak'
import { RUN_WORDS, type RunChange } from '../../core/run/life'
import type { StoredRun } from '../store/runs'

/**
 * @param changes of the run; the last one says why a run without a result ended
 * @param cost of its machines so far
 * @param baseline of its plan, where there is one
 */
export function runLine(run: StoredRun, changes: readonly RunChange[], cost: number, baseline?: number): RunLine {
  const { plan, target } = run.document
  const last = changes.findLast(c => c.from !== c.to)
  const sentence =
    run.summary?.answer.sentence ??
    (run.state === 'failed'
      ? `${last?.event === 'resultFailed' ? '' : 'Not run: '}${(last?.reason ?? 'failed').replace(/\.$/, '')}.`
      : run.endedAt === undefined
        ? `${RUN_WORDS[run.state]}…`
        : `${RUN_WORDS[run.state]} before the load.`)
  return {
    id: run.id,
    planId: run.planId,
    planName: plan.name,
    question: plan.question,
    target: target.name,
    state: run.state,
    createdAt: run.createdAt,
    startAt: run.startAt,
    endedAt: run.endedAt,
    peakUsers: peakOfPlan(planInUsers(plan, run.document.journeys)),
    verdict: run.summary?.answer.verdict,
    sentence,
    soundness: run.summary?.soundness,
    cost,
    name: run.about.name,
    tags: run.about.tags,
    pinned: run.about.pinned,
    build: run.about.build,
    calibrates: run.document.calibration !== undefined,
    isClaimed: run.document.claimed !== undefined,
    ...(run.opened === undefined ? {} : { openedFrom: run.opened.number }),
    isBaseline: run.isBaseline,
    ...(baseline !== undefined && baseline < run.id ? { baseline } : {}),
  }
}

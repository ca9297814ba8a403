/** A gathering run: what it waits for, since when, how long that usually takes, and what it could go with now. */
import type { GatheringView } from '../../api/views'
import { joinsLate } from '../../core/fleet/order'
import type { StageTimes } from '../machines/stage-times'
import { asGathered, deadlineOf, machinesOf } from './gathering'
import type { Machine } from '../store/machines'
import type { RunStore, StoredRun } from '../store/runs'
import { locationOf } from '../../core/plan/in-plan'

export function gatheringView(
  run: StoredRun,
  crew: readonly Machine[],
  runs: RunStore,
  stageTimes: StageTimes,
  now: number,
): GatheringView | undefined {
  if (run.state !== 'gathering') return undefined
  const { document, id } = run
  const since = runs.changes(id).findLast(c => c.to === 'gathering' && c.from !== 'gathering')?.at ?? now
  return {
    since,
    deadlineAt: deadlineOf({ id, document, since }, { runs }),
    goFactor: asGathered(document, crew)?.wentWith?.factor,
    orders: document.fleet
      .filter(o => !joinsLate(o))
      .map((order) => {
        const here = machinesOf(document, order, crew)
        const there = here.filter(m => m.state === 'enrolled' || m.state === 'ready')
        const location = locationOf(document.plan, order.location)
        const usualMs = stageTimes.usualMs(location.provider)
        const missing = order.machines - here.length
        return {
          location: order.location,
          type: order.type.name,
          wanted: order.machines,
          there: there.length,
          ...(usualMs === undefined ? {} : { usualMs }),
          waiting: [
            ...here
              .filter(m => !there.includes(m))
              .map(m => ({
                name: m.name,
                state: m.state,
                sentence: m.waits?.sentence ?? '',
                since: m.waits?.since ?? m.since,
              })),
            ...(missing > 0
              ? [
                  {
                    name: `${missing} more`,
                    state: 'asked' as const,
                    sentence: `no machine waits at ${order.location}: invite one on the Fleet screen`,
                    since,
                  },
                ]
              : []),
          ],
        }
      }),
  }
}

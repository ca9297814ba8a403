/** Steps over the runs of a plan: at the highest level of the newest, in the seconds in which it was judged. */
import { trendView } from '../../control/run/trends'
import type { MeasuresWanted } from '../../control/ingest/measures'
import type { AskedRun } from '../../control/ingest/worker-messages'
import type { StoredRun } from '../../control/store/runs'
import { journey, plan, runDocument, step } from '../build/plans'

const objective = { metric: 'p95' as const, atMost: 500 }
const document = runDocument({
  plan: plan({ objectives: [objective] }),
  journeys: [journey({ round: [step({ name: 'Look' }), step({ name: 'Ask' })] })],
})
/** @param levels that were judged: users and from when on, for 30 s */
const stored = (id: number, levels: [users: number, fromS: number][], over: Partial<StoredRun> = {}) =>
  ({
    id,
    planId: 'p',
    document,
    about: { build: '' },
    summary: {
      soundness: 'sound',
      answer: {
        settled: levels.length > 0,
        judgements: levels.map(([users, fromS]) => ({
          objective,
          level: { users, fromS, toS: fromS + 30 },
          measured: 100 + id,
          held: true,
        })),
      },
    },
    ...over,
  }) as unknown as StoredRun

function trending() {
  const asked: { run: string, windows: MeasuresWanted['windows'] }[] = []
  const options = {
    line: ({ id }: StoredRun) => ({ id }),
    asked: (id: number) => ({ path: String(id), document, machines: [] }),
    measures: ({ path }: AskedRun, { rows, windows }: MeasuresWanted) => {
      asked.push({ run: path, windows })
      return Promise.resolve(rows.map((_, r) => ({ value: 10 * Number(path) + r, blocks: 0 })))
    },
  } as unknown as Parameters<typeof trendView>[1]
  return { asked, options }
}

it('are those of the level that the newest held last, of each run that held it, wherever it did', async () => {
  const { asked, options } = trending()
  const view = await trendView(
    [
      stored(1, [[20, 10]]),
      stored(2, [[40, 50]]),
      stored(3, [[40, 90]], { clearedAt: 1 }),
      stored(4, [[20, 10], [40, 60]]),
    ],
    options,
  )
  expect(view.steps!.users).toBe(40)
  expect(view.steps!.lines.map(l => [l.objective.step, l.points.map(p => [p.run, p.measured])])).toEqual([
    ['Look', [[2, 20], [4, 40]]],
    ['Ask', [[2, 21], [4, 41]]],
    // The span over both.
    ['Whole round', [[2, 22], [4, 42]]],
  ])
  expect(asked).toEqual([
    { run: '2', windows: [{ fromS: 50, toS: 80 }] },
    { run: '4', windows: [{ fromS: 60, toS: 90 }] },
  ])
  // Objectives are told of every run, as they were judged.
  expect(view.lines.find(l => l.users === 20)!.points.map(p => p.run)).toEqual([1, 4])
})

it('are not told where the newest settled at no level', async () => {
  const { asked, options } = trending()
  expect(await trendView([stored(1, [[20, 10]]), stored(2, [])], options)).not.toHaveProperty('steps')
  expect(asked).toEqual([])
})

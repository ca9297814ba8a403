/** Of many rows the first are told sooner: with how far they may be off, and without a standing until all are there. */
import { compared, type ComparingOptions } from '../../control/run/comparing'
import type { MeasuresWanted } from '../../control/ingest/measures'
import type { AskedRun } from '../../control/ingest/worker-messages'
import type { StoredRun } from '../../control/store/runs'
import { journey, plan, runDocument, step } from '../build/plans'

const STEPS = 30
const document = runDocument({
  plan: plan({ objectives: [] }),
  journeys: [journey({ round: Array.from({ length: STEPS }, (_, i) => step({ name: `step ${i}` })) })],
})
const stored = (id: number) =>
  ({
    id,
    planId: 'p',
    document,
    about: { build: '' },
    summary: { soundness: 'sound', lengthS: 600, answer: { judgements: [] } },
  }) as unknown as StoredRun

function comparing() {
  const asked: { run: string, rows: number, spread: boolean }[] = []
  const options = {
    run: stored,
    ofPlan: () => [1, 2, 3, 4].map(stored),
    line: ({ id }: StoredRun) => ({ id }),
    asked: (id: number) => ({ path: String(id), document, machines: [] }),
    measures: ({ path }: AskedRun, { rows, spread }: MeasuresWanted) => {
      asked.push({ run: path, rows: rows.length, spread })
      // Run 5 is three times as slow; repeats lie a hundredth apart.
      const value = 100 * (path === '5' ? 3 : 1 + Number(path) / 100)
      return Promise.resolve(rows.map(() => ({ value, blocks: 60, ...(spread ? { error: 0.001 } : {}) })))
    },
    targetLines: () => [],
  } as unknown as ComparingOptions
  return { asked, options }
}

it('has intervals of the first rows, says how many come, and judges none', async () => {
  const { asked, options } = comparing()
  const view = await compared({ runs: [1, 5], first: true }, options)
  const withInterval = view.rows.filter(r => r.others[0]!.difference!.interval)
  expect(withInterval).toEqual(view.rows.slice(0, withInterval.length))
  expect(withInterval.length).toBeGreaterThan(10)
  expect(view.coming).toBe(view.rows.length - withInterval.length)
  expect(new Set(view.rows.map(r => r.others[0]!.standing))).toEqual(new Set(['untold']))
  expect(asked.filter(a => a.spread && a.rows > 0).map(a => a.rows)).toEqual([withInterval.length, withInterval.length])
})

it('judges all of them when all are there', async () => {
  const { options } = comparing()
  const view = await compared({ runs: [1, 5] }, options)
  expect(view).not.toHaveProperty('coming')
  expect(view.rows.length).toBeGreaterThan(STEPS)
  for (const { others } of view.rows) expect(others[0]).toMatchObject({ standing: 'beyond' })
})

it('is complete at once where there are few rows', async () => {
  const { options } = comparing()
  const few = runDocument({ plan: plan({ objectives: [] }) })
  const run = (id: number) => ({ ...stored(id), document: few })
  const view = await compared({ runs: [1, 5], first: true }, { ...options, run, ofPlan: () => [1, 2, 3].map(run) })
  expect(view).not.toHaveProperty('coming')
})

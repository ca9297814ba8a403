/** Objectives over the runs of a plan: in which order, what is left out, and where the newest was to be expected. */
import { trendOf, type TrendRun } from '../../core/compare/trend'
import { printObjective } from '../../core/objectives/sentence'
import type { Objective } from '../../core/plan/document'
import { plan, runDocument } from '../build/plans'

const p95: Objective = { metric: 'p95', step: 'Ask', atMost: 1000 }
const failures: Objective = { metric: 'failures', atMost: 0.01 }
const document = runDocument({ plan: plan({ objectives: [p95, failures] }) })
const at = (users: number) => ({ fromS: users, toS: users + 5, users })

function run(id: number, ms: number, over: Partial<TrendRun> = {}): TrendRun {
  return {
    id,
    document,
    soundness: 'sound',
    judgements: [{ objective: p95, level: at(20), measured: ms, held: ms <= 1000 }],
    ...over,
  }
}
const trended = (runs: TrendRun[]) => trendOf(runs, printObjective)
const only = (runs: TrendRun[]) => trended(runs)[0]!

it('has a line for each objective at each level, of the newest run first, the oldest run at the left', () => {
  const lines = trended([
    run(1, 100, { judgements: [{ objective: failures, level: at(10), measured: 0.02, held: false }] }),
    run(2, 200, {
      judgements: [
        { objective: p95, level: at(20), measured: 200, held: true },
        { objective: p95, level: at(40), measured: 900, held: true, short: [{ kind: 'users', asked: 40, there: 30 }] },
        { objective: p95, level: at(20), measured: 250, held: true },
      ],
    }),
    run(3, 1200),
  ])
  expect(lines.map(l => [l.says, l.users, l.points.map(p => [p.run, p.measured, p.held])])).toEqual([
    [printObjective(p95, document.journeys), 20, [[2, 200, true], [3, 1200, false]]],
    // The load that was asked for was not there.
    [printObjective(p95, document.journeys), 40, [[2, 900, false]]],
    [printObjective(failures, document.journeys), 10, [[1, 0.02, false]]],
  ])
})

it('leaves out what was not measured, and users, which are no figure of the target', () => {
  const judgements = [
    { objective: p95, level: at(20), measured: undefined, held: false },
    { objective: { metric: 'users' as const, atLeast: 20 }, level: at(20), measured: 20, held: true },
  ]
  expect(trended([run(1, 100, { judgements })])).toEqual([])
  expect(trended([])).toEqual([])
})

describe('where the newest was to be expected', () => {
  it('is the prediction interval of its repeats: t(0.975; 2) = 4.303 (NIST/SEMATECH e-Handbook, 1.3.6.7.2)', () => {
    // Logarithms ln 1.1 apart: the mean is ln 110, the deviation ln 1.1.
    const { expected } = only([run(1, 100), run(2, 110), run(3, 121), run(4, 400)])
    const half = 4.303 * Math.log(1.1) * Math.sqrt(1 + 1 / 3)
    expect(expected!.least).toBeCloseTo(110 * Math.exp(-half), 1)
    expect(expected!.most).toBeCloseTo(110 * Math.exp(half), 1)
  })

  it('is the same whatever the newest itself measured', () => {
    const before = [run(1, 100), run(2, 110), run(3, 121)]
    const [one, other] = [only([...before, run(4, 90)]).expected!, only([...before, run(4, 4000)]).expected!]
    expect(one.least).toBeCloseTo(other.least, 6)
    expect(one.most).toBeCloseTo(other.most, 6)
  })

  it('is not told by fewer than three, by unsound runs, or by runs of another build or set-up', () => {
    const last = run(9, 100, { build: '2' })
    const same = (id: number, over: Partial<TrendRun> = {}) => run(id, 100 + id, { build: '2', ...over })
    expect(only([same(1), same(2), last]).expected).toBeUndefined()
    expect(only([same(1), same(2), same(3, { soundness: 'unsound' }), last]).expected).toBeUndefined()
    expect(only([same(1), same(2), same(3, { build: '1' }), last]).expected).toBeUndefined()
    const other = runDocument({ plan: plan({ objectives: [p95, failures], seed: 99 }) })
    expect(only([same(1), same(2), same(3, { document: other }), last]).expected).toBeUndefined()
    expect(only([same(1), same(2), same(3), last]).expected).toBeDefined()
    // Shown all the same.
    expect(only([same(1, { soundness: 'unsound' }), last]).points.map(p => p.counts)).toEqual([false, true])
  })

  it('of shares never ends below nothing', () => {
    const share = (id: number, measured: number) =>
      run(id, 0, { judgements: [{ objective: failures, level: at(20), measured, held: true }] })
    const { expected } = only([share(1, 0), share(2, 0.01), share(3, 0.02), share(4, 0.01)])
    expect(expected!.least).toBe(0)
    expect(expected!.most).toBeGreaterThan(0.02)
  })
})

/** The charts of a run in words and as a table. */
import fc from 'fast-check'
import { judgedFigure } from '../../app/components/stave/stave-judged'
import { sayStave, staveRows } from '../../app/components/stave/stave-table'
import type { SecondFigures, StepSecond } from '../../core/merge/second-figures'
import type { Objective } from '../../core/plan/document'

const figures = (p95: number | null): StepSecond => [10, 0, p95, p95, p95]
const second = (at: number, users: number, p95: number | null, started = 10, failed = 0) =>
  ({
    second: at,
    final: true,
    usersByLocation: [users, 1],
    started,
    failed,
    all: figures(p95),
    steps: { 'browse/Look': figures(p95 === null ? null : p95 * 2) },
  }) as unknown as SecondFigures
const plain = judgedFigure([])
const look = judgedFigure([{ metric: 'p95', step: 'Look', journeyId: 'browse', atMost: 500 } as Objective])

test('rows are of even lengths, each with the most users and the worst second of what is drawn', () => {
  // A minute: of 24 rows at most, 5 s each are the shortest.
  const seconds = Array.from({ length: 60 }, (_, s) => second(s, s, s === 33 ? 900 : 100, 10, s === 3 ? 2 : 0))
  const rows = staveRows(seconds, { fromS: 0, toS: 60 }, plain)
  expect(rows.map(r => [r.fromS, r.toS])).toEqual(Array.from({ length: 12 }, (_, i) => [5 * i, 5 * i + 5]))
  expect(rows[6]).toEqual({ fromS: 30, toS: 35, users: 35, worst: { ms: 900, second: 33 }, perSecond: 10, failed: 0 })
  expect(rows[0]!.failed).toBe(2)
  // What is judged is drawn: twice as long here.
  expect(staveRows(seconds, { fromS: 30, toS: 40 }, look).find(r => r.fromS === 33)!.worst!.ms).toBe(1800)
  expect(sayStave(rows, 'p95 of all requests', undefined)).toBe(
    '+00:00 to +01:00: up to 60 users; p95 of all requests at worst 900 ms in the second +00:34; up to 10 requests a second; 2 failed.',
  )
})

test('where nothing came there is no row, and nothing measured is said to be nothing', () => {
  const seconds = [second(0, 3, null), undefined, undefined, second(3, 4, null)]
  const rows = staveRows(seconds, { fromS: 0, toS: 4 }, look)
  expect(rows.map(r => [r.fromS, r.worst])).toEqual([[0, undefined], [3, undefined]])
  expect(sayStave(rows, 'p95 of Look', 500)).toContain('p95 of Look was not measured')
  expect(sayStave([], 'p95 of Look', 500)).toBe('Nothing was measured.')
})

test('whatever is shown, there are 24 rows at most, and every failure is in one of them', () => {
  fc.assert(
    fc.property(fc.nat(5000), fc.integer({ min: 1, max: 40_000 }), (fromS, lengthS) => {
      const seconds: (SecondFigures | undefined)[] = []
      for (let s = fromS; s < fromS + lengthS; s += 7) seconds[s] = second(s, 1, 5, 1, 1)
      const rows = staveRows(seconds, { fromS, toS: fromS + lengthS }, plain)
      expect(rows.length).toBeLessThanOrEqual(24)
      expect(rows.reduce((sum, r) => sum + r.failed, 0)).toBe(Math.ceil(lengthS / 7))
    }),
    { numRuns: 60 },
  )
})

/** Marks the cursor comes to rest on: nearest first, all of one second together, and from one to the next. */
import { markBeside, marksNear, marksOf } from '../../app/components/stave/stave-marks'
import type { RunChange } from '../../core/run/life'
import { runDocument } from '../build/plans'

const change = (at: number, reason: string) => ({ at, reason, from: 'loading', to: 'loading', event: 'mark' }) as unknown as RunChange
const run = {
  line: { startAt: 10_000 },
  changes: [change(9000, 'armed'), change(12_400, 'somebody looked'), change(20_000, `a${'b'.repeat(200)}`)],
  document: runDocument(),
} as unknown as Parameters<typeof marksOf>[0]
const marks = marksOf(run, [], [{ fromS: 2.4, toS: 9.5 }])

it('are in whole seconds and in order; what happened before the load is none, long words are cut', () => {
  expect(marks.map(m => m.at)).toEqual([2, 2, 10, 10])
  expect(marks.map(m => m.says.length)).toEqual(['somebody looked'.length, 'held from here'.length, 90, 'held until here'.length])
})

it('changes of the target’s replicas are marks', () => {
  const replicas = [{ atS: 5.6, from: 4, to: 6, series: 'replicas', split: 'web' }]
  expect(marksOf(run, [], [], replicas).find(m => m.at === 6)?.says).toBe('4 → 6 replicas of web')
})

it('the nearest counts, with all of its second; none that is too far', () => {
  expect(marksNear(marks, 4, 3).map(m => m.at)).toEqual([2, 2])
  expect(marksNear(marks, 9, 3).map(m => m.at)).toEqual([10, 10])
  expect(marksNear(marks, 6, 3)).toEqual([])
})

it('one goes from mark to mark, and no further than the last', () => {
  expect([markBeside(marks, 0, 1), markBeside(marks, 2, 1), markBeside(marks, 10, 1)]).toEqual([2, 10, undefined])
  expect([markBeside(marks, 99, -1), markBeside(marks, 10, -1), markBeside(marks, 2, -1)]).toEqual([10, 2, undefined])
})

/** A plan made larger or smaller as a whole. */
import fc from 'fast-check'
import { scaledGroup, scaledTo } from '../../core/plan/scale'
import { peakOfPlan } from '../../core/plan/peak'
import { resolveShares } from '../../core/plan/shares'
import type { Group, Plan } from '../../core/plan/document'
import { plan as samplePlan } from '../build/plans'

const stairs = (letter: string, levels: number[]): Group => ({
  letter,
  name: letter,
  journeyId: 'j',
  profile: { startDelayMs: 0, segments: levels.flatMap(to => [{ to, overMs: 1000 }, { to, overMs: 5000 }]) },
})
const of = (groups: Group[]): Plan => ({ ...samplePlan(), groups })

test('a plan is scaled to a number of users, met to the user, whatever its groups are', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 1, max: 900 }), { minLength: 1, maxLength: 6 }),
      fc.integer({ min: 1, max: 50_000 }),
      (peaks, users) => {
        const plan = of(peaks.map((peak, i) => stairs(String.fromCharCode(65 + i), [Math.ceil(peak / 2), peak])))
        expect(peakOfPlan(scaledTo(plan, plan, users))).toBe(users)
      },
    ),
  )
})

test('the peak before a fall is met too, and a plan without anybody stays as it is', () => {
  const falling = of([{ ...stairs('A', [30]), profile: { startDelayMs: 0, segments: [{ to: 30, overMs: 1000 }, { to: 30, overMs: 1000 }, { to: 3, overMs: 0 }, { to: 3, overMs: 9000 }] } }])
  expect(peakOfPlan(scaledTo(falling, falling, 1001))).toBe(1001)
  const ramp = of([{ ...stairs('A', []), profile: { startDelayMs: 0, segments: [{ to: 60, overMs: 10_000 }] } }])
  expect(peakOfPlan(scaledTo(ramp, ramp, 7))).toBe(7)
  const nobody = of([stairs('A', [0])])
  expect(scaledTo(nobody, nobody, 500)).toEqual(nobody)
})

test('shapes, shares and durations stay; rates keep their decimals, and the bounds of a held rate go with it', () => {
  const plan = of([
    stairs('A', [10, 40]),
    { ...stairs('B', [0.5, 3.1]), drive: { kind: 'arrivals', spacing: 'even', mostInFlight: 50 } },
    { ...stairs('C', [12]), drive: { kind: 'requests', fewestUsers: 2, mostUsers: 21 } },
  ])
  const twice = { ...plan, groups: plan.groups.map(g => scaledGroup(g, 2.5)) }
  expect(twice.groups[0]!.profile.segments.map(s => s.to)).toEqual([25, 25, 100, 100])
  expect(twice.groups[1]!.profile.segments.map(s => s.to)).toEqual([1.25, 1.25, 7.75, 7.75])
  expect(twice.groups[2]).toMatchObject({ drive: { fewestUsers: 5, mostUsers: 53 } })
  const durations = (of: Plan) => of.groups.map(g => g.profile.segments.map(s => s.overMs))
  expect(durations(twice)).toEqual(durations(plan))
  expect(twice.placement).toEqual(plan.placement)
  expect(resolveShares(twice, 'A')).toEqual(resolveShares(plan, 'A'))
})

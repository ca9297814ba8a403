/** What a location must carry: no moment of a run asks for more than those that are looked at. */
import fc from 'fast-check'
import { Demand, peakOfMoments, type UsersAtMoment } from '../../core/fleet/demand'
import type { LoadProfile } from '../../core/load/profile'
import { staysOf } from '../../core/load/stays'
import { dealLocations } from '../../core/placement/deal-users'
import { resolveShares } from '../../core/plan/shares'
import { hill, plan } from '../build/plans'

const profiles = fc
  .array(fc.record({ to: fc.integer({ min: 0, max: 40 }), overMs: fc.constantFrom(0, 1000, 7000, 20_000) }), {
    minLength: 1,
    maxLength: 5,
  })
  .map((segments): LoadProfile => ({ startDelayMs: 0, segments: [...segments, { to: 0, overMs: 3000 }] }))
const shares = fc.constantFrom([6000, 4000], [5000, 5000], [10_000, 0], [1500, 8500])
const plans = fc.array(fc.record({ profile: profiles, bp: shares }), { minLength: 1, maxLength: 3 }).map(groups =>
  plan({
    groups: groups.map(({ profile }, g) => ({ letter: 'ABC'[g]!, name: 'ABC'[g]!, journeyId: 'look', profile })),
    placement: Object.fromEntries(groups.map(({ bp }, g) => ['ABC'[g]!, { REY: bp[0]!, TAV: bp[1]! }])),
  }),
)
const weighed = (users: readonly number[], weights: readonly number[]) =>
  users.reduce((sum, n, g) => sum + n * weights[g]!, 0)
const most = (moments: readonly UsersAtMoment[], weights: readonly number[]) =>
  Math.max(0, ...moments.map(m => weighed(m.users, weights)))

describe('the moments of a location', () => {
  it('hold what is asked at any other, whatever a user of each group weighs; a user of each may be on its way in or out', () => {
    fc.assert(
      fc.property(
        plans,
        fc.array(fc.double({ min: 0, max: 3, noNaN: true }), { minLength: 3, maxLength: 3 }),
        (p, weights) => {
          const demand = new Demand(p)
          const stays = p.groups.map(g => staysOf(g.profile))
          const dealt = dealLocations(
            p.groups.map((g, i) => ({ users: stays[i]!.length, shares: resolveShares(p, g.letter).bp })),
            2,
          )
          return [0, 1].every(location =>
            Array.from({ length: 120 }, (_, i) => i * 700 + 350).every((at) => {
              const there = stays.map(
                (users, g) =>
                  users.filter(
                    (s, u) => dealt[g]![u] === location && s.some(stay => stay.startMs <= at && at < stay.stopMs),
                  ).length,
              )
              return weighed(there, weights) <= most(demand.at(location), weights) + weighed([1, 1, 1], weights) + 1e-9
            }),
          )
        },
      ),
      { numRuns: 60 },
    )
  })

  it('are the peak of one hill, and of two the moment where both are high, not the sum of their peaks', () => {
    expect(new Demand(plan()).at(0)).toEqual([{ atMs: 3000, users: [12] }])
    const apart = plan({
      groups: [
        { letter: 'A', name: 'A', journeyId: 'look', profile: hill(30, 10, 10, 10) },
        { letter: 'B', name: 'B', journeyId: 'look', profile: { ...hill(20, 10, 10, 10), startDelayMs: 25_000 } },
      ],
      placement: { A: { REY: 10_000 }, B: { REY: 10_000 } },
    })
    // At 25 s, when the second begins, the first is at 15 on its way down: less than at its top. By hand.
    expect(new Demand(apart).at(0).map(m => m.users)).toEqual([
      [30, 0],
      [0, 20],
    ])
    expect(peakOfMoments(new Demand(apart).at(0))).toBe(30)
    expect(new Demand(apart).at(1)).toEqual([])
  })

  it('cut in two layers are all of it again, and never more in the lower one than it may have', () => {
    fc.assert(
      fc.property(plans, fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 3, maxLength: 3 }), (p, above) => {
        const demand = new Demand(p)
        return [0, 1].every((location) => {
          const cut = demand.cut(location, above)
          // Before a fall and after it are one millisecond; a layer with nobody is left out.
          const at = (moments: UsersAtMoment[], ms: number) => [
            ...moments.filter(m => m.atMs === ms).map(m => m.users),
            p.groups.map(() => 0),
          ]
          return (
            demand
              .at(location)
              .every(({ atMs, users }) =>
                at(cut.through, atMs).some(t =>
                  at(cut.peak, atMs).some(k => users.every((n, g) => t[g]! + k[g]! === n)),
                ),
              ) && cut.through.every(m => m.users.every((n, g) => n <= above[g]!))
          )
        })
      }),
      { numRuns: 100 },
    )
  })

  it('looked at roughly are within a user of a group', () => {
    fc.assert(
      fc.property(plans, fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 3, maxLength: 3 }), (p, above) => {
        const demand = new Demand(p)
        return [0, 1].every((location) => {
          const [exact, rough] = [demand.cut(location, above), demand.roughly(location, above)]
          return (
            Math.abs(peakOfMoments(exact.through) - peakOfMoments(rough.through)) <= p.groups.length &&
            Math.abs(peakOfMoments(exact.peak) - peakOfMoments(rough.peak)) <= p.groups.length
          )
        })
      }),
      { numRuns: 100 },
    )
  })
})

/**
 * What generators bear, piece by piece: together all of the plan and nothing twice; what is taken over is what was
 * dealt.
 */
import fc from 'fast-check'
import { assignedLoadsOf, evenly, partsOf, sliceOfParts, type Piece } from '../../core/run/assigned-load'
import type { RunDocument } from '../../core/run/document'
import { momentsOf, sliceFor } from '../../core/run/slice'
import { hill, journey, plan, runDocument, step } from '../build/plans'

const COMMAND = { ...journey({ id: 'tool' }), kind: 'command', steps: [] } as unknown as RunDocument['journeys'][number]
/** A pass takes 2 s of pauses and 0.1 s for its answer. */
const SLOW = journey({ id: 'slow', round: [step({ think: { kind: 'uniform', fromMs: 2000, toMs: 2000 } })] })
const arriving = (perS: number) => ({
  letter: 'B',
  name: 'Comers',
  journeyId: 'slow',
  profile: hill(perS, 0, 20, 0),
  drive: { kind: 'arrivals' as const, spacing: 'even' as const, mostInFlight: 1000 },
})
const document = (groups: RunDocument['plan']['groups']): RunDocument =>
  runDocument({
    journeys: [journey(), SLOW, COMMAND],
    plan: plan({
      groups,
      placement: Object.fromEntries(groups.map(g => [g.letter, { REY: 6000, TAV: 'rest' as const }])),
    }),
  })
const LOOKERS = { letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(50, 3, 6, 1) }
const GENERATORS = [[10, 20, 5], [10]]

describe('what generators bear', () => {
  it('is every user once, by its place in the slice of its post', () => {
    const doc = document([LOOKERS])
    const numbers = assignedLoadsOf(doc, GENERATORS).flatMap((there, location) =>
      there.flatMap((assigned, generator) => {
        expect(sliceOfParts(doc, GENERATORS, partsOf(assigned.pieces)).users).toEqual(
          sliceFor(doc, GENERATORS, { location, generator }).users,
        )
        return sliceOfParts(doc, GENERATORS, partsOf(assigned.pieces)).users.map(u => u.number)
      }),
    )
    expect(numbers.sort((a, b) => a - b)).toEqual(Array.from({ length: 50 }, (_, i) => i + 1))
  })

  it('is for passes as many pieces as users are there at once (N = λW: Little, Operations Research 9(3), 1961), which start every pass once', () => {
    const doc = document([arriving(30)])
    const assignedLoads = assignedLoadsOf(doc, GENERATORS).flat()
    const pieces = assignedLoads.flatMap(b => b.pieces)
    // 30 passes a second of 2.1 s are 63 users; each post rounds its part up.
    expect(pieces.length).toBeGreaterThanOrEqual(63)
    expect(pieces.length).toBeLessThanOrEqual(63 + 3)
    const taken = pieces.flatMap(p => sliceOfParts(doc, GENERATORS, partsOf([p])).arrivals)
    expect(taken.flatMap(a => [...a.numbers]).sort((a, b) => a - b)).toEqual(
      Array.from({ length: momentsOf(doc.plan.groups[0]!, 1).length }, (_, i) => i + 1),
    )
    // One piece is one part in `of`, spread over the whole time.
    const [first] = pieces as (Piece & { of: number })[]
    const [its] = sliceOfParts(doc, GENERATORS, partsOf([first!])).arrivals
    expect((its!.atMs.length * first!.of) / sliceFor(doc, GENERATORS, first!).arrivals[0]!.atMs.length).toBeCloseTo(
      1,
      0,
    )
    expect([its!.atMs[0]! < 2500, its!.atMs.at(-1)! > 17_500]).toEqual([true, true])
  })

  it('counts users of commands, and of held rates, without making pieces of them', () => {
    const doc = document([
      { ...LOOKERS, letter: 'T', journeyId: 'tool', profile: hill(20, 3, 6, 1) },
      LOOKERS,
      {
        letter: 'R',
        name: 'Rated',
        journeyId: 'slow',
        profile: hill(10, 3, 6, 1),
        drive: { kind: 'requests', fewestUsers: 1, mostUsers: 100 },
      },
    ])
    const assignedLoads = assignedLoadsOf(doc, GENERATORS).flat()
    expect(assignedLoads.reduce((sum, b) => sum + b.fixed, 0)).toBe(20)
    // 10 requests a second of one in 2.1 s need 21 users.
    expect(assignedLoads.reduce((sum, b) => sum + b.rated.reduce((s, r) => s + r.users, 0), 0)).toBeCloseTo(21)
    const users = assignedLoads.flatMap(b => sliceOfParts(doc, GENERATORS, partsOf(b.pieces)).users)
    expect([users.length, users.every(u => u.group === 1)]).toEqual([50, true])
  })

  it('can be taken over again from the one that took it over: nothing is lost on the way, or doubled', () => {
    const doc = document([LOOKERS, arriving(12)])
    const all = assignedLoadsOf(doc, GENERATORS)[0]!
    const [a, b] = [all[0]!.pieces, all[1]!.pieces]
    const carried = [...b, ...a.filter((_, i) => i % 2 === 0)]
    const slice = sliceOfParts(doc, GENERATORS, partsOf(carried))
    const rest = sliceOfParts(doc, GENERATORS, partsOf(a.filter((_, i) => i % 2 === 1)))
    const numbers = (s: typeof slice) => [
      ...s.users.map(u => `A${u.number}`),
      ...s.arrivals.flatMap(x => [...x.numbers].map(n => `B${n}`)),
    ]
    const whole = [0, 1].flatMap(generator => numbers(sliceFor(doc, GENERATORS, { location: 0, generator })))
    expect([...numbers(slice), ...numbers(rest)].sort()).toEqual(whole.sort())
  })
})

describe('pieces in an order', () => {
  it('of which any first part has as much of each group as of all, within one', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 0, max: 40 }), { minLength: 1, maxLength: 4 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (counts, part) => {
          const pieces = counts.flatMap((n, group) =>
            Array.from({ length: n }, (_, user): Piece => ({ location: 0, generator: 0, group, user })),
          )
          const ordered = evenly(pieces)
          const first = ordered.slice(0, Math.round(part * pieces.length))
          return (
            ordered.length === pieces.length &&
            counts.every(
              (n, group) =>
                Math.abs(
                  first.filter(p => p.group === group).length - (n * first.length) / Math.max(1, pieces.length),
                ) <= counts.length,
            )
          )
        },
      ),
    )
  })
})

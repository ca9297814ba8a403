/** Held request rates: users asked for once a second, from figures that are whole; what cannot be reached is said. */
import { usersAsked } from '../../core/load/held-rate'
import { Steering } from '../../control/run/steering'
import type { SecondFigures } from '../../core/merge/second-figures'
import type { Group } from '../../core/plan/document'
import { hill, plan, runDocument } from '../build/plans'

/** 100 requests/s, held by 5 to 60 users. */
const HELD: Group = {
  letter: 'B',
  name: 'Advisers',
  journeyId: 'look',
  profile: {
    startDelayMs: 0,
    segments: [
      { to: 100, overMs: 0 },
      { to: 100, overMs: 600_000 },
    ],
  },
  drive: { kind: 'requests', fewestUsers: 5, mostUsers: 60 },
}
const document = runDocument({
  plan: plan({ groups: [{ letter: 'A', name: 'Lookers', journeyId: 'look', profile: hill(20, 3, 6, 1) }, HELD] }),
})
const figures = (second: number, sent: number, users: number) =>
  ({ second, startedByGroup: [7, sent], usersByGroup: [20, users] }) as unknown as SecondFigures

/** Users of a made-up target send `perUser` requests/s each; figures come two seconds late. */
function held(perUser: number, seconds: number): { steering: Steering, users: number[] } {
  const steering = new Steering(document)
  const users: number[] = []
  for (let s = 0; s < seconds; s++) {
    if (s >= 2) steering.note([figures(s - 2, (users[s - 2] ?? 0) * perUser, users[s - 2] ?? 0)])
    const [order] = steering.step(s)
    users.push(
      order
        ? usersAsked(Math.min(100, order.mostRate), order.betweenS, { fewestUsers: 5, mostUsers: 60 })
        : users.at(-1)!,
    )
  }
  return { steering, users }
}

describe('steering', () => {
  it('is for groups that hold a rate only, by their number in the plan', () => {
    expect(new Steering(runDocument()).active).toBe(false)
    expect(new Steering({ ...document, calibration: {} as never }).active).toBe(false)
    expect(new Steering(document).step(0)).toMatchObject([{ group: 1 }])
  })

  it('asks once a second, and nothing before the start or twice in one', () => {
    const steering = new Steering(document)
    expect(steering.step(-1)).toEqual([])
    expect(steering.step(0)).toHaveLength(1)
    expect(steering.step(0)).toEqual([])
    expect(steering.step(1)).toHaveLength(1)
  })

  it('begins with what answers took when they were rehearsed', () => {
    const [assumed] = new Steering(document).step(0)
    const [rehearsed] = new Steering(document, [
      { journeyId: 'look', step: 'Look', ok: true, status: 200, durationMs: 20 },
      { journeyId: 'look', step: 'Ask', ok: true, status: 200, durationMs: 40 },
    ]).step(0)
    // Pauses of 150 ms; 100 ms are assumed, 30 were seen.
    expect([assumed!.betweenS, rehearsed!.betweenS]).toEqual([expect.closeTo(0.25), expect.closeTo(0.18)])
  })

  it('says nothing in a run that was taken up, before it has measured for itself: generators know better', () => {
    const steering = new Steering(document)
    const told = Array.from({ length: 9 }, (_, i) => {
      const second = 40 + i
      steering.note([figures(second - 2, 80, 40)])
      return steering.step(second).length
    })
    expect(told.slice(0, 4)).toEqual([0, 0, 0, 0])
    expect(told.at(-1)).toBe(1)
    // Half a second as measured; what was expected still weighs a little.
    const { betweenS } = steering.step(60)[0]!
    expect(betweenS).toBeGreaterThan(0.45)
    expect(betweenS).toBeLessThan(0.6)
  })

  it('comes to as many users as the rate needs, and stays there', () => {
    // 2.5 requests/s each: 40 users.
    const { users, steering } = held(2.5, 90)
    for (const n of users.slice(60)) expect(Math.abs(n - 40)).toBeLessThanOrEqual(1)
    expect(steering.notReached()).toEqual([])
  })

  it('stops at the most allowed, and says that the rate cannot be reached', () => {
    // 1 request/s each: 100 users would be needed, 60 are allowed.
    const { users, steering } = held(1, 60)
    expect(Math.max(...users)).toBe(60)
    expect(steering.notReached()).toEqual([
      { group: 1, sentence: 'Advisers: 100.0 requests/s cannot be reached: 60 users, the most allowed, sent 60.' },
    ])
  })
})

/** Users of a lost generator are shared out among those that are left. */
import fc from 'fast-check'
import { shareOut } from '../../core/placement/share-out'

describe('users of a lost generator', () => {
  it('go where most room is, never past what is carried; the rest has no place', () => {
    const to = shareOut(10, [
      { carries: 10, held: 6 },
      { carries: 20, held: 15 },
    ])
    const counts = [0, 1].map(i => to.filter(t => t === i).length)
    expect(counts).toEqual([4, 5])
    expect(to.filter(t => t < 0).length).toBe(1)
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 200 }),
        fc.array(fc.record({ carries: fc.integer({ min: 0, max: 80 }), held: fc.integer({ min: 0, max: 80 }) }), {
          maxLength: 6,
        }),
        (users, rooms) => {
          const given = shareOut(users, rooms)
          const room = rooms.reduce((sum, r) => sum + Math.max(0, r.carries - r.held), 0)
          return (
            rooms.every((r, i) => given.filter(t => t === i).length <= Math.max(0, r.carries - r.held)) &&
            given.filter(t => t >= 0).length === Math.min(users, room)
          )
        },
      ),
    )
  })
})

/** What a generator is told to take over, all of it each time, is begun once. */
import { Reassigned } from '../../generator/reassigned'

describe('load that is taken over', () => {
  it('is begun once, however often and in whatever company it is told', () => {
    const reassigned = new Reassigned()
    const first = { location: 0, generator: 1, users: [0, 2, 5], passes: [{ group: 1, of: 7, slots: [0, 3] }] }
    expect(reassigned.fresh([first])).toEqual([first])
    expect(reassigned.fresh([first])).toEqual([])
    // The same places of another post, or of another group, are others.
    const more = [
      {
        ...first,
        users: [0, 2, 5, 6],
        passes: [
          { group: 1, of: 7, slots: [0, 3] },
          { group: 2, of: 7, slots: [3] },
        ],
      },
      { ...first, generator: 2, passes: [] },
    ]
    expect(reassigned.fresh(more)).toEqual([
      { location: 0, generator: 1, users: [6], passes: [{ group: 2, of: 7, slots: [3] }] },
      { location: 0, generator: 2, users: [0, 2, 5], passes: [] },
    ])
    expect(reassigned.fresh(more)).toEqual([])
  })
})

/** Whole stretches of a folded run: around what was asked for, and made of what is kept. */
import fc from 'fast-check'
import { stretchesEndS, wholeStretches } from '../../core/run/folded'

/** Where stretches begin and end, by the rule itself: the longest first, as long as they fit. */
function edgesOf(endS: number): Set<number> {
  const edges = new Set([0])
  let at = 0
  for (const length of [1000, 100, 10, 1]) for (; at + length <= endS; at += length) edges.add(at + length)
  return edges
}

const windows = fc
  .tuple(fc.integer({ min: 1, max: 30_000 }), fc.nat(30_000), fc.nat(30_000))
  .map(([endS, a, b]) => ({ endS, fromS: Math.min(a, b), toS: Math.max(a, b) + 1 }))

describe('whole stretches', () => {
  it('are of 1,000 s, and of 100, 10 and 1 s at the end of a run', () => {
    expect([1000, 100, 10].map(length => stretchesEndS(length as 10, 2345))).toEqual([2000, 2300, 2340])
    expect(wholeStretches({ fromS: 1500, toS: 1501 }, 2345)).toEqual({ fromS: 1000, toS: 2000 })
    expect(wholeStretches({ fromS: 1999, toS: 2001 }, 2345)).toEqual({ fromS: 1000, toS: 2100 })
    expect(wholeStretches({ fromS: 2343, toS: 9999 }, 2345)).toEqual({ fromS: 2343, toS: 2345 })
    expect(wholeStretches({ fromS: 0, toS: 2345 }, 2345)).toEqual({ fromS: 0, toS: 2345 })
  })

  it('are the shortest that hold the window, whatever it is', () => {
    fc.assert(
      fc.property(windows, ({ endS, fromS, toS }) => {
        const edges = [...edgesOf(endS)].sort((a, b) => a - b)
        const whole = wholeStretches({ fromS, toS }, endS)
        const to = Math.min(toS, endS)
        expect(whole.toS).toBe(edges.find(e => e >= to))
        if (fromS < endS) expect(whole.fromS).toBe(edges.findLast(e => e <= fromS))
      }),
    )
  })
})

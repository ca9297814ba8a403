/** Seconds that stand for stretches stand at every second of them. */
import { filledSeconds } from '../../app/stores/filled-seconds'
import type { SecondFigures } from '../../core/merge/second-figures'

const told = (second: number, more: Partial<SecondFigures> = {}) =>
  ({ second, started: second, generators: [], ...more }) as unknown as SecondFigures

describe('seconds of a long run', () => {
  it('stand at their own place where they are told one by one', () => {
    const seconds = [told(3, { generators: [[0, 0.5, 1]] }), told(4)]
    const filled = filledSeconds(seconds).map(s => [s.second, s.started, s.generators])
    expect(filled).toEqual([[3, 3, [[0, 0.5, 1]]], [4, 4, []]])
  })

  it('stand for their stretch, counted from the first of the run, and so does the worst of each minute', () => {
    const filled = filledSeconds([
      told(42, { stretchS: 20, generatorsOfMinute: [[0, 0.9, 0]] }),
      told(79, { stretchS: 20, generatorsOfMinute: [[0, 0.2, 3]] }),
      told(119, { stretchS: 20 }),
      told(139, { stretchS: 20 }),
    ])
    expect(filled).toHaveLength(80)
    // Nothing was told of seconds 80 to 99.
    const from = (second: number) => Array.from({ length: 20 }, (_, i) => second + i)
    expect(filled.map(s => s.second)).toEqual([40, 60, 100, 120].flatMap(from))
    expect(filled.filter(s => s.started === 42).map(s => s.second)).toEqual(from(40))
    const at = (second: number) => filled.find(s => s.second === second)!.generators
    expect([at(40), at(60), at(119), at(120)]).toEqual([[[0, 0.9, 0]], [[0, 0.2, 3]], [[0, 0.2, 3]], []])
  })
})

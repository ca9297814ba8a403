/** Lines of the stave: kept up by what has changed they are what they would be reckoned whole, and cost little. */
import fc from 'fast-check'
import { judgedFigure } from '../../app/components/stave/stave-judged'
import { KeptPoints, staveLines } from '../../app/components/stave/stave-lines'
import type { SecondFigures, StepSecond } from '../../core/merge/second-figures'
import type { RunDocument } from '../../core/run/document'

const CODES = ['REY', 'TAV', 'OSA']
const figures = (p95: number | null): StepSecond => [10, 0, p95, p95, p95] as unknown as StepSecond
function second(at: number, final: boolean, n: number, unknown = false): SecondFigures {
  return {
    second: at,
    final,
    usersByLocation: [n, 1, 1],
    usersByGroup: [n + 2],
    ...(unknown ? { unknownByLocation: [2, 0, 0] } : {}),
    started: n,
    failed: n % 3,
    all: figures(n % 5 === 0 ? null : n),
    steps: { 'browse/Look': figures(n * 2) },
    locations: Object.fromEntries(CODES.map(code => [code, figures(n + code.charCodeAt(0))])),
  } as unknown as SecondFigures
}
const runOf = (lengthS: number, codes = CODES) => ({
  document: { plan: { locations: codes.map(code => ({ code })) } } as RunDocument,
  byPlan: { groups: [0], planned: Array.from({ length: lengthS }, () => 20) },
})
const plain = judgedFigure([])
const valuesOf = (points: Float64Array) => Array.from({ length: points.length / 2 }, (_, i) => points[2 * i + 1]!)

describe('lines kept from tick to tick', () => {
  it('are those that are reckoned whole, whatever comes, is corrected, or becomes final', () => {
    const ticks = fc.array(
      fc.array(
        fc.record({ at: fc.nat(39), final: fc.boolean(), n: fc.nat(30), unknown: fc.boolean() }),
        { minLength: 1, maxLength: 6 },
      ),
      { minLength: 1, maxLength: 12 },
    )
    fc.assert(
      fc.property(ticks, fc.nat(20), fc.integer({ min: 21, max: 60 }), (news, fromS, toS) => {
        const lines = staveLines(runOf(40), plain, 1, true)
        const kept = new KeptPoints(lines, { fromS, toS })
        let seconds: (SecondFigures | undefined)[] = []
        for (const tick of news) {
          seconds = seconds.slice()
          for (const { at, final, n, unknown } of tick) seconds[at] = second(at, final, n, unknown)
          kept.take(seconds)
        }
        const whole = new KeptPoints(lines, { fromS, toS })
        whole.take(seconds)
        expect(kept.all().map(l => [l.line.id, valuesOf(l.points)])).toEqual(
          whole.all().map(l => [l.line.id, valuesOf(l.points)]),
        )
      }),
    )
  })

  it('leave a hole where a second is missing, and join what is final to what is not', () => {
    const lines = staveLines(runOf(6), plain, 0, true)
    const seconds = [second(0, true, 20), undefined, second(2, true, 20), second(3, false, 21), second(4, false, 22)]
    const kept = new KeptPoints(lines, { fromS: 0, toS: 6 })
    kept.take(seconds)
    const byId = new Map(kept.all().map(l => [l.line.id, valuesOf(l.points)]))
    expect(byId.get('sent')).toEqual([20, NaN, 20, 21, NaN])
    expect(byId.get('sent so far')).toEqual([NaN, NaN, 20, 21, 22])
    // 22 users of 20 planned are off by more than a user and 2 %.
    expect(byId.get('far off')).toEqual([2, NaN, 2, NaN, NaN])
    expect(byId.get('far off so far')).toEqual([NaN, NaN, NaN, 3, 4])
    expect(byId.get('off')).toEqual([NaN, NaN, NaN, NaN, NaN])
  })

  it('are nothing new when nothing is', () => {
    const kept = new KeptPoints(staveLines(runOf(3), plain, 0, true), { fromS: 0, toS: 3 })
    const seconds = [second(0, true, 1)]
    // Every line is there from the beginning, be it without a point.
    expect(kept.all().every(l => l.points.length === 0)).toBe(true)
    expect([kept.take([]), kept.take(seconds), kept.take(seconds.slice())]).toEqual([false, true, false])
    expect(kept.all().map(l => l.points.length)).toEqual(kept.all().map(() => 2))
  })

  it('cost a tick a fifth of the whole at most, and no more than 2 ms with sixty locations over an hour', () => {
    const codes = Array.from({ length: 60 }, (_, i) => `L${String(i).padStart(2, '0')}`)
    const lines = staveLines(runOf(3600, codes), plain, 0, true)
    const span = { fromS: 0, toS: 3600 }
    let seconds = Array.from({ length: 3000 }, (_, i) => second(i, true, 20))
    const began = performance.now()
    new KeptPoints(lines, span).take(seconds)
    const wholeMs = performance.now() - began
    const kept = new KeptPoints(lines, span)
    kept.take(seconds)
    const ticks: number[] = []
    for (let i = 3000; i < 3100; i++) {
      seconds = seconds.slice()
      for (const at of [i - 2, i - 1, i]) seconds[at] = second(at, at === i - 2, 20)
      const at = performance.now()
      kept.take(seconds)
      ticks.push(performance.now() - at)
    }
    const median = ticks.sort((a, b) => a - b)[50]!
    expect(median).toBeLessThan(wholeMs / 5)
    expect(median).toBeLessThan(2)
  })
})

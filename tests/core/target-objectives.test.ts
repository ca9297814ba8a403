/** Objectives about the target's own figures: what they are held against in a window, and what the answer says. */
import { NO_FIGURES } from '../../core/merge/figures'
import { judge, valueOf } from '../../core/objectives/judge'
import { TargetValues, type TargetLineValues } from '../../core/objectives/target-values'
import type { Objective, TargetMeasure } from '../../core/plan/document'

/** A line of the series `CPU` that is read each second. */
const line = (at: (s: number) => number | null, over: Partial<TargetLineValues> = {}): TargetLineValues => {
  const atS = Array.from({ length: 70 }, (_, i) => i - 10 + 0.5)
  return { series: 'CPU', split: '', everyS: 1, atS, values: atS.map(s => at(Math.floor(s))), ...over }
}
const objective = (over: Partial<Objective> = {}, target: Partial<TargetMeasure> = {}): Objective =>
  ({ metric: 'target', target: { series: 'CPU', unit: '%', ...target }, atMost: 80, ...over })
const window = { fromS: 10, toS: 20 }

describe('a window', () => {
  const rising = new TargetValues([line(s => s)])
  it('has the mean of what was read in it, its highest and its lowest', () => {
    expect(rising.of(objective(), window)).toBe(14.5)
    expect(rising.of(objective({}, { extreme: 'highest' }), window)).toBe(19)
    expect(rising.of(objective({}, { extreme: 'lowest' }), window)).toBe(10)
    // From its first second on, up to its last: what lies outside is nothing to it.
    expect(rising.of(objective(), { fromS: 12, toS: 13 })).toBe(12)
  })

  it('of several lines has the worst, as the limit says, or the one that is named', () => {
    const nodes = new TargetValues([line(() => 40, { split: 'a' }), line(() => 90, { split: 'b' })])
    expect(nodes.of(objective(), window)).toBe(90)
    const { atMost: _, ...floor } = objective()
    expect(nodes.of({ ...floor, atLeast: 10 }, window)).toBe(40)
    expect(nodes.of(objective({}, { split: 'a' }), window)).toBe(40)
    expect(nodes.of(objective({}, { split: 'c' }), window)).toBeUndefined()
  })

  it('was not read where nothing came, or a stretch is missing that is too long to say anything', () => {
    const gap = (from: number, to: number) => new TargetValues([line(s => (s >= from && s < to ? null : 50))])
    expect(gap(12, 15).of(objective(), window)).toBe(50)
    expect(gap(12, 18).of(objective(), window)).toBeUndefined()
    expect(gap(10, 16).of(objective(), window)).toBeUndefined()
    expect(gap(14, 99).of(objective(), window)).toBeUndefined()
    expect(gap(0, 99).of(objective(), window)).toBeUndefined()
    expect(rising.of(objective({}, { series: 'memory' }), window)).toBeUndefined()
    // One that is read each 30 s may be silent for longer than such a window.
    const slow = new TargetValues([line(s => s, { everyS: 30, atS: [-5, 25], values: [10, 50] })])
    expect(slow.of(objective(), { fromS: 20, toS: 40 })).toBe(50)
  })
})

describe('an answer', () => {
  const level = { ...window, users: 100 }
  const answer = (of: Objective, target: number | undefined, users: number | undefined = undefined) =>
    judge({
      objectives: [of],
      levels: [level],
      settled: true,
      evidenceFor: () => ({
        figures: NO_FIGURES,
        load: { asked: true, shortfalls: [], users },
        ...(target === undefined ? {} : { target }),
      }),
    })
  it('says what the target told, in its unit', () => {
    expect(answer(objective(), 72.44)).toMatchObject({ verdict: 'held', sentence: 'Yes: target CPU 72.4 % at 100 users.' })
    expect(answer(objective(), 91)).toMatchObject({ verdict: 'broken', sentence: 'No: target CPU 91 % at 100 users.' })
    // Not read is not held.
    expect(answer(objective(), undefined).sentence).toBe('No: target CPU was not measured at 100 users.')
  })

  it('holds it against the users who were there', () => {
    const { atMost: _, ...of } = objective({}, { series: 'connections', ofUsers: true })
    const floor = { ...of, atLeast: 0.95 }
    const load = { asked: true, shortfalls: [], users: 50 }
    expect(valueOf(floor, { figures: NO_FIGURES, load, target: 49 }, level)).toBe(0.98)
    expect(answer(floor, 97)).toMatchObject({ verdict: 'held', sentence: 'Yes: target connections 97 % of users at 100 users.' })
    expect(answer(floor, 97, 104).sentence).toBe('No: target connections 93.3 % of users at 100 users.')
  })
})

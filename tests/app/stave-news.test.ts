/** What is drawn over the stave's chart: nothing is drawn twice, nothing is left out. */
import fc from 'fast-check'
import type { DrawnLine } from '../../app/components/stave/stave-lines'
import { areAs, beginAs, drawAfter, linesUpTo, rangesAfter, type Ground } from '../../app/components/stave/stave-news'

const line = (points: number[], look: Partial<DrawnLine['line']> = {}): DrawnLine => ({
  line: { id: 'l', grid: 'users', kind: 'line', ink: 'ink', width: 1, z: 1, of: 'all', ...look },
  points: new Float64Array(points),
})
/** Points a second apart. */
const each = (values: number[], look?: Partial<DrawnLine['line']>) => line(values.flatMap((v, i) => [i + 1, v]), look)
const ground: Ground = { xAt: s => 10 * s, yAt: (_, v) => 100 - v, pxEach: 10, colours: {} as Ground['colours'] }

/** A canvas that writes down what it is told. */
function paper() {
  const strokes: string[] = []
  const told: [x: number, y: number][] = []
  const context = {
    save: () => {},
    restore: () => {},
    beginPath: () => told.splice(0),
    setLineDash: () => {},
    moveTo: (x: number, y: number) => told.push([x, y]),
    lineTo: (x: number, y: number) => told.push([x, y]),
    stroke: () => strokes.push(`stroke ${told.join(' ')}`),
    fill: () => strokes.push(`fill ${told.join(' ')}`),
    fillRect: (...box: number[]) => strokes.push(`rect ${box.join()}`),
  } as unknown as CanvasRenderingContext2D
  return { context, strokes }
}

describe('what has come since the chart was drawn', () => {
  it('and what was drawn are all there is, and join where one ends', () => {
    const values = fc.array(fc.oneof(fc.integer({ min: 0, max: 90 }), fc.constant(Number.NaN)), { maxLength: 30 })
    fc.assert(fc.property(values, fc.nat(32), (ys, second) => {
      const all = each(ys)
      const [before] = linesUpTo([all], second)
      expect(before!.points).toEqual(all.points.slice(0, 2 * Math.min(ys.length, second)))
      expect(beginAs([before!], [all])).toBe(true)
      const { context, strokes } = paper()
      drawAfter(context, [all], [before!], ground)
      const drawn = strokes.join(' ').match(/[\d.]+,[\d.]+/g) ?? []
      const due = ys.flatMap((y, i) => (i + 1 >= Math.min(second, ys.length) && !Number.isNaN(y) ? [`${10 * (i + 1)},${100 - y}`] : []))
      expect(drawn).toEqual(due)
    }))
  })

  it('joins what is told late to where its own line ends, whatever second others were drawn up to', () => {
    const [early, late] = [each([1, 2, 3, 4]), each([5, 6, 7, 8])]
    const drawn = linesUpTo([early, each([5, 6])], 4)
    const { context, strokes } = paper()
    drawAfter(context, [early, late], drawn, ground)
    expect(strokes.at(-1)).toBe('stroke 20,94 30,93 40,92')
    expect(rangesAfter([early, late], drawn)).toEqual(new Map([['users', [7, 8]]]))
  })

  it('makes the chart old where something in it has changed, a hole that was filled too', () => {
    const drawn = linesUpTo([each([1, Number.NaN, 3])], 3)
    expect(beginAs(drawn, [each([1, Number.NaN, 3, 9])])).toBe(true)
    expect(beginAs(drawn, [each([1, 2, 3, 9])])).toBe(false)
    expect(beginAs(drawn, [each([1, Number.NaN, 4])])).toBe(false)
    expect(beginAs(drawn, [each([1])])).toBe(false)
    // Of a run that is over the chart has everything: what comes later still has to get there.
    expect(areAs(drawn, [each([1, Number.NaN, 3])])).toBe(true)
    expect(areAs(drawn, [each([1, Number.NaN, 3, 9])])).toBe(false)
  })

  it('says how far axes must reach, bands on what they stand on', () => {
    const lines = [
      each([5, 50, 7, -3]),
      each([10, 10, 10, 10], { grid: 'p95', kind: 'base' }),
      each([1, 2, Number.NaN, 4], { grid: 'p95', kind: 'band' }),
    ]
    expect(Object.fromEntries(rangesAfter(lines, linesUpTo(lines, 2)))).toEqual({ users: [-3, 7], p95: [10, 14] })
    expect(rangesAfter(lines, linesUpTo(lines, 4)).size).toBe(0)
  })

  it('draws bars on nought, bands between two lines, and nothing where there is no height', () => {
    const { context, strokes } = paper()
    const log = { ...ground, yAt: (_: string, v: number) => (v > 0 ? 100 - v : Number.NaN) }
    const bars = [line([0.5, 20, 1.5, 30], { kind: 'bar' })]
    drawAfter(context, bars, linesUpTo(bars, 1), ground)
    const band = [each([10, 10, 10], { kind: 'base' }), each([5, 5, 5], { kind: 'band', z: 2 })]
    drawAfter(context, band, linesUpTo(band, 2), ground)
    drawAfter(context, [each([5, 0, 6])], [each([])], log)
    expect(strokes).toEqual([
      'rect 10.5,70,9,30',
      'fill 20,85 30,85 30,90 20,90',
      'stroke 10,95 30,94',
    ])
  })
})

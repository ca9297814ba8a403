/**
 * What has come since the stave's chart was drawn. A chart of the library is worked out whole at each change, a hundred
 * times what the points of a second take; so it is drawn now and then, and what is new is drawn over it.
 */
import type { GridKey } from './stave-geometry'
import {
  BAND_OPACITY,
  BAR_SHARE,
  PROVISIONAL_OPACITY,
  UNKNOWN_DASHES,
  UNKNOWN_OPACITY,
  type DrawnLine,
  type Ink,
  type Ranges,
} from './stave-lines'

/** How many points are up to that second, in it. */
function countUpTo(points: Float64Array, second: number): number {
  let [from, to] = [0, points.length / 2]
  while (from < to) {
    const middle = (from + to) >> 1
    if (points[2 * middle]! <= second) from = middle + 1
    else to = middle
  }
  return from
}

/** Lines up to that second, of their own: what is kept up elsewhere does not change them. */
export function linesUpTo(lines: readonly DrawnLine[], second: number): DrawnLine[] {
  return lines.map(({ line, points }) => ({ line, points: points.slice(0, 2 * countUpTo(points, second)) }))
}

/** Whether lines begin as they were drawn. */
export function beginAs(drawn: readonly DrawnLine[], lines: readonly DrawnLine[]): boolean {
  const isSame = (a: number, b: number | undefined) => a === b || (Number.isNaN(a) && Number.isNaN(b))
  return drawn.every(({ points }, l) => points.every((value, i) => isSame(value, lines[l]!.points[i])))
}

/** Whether lines are as they were drawn, and not longer either: where nothing is drawn over them. */
export function areAs(drawn: readonly DrawnLine[], lines: readonly DrawnLine[]): boolean {
  return drawn.every(({ points }, l) => points.length === lines[l]!.points.length) && beginAs(drawn, lines)
}

/** Heights of a line's points; a band stands on the line before it. */
function* heights(lines: readonly DrawnLine[], l: number, from: number): Generator<[second: number, value: number]> {
  const { line, points } = lines[l]!
  const base = line.kind === 'band' || line.kind === 'unknown' ? lines[l - 1]!.points : undefined
  for (let i = from; i < points.length / 2; i++)
    yield [points[2 * i]!, points[2 * i + 1]! + (base ? base[2 * i + 1]! : 0)]
}

/** How much of a line is drawn: what is told late comes after seconds that were drawn without it. */
const drawnOf = (drawn: readonly DrawnLine[], l: number) => drawn[l]!.points.length / 2

/** Between which values the points are that came after what was drawn. */
export function rangesAfter(lines: readonly DrawnLine[], drawn: readonly DrawnLine[]): Ranges {
  const ranges = new Map<GridKey, [number, number]>()
  lines.forEach(({ line }, l) => {
    for (const [, value] of heights(lines, l, drawnOf(drawn, l))) {
      if (Number.isNaN(value)) continue
      const [least, most] = ranges.get(line.grid) ?? [value, value]
      ranges.set(line.grid, [Math.min(least, value), Math.max(most, value)])
    }
  })
  return ranges
}

/** Where things are on the chart. */
export interface Ground {
  xAt(second: number): number
  /** Not finite: nowhere, as nought on a logarithmic axis. */
  yAt(grid: GridKey, value: number): number
  /** Width of a second, px. */
  pxEach: number
  colours: Record<Ink, string>
}

/** Draws the points after those that were drawn, joined to the last of them. */
export function drawAfter(
  context: CanvasRenderingContext2D,
  lines: readonly DrawnLine[],
  drawn: readonly DrawnLine[],
  ground: Ground,
): void {
  // What is emphasised lies over the others.
  const order = lines.map((_, l) => l).sort((a, b) => lines[a]!.line.z - lines[b]!.line.z)
  for (const l of order) {
    const { line } = lines[l]!
    const opacity = line.of === 'provisional' ? PROVISIONAL_OPACITY : 1
    const from = drawnOf(drawn, l)
    context.save()
    context.strokeStyle = context.fillStyle = ground.colours[line.ink]
    context.lineWidth = line.width
    context.setLineDash(line.dashes ?? [])
    context.globalAlpha = opacity
    if (line.kind === 'bar') drawBars(context, lines[l]!, from, ground)
    else if (line.kind === 'line') strokeStretches(context, stretchesOf(lines, l, from, ground))
    else if (line.kind !== 'base') drawBand(context, lines, l, from, ground)
    context.restore()
  }
}

type At = [x: number, y: number]

/** A line as it is drawn: stretches without holes. @param from the first point that is new */
function stretchesOf(lines: readonly DrawnLine[], l: number, from: number, { xAt, yAt }: Ground): At[][] {
  const stretches: At[][] = []
  let isOn = false
  for (const [second, value] of heights(lines, l, Math.max(0, from - 1))) {
    const at: At = [xAt(second), yAt(lines[l]!.line.grid, value)]
    const isThere = Number.isFinite(at[1])
    if (isThere && isOn) stretches.at(-1)?.push(at)
    else if (isThere) stretches.push([at])
    isOn = isThere
  }
  return stretches
}

function strokeStretches(context: CanvasRenderingContext2D, stretches: readonly At[][]): void {
  context.beginPath()
  context.lineJoin = 'bevel'
  for (const stretch of stretches)
    stretch.forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)))
  context.stroke()
}

/** Between a line and the one it stands on. */
function drawBand(
  context: CanvasRenderingContext2D,
  lines: readonly DrawnLine[],
  l: number,
  from: number,
  ground: Ground,
): void {
  const { kind } = lines[l]!.line
  const tops = stretchesOf(lines, l, from, ground)
  const bottoms = new Map(stretchesOf(lines, l - 1, from, ground).flat())
  context.save()
  context.globalAlpha = kind === 'band' ? BAND_OPACITY : UNKNOWN_OPACITY
  for (const stretch of tops) {
    context.beginPath()
    for (const [x, y] of stretch) context.lineTo(x, y)
    for (const [x] of [...stretch].reverse()) context.lineTo(x, bottoms.get(x) ?? 0)
    context.fill()
  }
  context.restore()
  if (kind !== 'unknown') return
  context.setLineDash(UNKNOWN_DASHES)
  strokeStretches(context, tops)
}

function drawBars(
  context: CanvasRenderingContext2D,
  { line, points }: DrawnLine,
  from: number,
  { xAt, yAt, pxEach }: Ground,
): void {
  const width = Math.max(1, BAR_SHARE * pxEach)
  const nought = yAt(line.grid, 0)
  for (let i = from; i < points.length / 2; i++) {
    const y = yAt(line.grid, points[2 * i + 1]!)
    const x = xAt(points[2 * i]!) - width / 2
    if (Number.isFinite(y)) context.fillRect(x, Math.min(y, nought), width, Math.abs(nought - y))
  }
}

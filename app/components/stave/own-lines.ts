/** Staffs of one's own as lines: of each what one reads, one inked, the others quiet; many as a band. */
import { isTimedMeasure, type Staff } from '~~/core/result/staff'
import type { CoursesView } from '~~/api/views'
import { bytes, count, rate, share, timeText } from '~~/core/values/said-figures'
import type { StaffEntry } from './stave-staffs'
import type { DrawnLine } from './stave-lines'

type Bins = Omit<CoursesView, 'courses'>
type Line = CoursesView['courses'][number]['lines'][number]

/** More lines than these are drawn as the band between their smallest and their largest. */
export const MOST_LINES = 8

/** As axes have it: seconds, per cent, or plain numbers. */
export function inAxisUnit({ statistics, measure }: Pick<Staff, 'statistics' | 'measure'>, value: number): number {
  if (isTimedMeasure(measure)) return value / 1000
  return statistics[0] === 'share' ? value * 100 : value
}

/** Lines that say anything, as far as there are others: of kinds of failure most never happen. */
export function toldLines(own: Staff, lines: readonly Line[]): Line[] {
  if (own.statistics.length > 1) return [...lines]
  const told = lines.filter(l => l.values.some(v => v !== null && v !== 0))
  return told.length > 0 ? told : lines.slice(0, 1)
}

/**
 * @param emphasis place of the inked one among those that say anything
 * @param isLog nothing stands on anything else on such an axis
 */
export function ownLines(
  { key, own }: StaffEntry & { own: Staff },
  lines: readonly Line[],
  bins: Bins,
  emphasis: number,
  isLog: boolean,
): DrawnLine[] {
  const told = toldLines(own, lines)
  const ink = own.measure === 'failed' || own.measure === 'failedIn' ? ('brick' as const) : ('ink' as const)
  const look = { grid: key, of: 'all' } as const
  const line = (l: Line, i: number): DrawnLine => ({
    line: {
      ...look,
      id: `${key}: ${l.value}`,
      kind: 'line',
      ...(i === emphasis ? { ink, width: 1.6, z: 4 } : { ink: 'quiet', width: 1, z: 2 }),
    },
    points: pointsOf(l.values, bins, v => inAxisUnit(own, v)),
  })
  if (told.length <= MOST_LINES || isLog) return told.map(line)
  const [least, most] = [Math.min, Math.max].map(of =>
    told[0]!.values.map((_, bin) => {
      const there = told.flatMap(l => l.values[bin] ?? [])
      return there.length > 0 ? of(...there) : null
    }),
  // Of two sides it makes two.
  ) as [(number | null)[], (number | null)[]]
  const band = { ...look, ink: 'quiet', width: 0, z: 1 } as const
  const over = most.map((n, bin) => (n === null ? null : n - least[bin]!))
  const toAxis = (v: number) => inAxisUnit(own, v)
  return [
    { line: { ...band, id: `${key}: smallest`, kind: 'base' }, points: pointsOf(least, bins, toAxis) },
    { line: { ...band, id: `${key}: to the largest`, kind: 'band' }, points: pointsOf(over, bins, toAxis) },
    line(told[emphasis] ?? told[0]!, emphasis),
  ]
}

/** A bin of one second is told at its end, as seconds are; a longer one in its middle. */
function pointsOf(
  values: readonly (number | null)[],
  { fromS, toS, binS }: Bins,
  toAxis: (v: number) => number,
): Float64Array {
  const points = new Float64Array(2 * values.length)
  values.forEach((v, bin) => {
    const from = fromS + bin * binS
    points[2 * bin] = binS === 1 ? from + 1 : (from + Math.min(toS, from + binS)) / 2
    points[2 * bin + 1] = v === null ? Number.NaN : toAxis(v)
  })
  return points
}

/** The bin that holds the second that ends at a run time. @param at whole seconds from 1 */
export function binAt({ fromS, binS }: Bins, at: number): number {
  return Math.floor((at - 1 - fromS) / binS)
}

/** A value as people read it: “1.8 s”, “0.4 %”, “12.4 kB”. */
export function ownValueText(
  { statistics, measure }: Pick<Staff, 'statistics' | 'measure'>,
  value: number | null | undefined,
): string {
  if (value === null || value === undefined) return '–'
  if (isTimedMeasure(measure)) return timeText(value)
  if (statistics[0] === 'share') return share(value)
  if (measure === 'users') return count(value)
  return measure === 'received' || measure === 'bodiesSent' ? bytes(Math.round(value)) : rate(value)
}

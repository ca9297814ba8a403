/** Staffs of what the target says of itself: their lines, which of them is inked, and what their headings say. */
import type { RunView, TargetView } from '~~/api/views'
import { timeText, figureText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { MOST_LINES } from './own-lines'
import type { DrawnLine } from './stave-lines'
import type { StaffEntry } from './stave-staffs'

type Series = TargetView['series'][number]
type Line = Series['lines'][number]
export type TargetEntry = StaffEntry & { target: string[] }

/** A value older than this many beats of its source does not stand for a later second. */
const STANDS_BEATS = 2.5

export interface TargetStaffsOf {
  run: RunView
  entries: readonly StaffEntry[]
  isLive: boolean
  /** The second that is read, from 1. */
  at: number | undefined
  /** What is chosen, once the run is over. */
  window: { fromS: number, toS: number } | undefined
}
type Getters<T> = { [K in keyof T]: () => T[K] }

/** One line of a staff. */
interface Shown {
  name: string
  series: Series
  line: Line
}

export function useTargetStaffs(of: Getters<TargetStaffsOf>) {
  const targets = computed(() => of.entries().filter((e): e is TargetEntry => e.target !== undefined))
  const { view, problem } = useTargetAccount(
    () => of.run().line.id,
    () => [...new Set(targets.value.flatMap(t => t.target))].sort(),
    of.isLive,
  )
  const sourceIn = ({ target: [first] }: TargetEntry) => {
    const series = view.value?.series.find(s => s.name === first)
    return view.value?.sources.find(s => s.name === series?.source)
  }
  const shownIn = ({ target }: TargetEntry) => shownLines(target, view.value?.series ?? [])

  /** Which of a staff's lines is inked, by its key. */
  const inked = reactive<Record<string, number>>({})
  const inkedIn = (entry: TargetEntry, shown: readonly Shown[]) =>
    Math.min(inked[entry.key] ?? 0, Math.max(0, shown.length - 1))

  const drawn = computed((): DrawnLine[] =>
    targets.value.flatMap((entry) => {
      const shown = shownIn(entry)
      const at = inkedIn(entry, shown)
      const limit = shown[at]?.series.limit
      return [
        ...shown.map(({ name, line }, i): DrawnLine => ({
          line: {
            id: `${entry.key}: ${name}`,
            grid: entry.key,
            kind: 'line',
            of: 'all',
            ...(i === at ? { ink: 'ink', width: 1.6, z: 4 } : { ink: 'quiet', width: 1, z: 2 }),
          },
          points: pointsOf(line),
        })),
        ...(limit === undefined ? [] : [limitLine(entry.key, limit, of.run().lengthS)]),
      ]
    }))

  function toldOf({ name, series, line }: Shown, isInked: boolean) {
    const value = valueOf(line, series.everyS, of.at(), of.window())
    return {
      name,
      isInked,
      value: figureText(value, series.unit),
      isOver: series.limit !== undefined && value !== undefined && value > series.limit,
    }
  }

  return {
    drawn,
    problem,
    /** Changes of replicas, at run times. */
    steps: computed(() => view.value?.steps ?? []),
    /** Its lines are those of one series, of which one is told at a time. */
    isSplit: (entry: TargetEntry) => entry.target.length === 1 && shownIn(entry).length > 1,
    moveInked(entry: TargetEntry, by: number): void {
      const shown = shownIn(entry)
      const n = Math.max(1, shown.length)
      inked[entry.key] = (inkedIn(entry, shown) + by + n) % n
    },
    /** What a heading tells: of one series the inked line, of several each. */
    told(entry: TargetEntry) {
      const shown = shownIn(entry)
      const at = inkedIn(entry, shown)
      return shown.flatMap((s, i) => (entry.target.length > 1 || i === at ? [toldOf(s, i === at)] : []))
    },
    /** “3 s old”, “most in window”. */
    ofWhich(entry: TargetEntry): string {
      const [first] = shownIn(entry)
      const source = sourceIn(entry)
      // A source that could never be read has no lines: why is what one wants to know.
      if (!first)
        return problem.value?.sentence ?? source?.trouble ?? (view.value ? 'nothing of it was read' : 'being asked')
      const at = of.at()
      if (at !== undefined) return `at ${runTime(at)}`
      if (!of.isLive()) return of.window() ? 'most in window' : ''
      if (source?.trouble !== undefined) return source.trouble
      const age = source?.ageMs
      return age === undefined ? 'not read yet' : `${source?.isStale ? 'stale: ' : ''}${timeText(age)} old`
    },
    isStale: (entry: TargetEntry) => {
      const source = sourceIn(entry)
      return of.isLive() && (source?.isStale === true || source?.trouble !== undefined)
    },
  }
}

/** Of one series all its lines, of several the largest of each. */
function shownLines(names: readonly string[], all: readonly Series[]): Shown[] {
  return names.flatMap((name) => {
    const series = all.find(s => s.name === name)
    if (!series) return []
    if (names.length === 1) return drawnLines(series.lines).map(line => ({ name: line.split, series, line }))
    return largestOf(series.lines, 1).map(line => ({ name, series, line }))
  })
}

const mostOf = (line: Line) => Math.max(...line.values.map(v => v ?? -Infinity))
const largestOf = (lines: readonly Line[], n: number) =>
  [...lines].sort((a, b) => mostOf(b) - mostOf(a)).slice(0, n)

/** As many as can be told apart. */
function drawnLines(lines: readonly Line[]): Line[] {
  if (lines.length <= MOST_LINES) return [...lines]
  const largest = largestOf(lines, MOST_LINES)
  return lines.filter(l => largest.includes(l))
}

function pointsOf({ atS, values }: Line): Float64Array {
  const points = new Float64Array(2 * atS.length)
  atS.forEach((at, i) => {
    points[2 * i] = at
    points[2 * i + 1] = values[i] ?? Number.NaN
  })
  return points
}

function limitLine(key: string, limit: number, lengthS: number): DrawnLine {
  const line = { id: `${key}: limit`, grid: key, kind: 'line', ink: 'brick', width: 1.2, z: 5, of: 'all' } as const
  return { line, points: new Float64Array([0, limit, lengthS, limit]) }
}

/** At the second that is read, the most of a window, or the newest. */
function valueOf(
  { atS, values }: Line,
  everyS: number,
  at: number | undefined,
  window: { fromS: number, toS: number } | undefined,
): number | undefined {
  if (at === undefined && window) {
    const inside = values.filter((v, i): v is number => v !== null && atS[i]! >= window.fromS && atS[i]! <= window.toS)
    return inside.length > 0 ? Math.max(...inside) : undefined
  }
  const i = at === undefined ? atS.length - 1 : atS.findLastIndex(s => s <= at)
  if (i < 0 || (at !== undefined && at - atS[i]! > STANDS_BEATS * everyS)) return undefined
  return values[i] ?? undefined
}

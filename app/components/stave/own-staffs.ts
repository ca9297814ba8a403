/** Staffs of one's own on a stave: what they draw, which of their lines is inked, and what their headings say. */
import { FAILURE_WORDS, type FailureKind } from '~~/core/journey/failure-kinds'
import { DIMENSIONS, type Dimension } from '~~/core/result/slices'
import type { NamedValues, Staff } from '~~/core/result/staff'
import type { RunView, SecondFigures, WindowView } from '~~/api/views'
import { runTime } from '~/format/moments'
import { useOwnCourses, useOwnWindow } from './own-courses'
import { binAt, ownLines, toldLines } from './own-lines'
import type { StaffEntry } from './stave-staffs'

export type OwnEntry = StaffEntry & { own: Staff }

export interface OwnStaffsOf {
  run: RunView
  seconds: readonly (SecondFigures | undefined)[]
  entries: readonly StaffEntry[]
  named: NamedValues
  /** Run seconds that are shown, or zoomed to. */
  span: { fromS: number, toS: number }
  isZoomed: boolean
  /** The run is on, and at which run second. */
  isLive: boolean
  nowS: number | undefined
  /** The newest second that is known. */
  latestS: number | undefined
  merged: WindowView | undefined
  /** The second that is read, from 1. */
  at: number | undefined
  isLog: boolean
}

/** While it loads seconds are told up to so long after the plan's end, s. */
const PAST_THE_END_S = 6

/** Each is a getter of its own, so that what moves often draws nothing anew that it is not in. */
type Getters<T> = { [K in keyof T]: () => T[K] }

export function useOwnStaffs(of: Getters<OwnStaffsOf>) {
  const owns = computed(() => of.entries().filter((e): e is OwnEntry => e.own !== undefined))
  const staffs = computed(() => owns.value.map(e => e.own))
  /** While it loads what is shown moves on; what is asked does not. */
  const asked = () => {
    const run = of.run()
    const isWhole = of.isLive() && !of.isZoomed()
    const span = isWhole ? { fromS: 0, toS: run.lengthS + PAST_THE_END_S } : of.span()
    return { run: run.line.id, span, staffs: staffs.value }
  }
  const { courseOf, problem } = useOwnCourses(
    asked,
    of.nowS,
    () => (of.seconds().findLast(s => s?.final)?.second ?? -1) + 1,
  )
  const { valueOf } = useOwnWindow(() => {
    const merged = of.merged()
    return {
      run: of.run().line.id,
      window: merged && { fromS: merged.fromS, toS: merged.toS },
      staffs: staffs.value,
    }
  })

  /** Which of a staff's lines is inked, by its key. */
  const inked = reactive<Record<string, number>>({})
  const told = (own: Staff) => toldLines(own, courseOf(own)?.lines ?? [])
  const inkedIn = ({ key, own }: OwnEntry) => Math.min(inked[key] ?? 0, Math.max(0, told(own).length - 1))
  /** Nothing of it happened. */
  const isSilent = (own: Staff) => told(own).every(l => l.values.every(v => !v))
  const nameIn = (d: Dimension, value: string) => of.named()[d].find(c => c.value === value)?.label ?? value

  function lineName({ statistics, split }: Staff, value: string): string {
    if (statistics.length > 1) return value === 'p999' ? 'p99.9' : value
    // Split by kind, values are kinds.
    if (split === 'kind') return FAILURE_WORDS[value as FailureKind]
    return split ? nameIn(split, value) : ''
  }

  const drawn = computed(() =>
    owns.value.flatMap((entry) => {
      const course = courseOf(entry.own)
      return course ? ownLines(entry, course.lines, course.bins, inkedIn(entry), of.isLog()) : []
    }))

  return {
    drawn,
    problem,
    told,
    /** Inks the line before or after. */
    moveInked(entry: OwnEntry, by: number): void {
      const n = Math.max(1, told(entry.own).length)
      inked[entry.key] = (inkedIn(entry) + by + n) % n
    },
    /** What a line says: at the second that is read, over the window, or of late. */
    valueIn(own: Staff, line: string): number | null | undefined {
      const at = of.at()
      if (at === undefined && of.merged()) return valueOf(own, line)
      const course = courseOf(own)
      const values = course?.lines.find(l => l.value === line)?.values
      if (!course || !values) return undefined
      const latestS = of.latestS()
      const then = at ?? (of.isLive() && latestS !== undefined ? latestS + 1 : undefined)
      return then === undefined ? undefined : (values[binAt(course.bins, then)] ?? null)
    },
    /** What a heading tells: of a staff that is split the inked line, of several statistics each. */
    toldIn(entry: OwnEntry): { value: string, name: string, isInked: boolean }[] {
      const { own } = entry
      const isSeveral = own.statistics.length > 1
      const at = inkedIn(entry)
      return (isSeveral ? told(own) : told(own).slice(at, at + 1)).map(({ value }, i) => ({
        value,
        name: own.split === 'kind' && isSilent(own) ? 'none' : lineName(own, value),
        isInked: !isSeveral || i === at,
      }))
    },
    /** “Enrol, by location, each 10 s”. */
    ofWhich({ own }: OwnEntry): string {
      const at = of.at()
      const names = DIMENSIONS.flatMap(d => (own.only?.[d] ?? []).map(v => nameIn(d, v)))
      const binS = courseOf(own)?.bins.binS ?? 1
      const each = binS > 1 ? `each ${binS} s` : 'each second'
      const when = at === undefined ? (of.merged() ? 'window' : each) : `at ${runTime(at)}`
      return [...names, ...(own.split ? [`by ${own.split}`] : []), when].join(', ')
    },
  }
}

/** Whether a value is over a limit that is none of those one wants to be over. */
export function isOver({ limit, statistics, measure }: Staff, value: number | null | undefined): boolean {
  const isFloor = measure === 'right' || measure === 'sent' || statistics[0] === 'present'
  return limit !== undefined && value !== null && value !== undefined && !isFloor && value > limit
}

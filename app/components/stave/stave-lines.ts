/**
 * What moves on the stave while a run goes on: a value per second and line. Points are kept from tick to tick, and only
 * those of seconds that have changed are reckoned anew.
 */
import type { SecondFigures } from '~~/core/merge/second-figures'
import type { RunView } from '~~/api/views'
import { PLACE, type JudgedFigure } from './stave-judged'
import type { GridKey } from './stave-geometry'

type Seconds = readonly (SecondFigures | undefined)[]

/** How a line looks; what it means in colour is the chart's. */
export type Ink = 'ink' | 'quiet' | 'brick' | 'plan'

/** Of seconds that may still change. */
export const PROVISIONAL_OPACITY = 0.4
/** Of the band from the smallest of many lines to the largest. */
export const BAND_OPACITY = 0.22
/** Of a band of what nobody knows, and how its edge is dashed, px. */
export const UNKNOWN_OPACITY = 0.16
export const UNKNOWN_DASHES = [2, 3]
/** Of a second, what its bar is wide. */
export const BAR_SHARE = 0.9

/** How a line is drawn. */
export interface LineLook {
  id: string
  grid: GridKey
  /** `base` and what stands on it: a band between two heights, full or of what nobody knows. */
  kind: 'line' | 'bar' | 'base' | 'band' | 'unknown'
  ink: Ink
  width: number
  /** Dashes and gaps, px; left out: none. */
  dashes?: number[]
  /** What lies over what. */
  z: number
  /** Seconds that will not change any more, those that may, or both. */
  of: 'final' | 'provisional' | 'all'
}

export interface StaveLine extends LineLook {
  /** @returns nothing where there is nothing to draw: a hole stays a hole */
  value: (second: SecondFigures, at: number) => number | null | undefined
}

export const present = (s: SecondFigures) => sum(s.usersByLocation)
export const unknownIn = (s: SecondFigures) => sum(s.unknownByLocation ?? [])
const sum = (numbers: readonly number[]) => numbers.reduce((a, b) => a + b, 0)
const inSeconds = (ms: number | null | undefined) => (ms === null || ms === undefined ? null : ms / 1000)

/** Off by more than this share of the plan, and by more than a user, is worth a warning. */
const OFF_SHARE = 0.02

/** @param emphasis which location is inked @param isLive whether seconds may still change */
export function staveLines(
  run: Pick<RunView, 'document' | 'byPlan'>,
  judged: JudgedFigure,
  emphasis: number,
  isLive: boolean,
): StaveLine[] {
  const lines: StaveLine[] = []
  /** One line as two: final seconds full, provisional ones lighter. */
  const add = (line: Omit<StaveLine, 'of'>) => {
    lines.push({ ...line, of: 'final' })
    if (isLive) lines.push({ ...line, id: `${line.id} so far`, of: 'provisional' })
  }
  add({ id: 'present', grid: 'users', kind: 'line', ink: 'ink', width: 1.6, z: 3, value: present })
  // Of whom nobody knows: between those who are known to be there and those who may be.
  const unknown = { grid: 'users', ink: 'brick', width: 1, z: 1, of: 'all' } as const
  lines.push(
    { ...unknown, id: 'known', kind: 'base', value: s => (s.unknownByLocation ? present(s) : null) },
    { ...unknown, id: 'unknown', kind: 'unknown', value: s => (s.unknownByLocation ? unknownIn(s) : null) },
  )

  const { groups, planned } = run.byPlan
  // Only users who come and go by the plan can be off it.
  const offBy = (s: SecondFigures, at: number) => {
    const due = planned[at]
    return due === undefined ? null : groups.reduce((n, g) => n + (s.usersByGroup[g] ?? 0), 0) - due
  }
  const isFar = (off: number, at: number) => Math.abs(off) > Math.max(1, planned[at]! * OFF_SHARE)
  for (const [id, ink, wanted] of [['off', 'ink', false], ['far off', 'brick', true]] as const)
    add({
      id,
      grid: 'offBy',
      kind: 'bar',
      ink,
      width: 0,
      z: 2,
      value: (s, at) => {
        const off = offBy(s, at)
        return off !== null && isFar(off, at) === wanted ? off : null
      },
    })

  const answered = { grid: 'objective', kind: 'line' } as const
  if (judged.isPlain)
    for (const p of ['p50', 'p95', 'p99'] as const) {
      const isInked = p === judged.inked
      add({
        ...answered,
        id: p,
        ...(isInked ? { ink: 'ink', width: 1.6, z: 3 } : { ink: 'quiet', width: 1, z: 2 }),
        value: s => inSeconds(judged.figuresIn(s)?.[PLACE[p]]),
      })
    }
  else add({ ...answered, id: 'own', ink: 'ink', width: 1.6, z: 3, value: s => inSeconds(judged.ownMs(s)) })

  run.document.plan.locations.forEach(({ code }, i) =>
    add({
      id: `at ${code}`,
      grid: 'objectiveByLocation',
      kind: 'line',
      ...(i === emphasis ? { ink: 'ink', width: 1.6, z: 4 } : { ink: 'quiet', width: 1, z: 2 }),
      value: s => inSeconds(s.locations[code]?.[PLACE.p95]),
    }),
  )

  add({ id: 'sent', grid: 'traffic', kind: 'line', ink: 'ink', width: 1.4, z: 3, value: s => s.started })
  lines.push({
    id: 'failed',
    grid: 'traffic',
    kind: 'bar',
    ink: 'brick',
    width: 0,
    z: 2,
    of: 'all',
    value: s => (s.failed > 0 ? s.failed : null),
  })
  return lines
}

/** `points`: two numbers each, run second and value; what is not there is not a number. */
export interface DrawnLine {
  line: LineLook
  points: Float64Array
}

/** Smallest and largest value per staff. */
export type Ranges = ReadonlyMap<GridKey, readonly [least: number, most: number]>

/** The points of all lines, kept from tick to tick. */
export class KeptPoints {
  private readonly first: number
  /** Room for all seconds that are shown, per line. */
  private readonly points: Float64Array[]
  private before: Seconds = []
  /** How many of them are there. */
  private seconds = 0

  /** @param span run seconds that are shown */
  constructor(
    private readonly lines: readonly StaveLine[],
    private readonly span: { fromS: number, toS: number },
  ) {
    this.first = Math.max(0, span.fromS - 1)
    this.points = lines.map(() => new Float64Array(2 * (Math.ceil(span.toS) + 1 - this.first)))
  }

  /** Takes over what has changed. @returns whether anything has */
  take(now: Seconds): boolean {
    const { first, before } = this
    const end = Math.max(first, Math.min(now.length, Math.ceil(this.span.toS) + 1))
    const from = Math.max(first, firstChange(before, now) - 1)
    this.before = now
    if (from >= end) return false
    this.seconds = end - first
    for (const [l, line] of this.lines.entries()) {
      const points = this.points[l]!
      for (let i = from; i < end; i++) {
        points[2 * (i - first)] = line.kind === 'bar' ? i + 0.5 : i + 1
        points[2 * (i - first) + 1] = valueAt(line, now, i)
      }
    }
    return true
  }

  /** All lines as they are now. */
  all(): DrawnLine[] {
    return this.lines.map((line, l) => ({ line, points: this.points[l]!.subarray(0, 2 * this.seconds) }))
  }
}

/** Where the seconds differ first; seconds that have not changed are the same objects. */
function firstChange(before: Seconds, now: Seconds): number {
  const common = Math.min(before.length, now.length)
  for (let i = 0; i < common; i++) if (before[i] !== now[i]) return i
  return before.length === now.length ? Number.POSITIVE_INFINITY : common
}

function valueAt({ of, kind, value }: StaveLine, now: Seconds, i: number): number {
  const s = now[i]
  if (!s || !(of === 'all' || (kind === 'line' ? isDrawn(of === 'final', now, i) : s.final === (of === 'final'))))
    return Number.NaN
  return value(s, i) ?? Number.NaN
}

/** Each of the two parts of a line reaches to the other's end, so that there is no gap between them. */
function isDrawn(isFinal: boolean, now: Seconds, i: number): boolean {
  const s = now[i]!
  if (s.final === isFinal) return true
  const next = now[i + 1]
  return isFinal ? now[i - 1]?.final === true : next !== undefined && !next.final
}

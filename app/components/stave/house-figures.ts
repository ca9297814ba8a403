/**
 * What the headings of the house's staffs say: of the second that is read, else of the merged window where there is
 * one, else, while it loads, of the latest known second.
 */
import { latestKnown } from '~~/core/merge/second-figures'
import { figureOf } from '~~/core/objectives/judge'
import type { RunView, SecondFigures, WindowView } from '~~/api/views'
import { PLACE, type JudgedFigure } from './stave-judged'
import { present, unknownIn } from './stave-lines'

export interface HouseFigures {
  planned: number | undefined
  present: number | undefined
  p99: number | null | undefined
  p95: number | null | undefined
  p50: number | null | undefined
  /** Of an objective that is not drawn by percentiles. */
  own: number | null | undefined
  unknown: number
  /** p95 at the location that is inked. */
  there: number | null | undefined
  sent: number | undefined
  failed: number | undefined
}

export interface HouseReading {
  run: RunView
  seconds: readonly (SecondFigures | undefined)[]
  judged: JudgedFigure
  /** Code of the location that is inked. */
  code: string
  /** The second that is read, from 1; undefined: none is. */
  at: number | undefined
  isLive: boolean
  merged: WindowView | undefined
}

export function houseFigures({ run, seconds, judged, code, at, isLive, merged }: HouseReading): HouseFigures {
  if (merged && at === undefined) return ofWindow(run, seconds, judged, code, merged)
  const newest = seconds.findLast(s => s !== undefined)
  const s = at !== undefined ? seconds[at - 1] : isLive ? (latestKnown(seconds) ?? newest) : undefined
  const j = s && judged.figuresIn(s)
  // A second that is not whole yet is where the unknown are.
  const ofUnknown = at !== undefined ? s : newest
  return {
    planned: s && run.planned[s.second],
    present: s ? present(s) : undefined,
    p99: j?.[PLACE.p99],
    p95: j?.[PLACE.p95],
    p50: j?.[PLACE.p50],
    own: s && (judged.ownMs(s) ?? undefined),
    unknown: ofUnknown ? unknownIn(ofUnknown) : 0,
    there: s?.locations[code]?.[PLACE.p95],
    sent: s?.started,
    failed: s?.failed,
  }
}

function ofWindow(
  run: RunView,
  seconds: HouseReading['seconds'],
  { index, objective }: JudgedFigure,
  code: string,
  merged: WindowView,
): HouseFigures {
  const f = (index === undefined ? undefined : merged.objectives[index]?.figures) ?? merged.total
  const of =
    objective?.step === undefined
      ? undefined
      : merged.steps.find(
          x => x.step === objective.step && (objective.journeyId === undefined || x.journeyId === objective.journeyId),
        )
  const inside = seconds.slice(merged.fromS, merged.toS).filter(x => x !== undefined)
  return {
    planned: Math.max(0, ...run.planned.slice(merged.fromS, merged.toS)),
    present: Math.max(0, ...inside.map(present)),
    p99: f.p99Ms,
    p95: f.p95Ms,
    p50: f.p50Ms,
    own: objective && figureOf(objective, f),
    unknown: 0,
    there: (of ? of.byLocation[code] : merged.locations.find(l => l.code === code)?.figures)?.p95Ms,
    sent: merged.total.started / Math.max(1, merged.toS - merged.fromS),
    failed: merged.total.failed,
  }
}

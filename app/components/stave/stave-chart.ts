/** The stave as ECharts draws it: a frame that stands still while a run goes on, and its lines. */
import type { Objective } from '~~/core/plan/document'
import type { Colours } from '~/composables/chart-colours'
import { FONT } from '~/format/chart-look'
import { count } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { isTimedMeasure } from '~~/core/result/staff'
import { inAxisUnit } from './own-lines'
import { LEFT, RIGHT, type GridKey, type StavePlace } from './stave-geometry'
import {
  BAND_OPACITY,
  BAR_SHARE,
  PROVISIONAL_OPACITY,
  UNKNOWN_DASHES,
  UNKNOWN_OPACITY,
  type DrawnLine,
  type Ranges,
} from './stave-lines'

export interface StaveFrame {
  places: readonly StavePlace[]
  span: { fromS: number, toS: number }
  /** Users planned at the end of each run second. */
  planned: readonly number[]
  /** Times stand on a logarithmic axis. */
  isLog: boolean
  /** Stretches in which the load is held. */
  holds: readonly { fromS: number, toS: number }[]
  /** The limit of the drawn objective, and on which staffs it is drawn. */
  limit: { objective: Objective & { atMost: number }, on: readonly GridKey[] } | undefined
  /** Lines of what answers take with nobody else there, ms. */
  unloaded: ReadonlyMap<GridKey, number>
  colours: Colours
}

const DASHED = [6, 4]
/** How the plan is drawn. */
const PLANNED = { ink: 'plan', width: 2, z: 4, dashes: DASHED } as const
const DOTTED = [1.5, 4]
/** A user or two off must not look like a crowd: the axis reaches so far at least, users and share of the plan. */
const OFF_AXIS = 4
const OFF_AXIS_SHARE = 0.03

/** @param reach what axes must reach besides: values that are drawn over the chart */
export function staveOption(
  frame: StaveFrame,
  lines: readonly DrawnLine[],
  reach: Ranges,
) {
  const { places } = frame
  return {
    animation: false,
    grid: places.map(({ top, height }) => ({
      left: LEFT,
      right: RIGHT,
      top,
      height,
      show: true,
      backgroundColor: frame.colours.panel,
      borderColor: frame.colours.hair,
    })),
    xAxis: places.map((_, i) => timeAxis(frame, i)),
    yAxis: places.map((place, i) => valueAxis(frame, place, i)),
    series: [
      ...lines.filter(isOfChart).flatMap(of => lineSeries(frame, of)),
      ...reachSeries(frame, reach),
      ...still(frame),
    ],
  }
}

/** What changes while a run goes on: points of lines. */
export function staveTick(
  frame: StaveFrame,
  lines: readonly DrawnLine[],
  reach: Ranges,
) {
  const drawn = lines.filter(l => isOfChart(l) && gridOf(frame, l.line.grid) >= 0)
  return {
    series: [
      ...drawn.map(({ line, points }) => ({ id: line.id, data: points })),
      ...reachSeries(frame, reach).map(({ id, data }) => ({ id, data })),
    ],
  }
}

/** The plan lies over what is drawn over the chart too. @param untilS the newest run second */
export function plannedUntil({ planned }: StaveFrame, untilS: number): DrawnLine {
  const points = planned.slice(0, untilS).flatMap((n, s) => [s + 1, n])
  return { line: { ...PLANNED, id: 'planned so far', grid: 'users', kind: 'line', of: 'all' }, points: new Float64Array(points) }
}

/** What may still change is drawn over the chart. */
const isOfChart = ({ line }: DrawnLine) => line.of !== 'provisional'

/** Draws nothing, but is reached by its axis. */
function reachSeries(frame: StaveFrame, reach: Ranges) {
  return frame.places.map(({ key }, grid) => ({
    ...on(grid),
    type: 'line',
    id: `reach, ${key}`,
    symbol: 'none',
    lineStyle: { width: 0 },
    data: (reach.get(key) ?? []).map(value => [frame.span.fromS, value]),
  }))
}

const gridOf = ({ places }: StaveFrame, key: GridKey) => places.findIndex(p => p.key === key)
const on = (grid: number) => ({ xAxisIndex: grid, yAxisIndex: grid, silent: true })

function lineSeries(frame: StaveFrame, { line, points }: DrawnLine): object[] {
  const grid = gridOf(frame, line.grid)
  if (grid < 0) return []
  const color = frame.colours[line.ink]
  const opacity = line.of === 'provisional' ? PROVISIONAL_OPACITY : 1
  const common = { ...on(grid), id: line.id, z: line.z, data: points, dimensions: ['second', 'value'] }
  if (line.kind === 'bar')
    return [{ ...common, type: 'bar', barWidth: `${100 * BAR_SHARE}%`, barGap: '-100%', itemStyle: { color, opacity } }]
  const curve = { ...common, type: 'line', symbol: 'none', connectNulls: false }
  const stack = `stack ${line.grid}`
  if (line.kind === 'base') return [{ ...curve, stack, lineStyle: { width: 0 } }]
  if (line.kind === 'band')
    return [{ ...curve, stack, lineStyle: { width: 0 }, areaStyle: { color, opacity: BAND_OPACITY } }]
  if (line.kind === 'unknown')
    return [
      {
        ...curve,
        stack,
        lineStyle: { color, width: line.width, type: UNKNOWN_DASHES },
        areaStyle: { color, opacity: UNKNOWN_OPACITY },
      },
    ]
  return [{ ...curve, sampling: 'minmax', lineStyle: { color, width: line.width, opacity } }]
}

/** What does not move: the plan, limits, what answers take unloaded, stretches that are held. */
function still(frame: StaveFrame): object[] {
  const { places, span, planned, holds, limit, unloaded, colours } = frame
  const line = (key: GridKey, id: string, data: number[][], z: number, lineStyle: object) => {
    const grid = gridOf(frame, key)
    return grid < 0 ? [] : [{ ...on(grid), type: 'line', id, symbol: 'none', z, data, lineStyle }]
  }
  const level = (value: number) => [
    [span.fromS, value],
    [span.toS, value],
  ]
  return [
    ...line('users', 'planned', planned.map((n, s) => [s + 1, n]), PLANNED.z, {
      color: colours.plan,
      width: PLANNED.width,
      type: PLANNED.dashes,
    }),
    ...line('offBy', 'not off', level(0), 2, { color: colours.plan, width: 1.4, type: DASHED }),
    ...(limit?.on.flatMap(key =>
      line(key, `limit, ${key}`, level(limit.objective.atMost / 1000), 5, { color: colours.brick, width: 1.2 }),
    ) ?? []),
    ...places.flatMap(({ key, entry: { own } }) =>
      own?.limit === undefined
        ? []
        : line(key, `limit, ${key}`, level(inAxisUnit(own, own.limit)), 5, { color: colours.brick, width: 1.2 }),
    ),
    ...Array.from(unloaded, ([key, ms]) =>
      line(key, `unloaded, ${key}`, level(ms / 1000), 4, { color: colours.quiet, width: 1.6, type: DOTTED })).flat(),
    ...places.map((place, grid) => ({
      ...on(grid),
      type: 'line',
      id: `held, ${place.key}`,
      data: [],
      z: 0,
      markArea: {
        silent: true,
        animation: false,
        itemStyle: { color: colours.shade, opacity: 0.8 },
        data: holds.map(h => [{ xAxis: h.fromS }, { xAxis: h.toS }]),
      },
    })),
  ]
}

function timeAxis({ span, colours }: StaveFrame, i: number): object {
  return {
    type: 'value',
    gridIndex: i,
    min: span.fromS,
    max: span.toS,
    // Bars at the ends would make this axis another than those above and below.
    containShape: false,
    position: 'top',
    splitLine: { show: false },
    axisLine: { show: false },
    axisTick: { show: false },
    axisLabel: {
      show: i === 0,
      ...FONT,
      color: colours.quiet,
      formatter: (s: number) => (s === span.fromS && s > 0 ? '' : runTime(s)),
      hideOverlap: true,
    },
  }
}

/** Larger numbers of an axis are whole. */
const MOST_WITH_DECIMALS = 100
/** Larger ones are told in thousands and millions: there is room for five signs. */
const MOST_IN_FULL = 99_999
function inShort(n: number): string {
  if (n <= MOST_IN_FULL) return count(n)
  return n < 1e6 ? `${count(n / 1e3)} k` : `${Number((n / 1e6).toPrecision(3))} M`
}

/** From the decade below the smallest; there is no nought on it. */
const LOG_AXIS = {
  type: 'log',
  min: ({ min }: { min: number }) => (min > 0 && Number.isFinite(min) ? 10 ** Math.floor(Math.log10(min)) : 0.001),
}

function valueAxis({ planned, colours, isLog }: StaveFrame, { key, entry: { own } }: StavePlace, i: number): object {
  const isTime = key === 'objective' || key === 'objectiveByLocation' || (own !== undefined && isTimedMeasure(own.measure))
  const isOff = key === 'offBy'
  const reach = Math.max(OFF_AXIS, Math.max(0, ...planned) * OFF_AXIS_SHARE)
  return {
    type: 'value',
    gridIndex: i,
    min: isOff ? (v: { min: number }) => Math.min(-reach, v.min) : 0,
    ...(isOff ? { max: (v: { max: number }) => Math.max(reach, v.max) } : {}),
    splitNumber: 2,
    minInterval: key === 'users' || key === 'traffic' || own?.measure === 'users' || isOff ? 1 : 0,
    splitLine: { show: !isOff, lineStyle: { color: colours.hair } },
    axisLabel: {
      show: !isOff,
      ...FONT,
      color: colours.quiet,
      showMaxLabel: false,
      formatter: (n: number) =>
        isTime || (own && n < MOST_WITH_DECIMALS) ? String(Number(n.toPrecision(3))) : inShort(n),
    },
    ...(isTime && isLog ? LOG_AXIS : {}),
  }
}

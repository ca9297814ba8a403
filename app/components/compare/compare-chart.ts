/** One figure of several runs laid over each other, as ECharts draws it. */
import { count } from '~~/core/values/said-figures'
import type { Colours } from '~/composables/chart-colours'
import { FONT, limitLine, valueAxis } from '~/format/chart-look'
import { runTime } from '~/format/moments'
import type { LaidCourse, LaidOver } from './laid-over'

interface CompareChart {
  over: LaidOver
  limit: number | undefined
  unit: string
  colours: Colours
}

interface LineStyle {
  color: string
  width: number
  type?: 'dashed'
}

/** @param emphasised number of the run in ink; the first is the baseline, drawn double */
export function compareOption(
  courses: readonly LaidCourse[],
  emphasised: number,
  { over, limit, unit, colours: c }: CompareChart,
) {
  const weightOf = (id: number) => (id === emphasised ? 700 : 400)
  const line = ({ id, at, values }: LaidCourse, style: LineStyle, z: number, named = true) => ({
    type: 'line',
    symbol: over === 'levels' && named ? 'circle' : 'none',
    symbolSize: 7,
    itemStyle: { color: style.color },
    silent: true,
    z,
    data: values.map((v, i) => [at[i], v]),
    lineStyle: style,
    ...(named
      ? { endLabel: { ...FONT, show: true, formatter: String(id), color: c.ink, fontWeight: weightOf(id) } }
      : {}),
    labelLayout: { moveOverlap: 'shiftY' },
  })
  /** Seconds at as many users lie everywhere: no line leads from one to the next. */
  const dots = ({ id, at, values }: LaidCourse, isBaseline: boolean) => ({
    type: 'scatter',
    name: String(id),
    silent: true,
    symbol: isBaseline || id === emphasised ? 'circle' : 'triangle',
    symbolSize: isBaseline ? 7 : 5,
    z: id === emphasised ? 4 : 2,
    data: values.map((v, i) => [at[i], v]),
    itemStyle: isBaseline
      ? { color: 'transparent', borderColor: c.quiet, borderWidth: 1.4 }
      : { color: id === emphasised ? c.ink : c.quiet, opacity: 0.75 },
  })
  const furthest = Math.max(1, ...courses.flatMap(own => own.at))
  const byUsers = {
    name: over === 'levels' ? 'users held' : 'users present',
    nameLocation: 'middle',
    nameGap: 22,
    nameTextStyle: { ...FONT, color: c.quiet },
  }
  return {
    animation: false,
    grid: { left: 56, right: 36, top: 22, bottom: over === 'time' ? 26 : 38 },
    xAxis: {
      type: 'value',
      min: 0,
      max: furthest,
      splitLine: { show: false },
      axisLine: { lineStyle: { color: c.edge } },
      axisLabel: { ...FONT, color: c.quiet, formatter: over === 'time' ? runTime : (n: number) => count(n) },
      ...(over === 'time' ? {} : byUsers),
    },
    yAxis: valueAxis(unit, c),
    series: [
      ...courses.flatMap((own, i): object[] => {
        if (over === 'users') return [dots(own, i === 0)]
        if (own.id === emphasised) return [line(own, { color: c.ink, width: 2 }, 4)]
        // The baseline is a double line.
        if (i === 0)
          return [line(own, { color: c.quiet, width: 4 }, 2), line(own, { color: c.panel, width: 2 }, 3, false)]
        return [line(own, { color: c.quiet, width: 1, type: 'dashed' }, 1)]
      }),
      ...(limit === undefined ? [] : [limitLine(limit, furthest, c)]),
    ],
  }
}

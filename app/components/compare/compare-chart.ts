/** One figure of several runs laid over each other by time, as ECharts draws it. */
import type { Course } from '~~/core/result/course'
import type { Colours } from '~/composables/chart-colours'
import { FONT, valueAxis } from '~/format/chart-look'
import { runTime } from '~/format/moments'

export interface ComparedCourse {
  id: number
  atS: readonly number[]
  values: readonly (number | null)[]
}

/** @param emphasised number of the run in ink; the first is the baseline, drawn double */
export function compareOption(
  courses: readonly ComparedCourse[],
  emphasised: number,
  { limit, unit, colours: c }: { limit: number | undefined, unit: string, colours: Colours },
) {
  const weightOf = (id: number) => (id === emphasised ? 700 : 400)
  const line = ({ id, atS, values }: ComparedCourse, style: object, z: number, named = true) => ({
    type: 'line',
    symbol: 'none',
    silent: true,
    z,
    data: values.map((v, i) => [atS[i], v]),
    lineStyle: style,
    ...(named
      ? { endLabel: { ...FONT, show: true, formatter: String(id), color: c.ink, fontWeight: weightOf(id) } }
      : {}),
    labelLayout: { moveOverlap: 'shiftY' },
  })
  return {
    animation: false,
    grid: { left: 56, right: 36, top: 22, bottom: 26 },
    xAxis: {
      type: 'value',
      min: 0,
      max: Math.max(1, ...courses.flatMap(own => own.atS.slice(-1))),
      splitLine: { show: false },
      axisLine: { lineStyle: { color: c.edge } },
      axisLabel: { ...FONT, color: c.quiet, formatter: runTime },
    },
    yAxis: valueAxis(unit, c),
    series: [
      ...courses.flatMap((own, i) => {
        if (own.id === emphasised) return [line(own, { color: c.ink, width: 2 }, 4)]
        // The baseline is a double line.
        if (i === 0)
          return [line(own, { color: c.quiet, width: 4 }, 2), line(own, { color: c.panel, width: 2 }, 3, false)]
        return [line(own, { color: c.quiet, width: 1, type: 'dashed' }, 1)]
      }),
      ...(limit === undefined
        ? []
        : [{
            type: 'line',
            silent: true,
            data: [],
            markLine: {
              silent: true,
              symbol: 'none',
              lineStyle: { color: c.brick, type: 'solid', width: 1 },
              label: { show: false },
              data: [{ yAxis: limit }],
            },
          }]),
    ],
  }
}

/** Values of a course at the middle of its bins. */
export function courseLine(id: number, { lines }: Course, fromS: number, binS: number): ComparedCourse {
  const values = lines[0]?.values ?? []
  return { id, values, atS: values.map((_, i) => fromS + (i + 0.5) * binS) }
}

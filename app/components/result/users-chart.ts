/** A statistic against users, as ECharts draws it: dots of seconds, points of levels with their intervals, a limit. */
import type { UsersDot, UsersPoint } from '~~/core/result/against-users'
import type { Colours } from '~/composables/chart-colours'
import { FONT, limitLine, valueAxis } from '~/format/chart-look'
import { count } from '~~/core/values/said-figures'

export interface UsersChart {
  dots: readonly UsersDot[]
  points: readonly UsersPoint[]
  /** Drawn as a line, in the unit of the axis. */
  limit: number | undefined
  unit: string
  colours: Colours
}

export function usersOption({ dots, points, limit, unit, colours: c }: UsersChart) {
  const furthest = Math.ceil(1.03 * Math.max(1, ...dots.map(d => d.users), ...points.map(p => p.users)))
  const over = (value: number) => limit !== undefined && value > limit
  return {
    animation: false,
    grid: { left: 56, right: 24, top: 22, bottom: 38 },
    xAxis: {
      type: 'value',
      min: 0,
      max: furthest,
      name: 'users present',
      nameLocation: 'middle',
      nameGap: 24,
      nameTextStyle: { ...FONT, color: c.quiet },
      splitLine: { show: false },
      axisLine: { lineStyle: { color: c.edge } },
      axisLabel: { ...FONT, color: c.quiet, formatter: (n: number) => count(n) },
    },
    yAxis: valueAxis(unit, c),
    series: [
      {
        type: 'scatter',
        symbolSize: 4,
        silent: true,
        data: dots.map(d => [d.users, d.value]),
        itemStyle: { color: c.quiet, opacity: 0.35 },
      },
      // A bar from the lower to the upper bound of each level, with a foot and a head.
      ...points.flatMap(({ users, value, halfWidth }) =>
        halfWidth === undefined
          ? []
          : [{
              type: 'line',
              silent: true,
              symbol: 'rect',
              symbolSize: [9, 1.4],
              z: 3,
              data: [[users, Math.max(0, value - halfWidth)], [users, value + halfWidth]],
              lineStyle: { color: over(value) ? c.brick : c.ink, width: 1.4 },
              itemStyle: { color: over(value) ? c.brick : c.ink },
            }],
      ),
      {
        type: 'line',
        silent: true,
        symbol: 'circle',
        symbolSize: 9,
        z: 4,
        data: [...points].sort((a, b) => a.users - b.users).map(p => ({
          value: [p.users, p.value],
          itemStyle: { color: over(p.value) ? c.brick : c.ink },
        })),
        lineStyle: { color: c.ink, width: 1, type: 'dashed' },
      },
      ...(limit === undefined ? [] : [limitLine(limit, furthest, c)]),
    ],
  }
}

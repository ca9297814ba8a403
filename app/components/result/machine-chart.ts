/** One machine's course as ECharts draws it: users, then signals on axes of their own, with their limits. */
import { SIGNAL_LIMITS, SIGNAL_ORDER, SIGNAL_PHRASES, type Signal } from '~~/core/capacity/signals'
import type { MachineCourse } from '~~/api/views'
import type { Colours } from '~/composables/chart-colours'
import { FONT } from '~/format/chart-look'
import { signalValue } from '~/format/capacity'
import { count } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'

const PANEL_PX = 62
const HEAD_PX = 18
const FOOT_PX = 24

/** Signals that say something: those that moved, the nearest to its limit first. */
export function shownSignals({ signals }: MachineCourse, most: number): Signal[] {
  const nearness = (s: Signal) => Math.max(0, ...signals[s].map(v => v ?? 0)) / SIGNAL_LIMITS[s]
  return SIGNAL_ORDER.filter(s => nearness(s) > 0).sort((a, b) => nearness(b) - nearness(a)).slice(0, most)
}

export function machineChartPx(panels: number): number {
  return panels * PANEL_PX + FOOT_PX
}

export function machineOption(course: MachineCourse, signals: readonly Signal[], c: Colours) {
  const panels = [
    { name: 'users', values: course.users, limit: undefined, say: (n: number) => count(n) },
    ...signals.map(s => ({
      name: SIGNAL_PHRASES[s],
      values: course.signals[s],
      limit: SIGNAL_LIMITS[s],
      say: (n: number) => signalValue(s, n),
    })),
  ]
  const at = (bin: number) => course.fromS + bin * course.binS
  const last = panels.length - 1
  return {
    animation: false,
    title: panels.map(({ name }, i) => ({
      text: name,
      left: 8,
      top: i * PANEL_PX + HEAD_PX - 4,
      textStyle: { ...FONT, color: c.ink, fontWeight: 600 },
    })),
    grid: panels.map((_, i) => ({ left: 196, right: 16, top: i * PANEL_PX + HEAD_PX, height: PANEL_PX - HEAD_PX })),
    xAxis: panels.map((_, i) => ({
      gridIndex: i,
      type: 'value',
      min: course.fromS,
      max: at(course.users.length),
      splitLine: { show: false },
      axisLine: { lineStyle: { color: c.edge } },
      axisTick: { show: i === last, lineStyle: { color: c.edge } },
      axisLabel: { show: i === last, ...FONT, color: c.quiet, formatter: (s: number) => runTime(s), hideOverlap: true },
    })),
    yAxis: panels.map(({ say, limit, values }, i) => {
      const max = Math.max(limit === undefined ? 1 : limit * 1.1, ...values.map(v => v ?? 0))
      return {
        gridIndex: i,
        type: 'value',
        min: 0,
        max,
        interval: max,
        axisLabel: { ...FONT, color: c.quiet, formatter: say },
        splitLine: { lineStyle: { color: c.hair } },
      }
    }),
    series: panels.map(({ values, limit }, i) => ({
      type: 'line',
      xAxisIndex: i,
      yAxisIndex: i,
      symbol: 'none',
      silent: true,
      connectNulls: false,
      step: course.binS === 1 ? undefined : 'start',
      data: values.map((v, bin) => [at(bin), v]),
      lineStyle: { color: c.ink, width: 1.3 },
      areaStyle: { color: c.ink, opacity: 0.07 },
      ...(limit === undefined
        ? {}
        : {
            markLine: {
              silent: true,
              symbol: 'none',
              label: { show: false },
              lineStyle: { color: c.brick, width: 1.2, type: 'solid' },
              data: [{ yAxis: limit }],
            },
          }),
    })),
  }
}

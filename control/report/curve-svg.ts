/** Draws a curve as SVG: staffs one above the other over the same time. */
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent, TitleComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import type { Curve, CurveStaff } from '../../core/report/report'
import { count, timeText } from '../../core/values/said-figures'
import { runTime } from '../../core/values/said-times'
import { BRICK, HAIR, INK, PLAN, QUIET, SHADE } from './look'

use([BarChart, LineChart, GridComponent, MarkAreaComponent, MarkLineComponent, TitleComponent, SVGRenderer])

export const CURVE_WIDTH = 690
const LEFT = 150
const RIGHT = 8
const TOP = 22
const GAP = 12
const HEIGHTS = { users: 60, ms: 110, perSecond: 48, share: 48 } as const
const LINE_COLOURS = { ink: INK, planned: PLAN, bars: BRICK } as const

const TOLD: Record<CurveStaff['unit'], (n: number) => string> = {
  users: count,
  ms: ms => timeText(ms).replace(/\.0+ /, ' '),
  perSecond: n => `${Number(n.toPrecision(3))}/s`,
  share: n => `${Number((n * 100).toPrecision(3))} %`,
}

const zeroOr = (told: (n: number) => string) => (n: number) => (n === 0 ? '0' : told(n))

/** @param font family its words are set in */
export function curveSvg(curve: Curve, font: string): string {
  const tops: number[] = []
  let bottom = TOP
  for (const { unit } of curve.staffs) {
    tops.push(bottom)
    bottom += HEIGHTS[unit] + GAP
  }
  const chart = init(null, undefined, { renderer: 'svg', ssr: true, width: CURVE_WIDTH, height: bottom })
  const text = { fontFamily: font, fontSize: 10, color: QUIET }
  const times = { min: curve.fromS, max: curve.toS, interval: stepS(curve.toS - curve.fromS) }
  try {
    chart.setOption({
      animation: false,
      title: curve.staffs.map((staff, s) => ({
        text: wrapped(staff.name),
        subtext: staff.lines.length > 1 ? staff.lines.map(l => (l.look === 'planned' ? `${l.name}: dashed` : l.name)).join(', ') : '',
        left: 0,
        top: tops[s]! + 4,
        padding: 0,
        itemGap: 2,
        textStyle: { ...text, color: INK, fontWeight: 'bold', fontSize: 11, lineHeight: 13 },
        subtextStyle: text,
      })),
      grid: curve.staffs.map(({ unit }, s) => ({ left: LEFT, right: RIGHT, top: tops[s], height: HEIGHTS[unit] })),
      xAxis: curve.staffs.map((_, s) => ({
        type: 'value',
        gridIndex: s,
        position: 'top',
        ...times,
        axisLine: { show: true, lineStyle: { color: HAIR } },
        axisTick: { show: false },
        splitLine: { show: false },
        axisLabel: {
          ...text,
          show: s === 0,
          showMaxLabel: curve.toS % times.interval === 0,
          formatter: runTime,
          hideOverlap: true,
        },
      })),
      yAxis: curve.staffs.map((staff, s) => ({
        type: 'value',
        gridIndex: s,
        min: 0,
        max: topOf(staff),
        // Two numbers are enough where the course is what matters.
        ...(staff.unit === 'ms' ? { splitNumber: 3 } : { interval: topOf(staff) }),
        splitLine: { lineStyle: { color: HAIR } },
        axisTick: { show: false },
        axisLabel: { ...text, showMaxLabel: staff.unit !== 'ms', hideOverlap: true, formatter: zeroOr(TOLD[staff.unit]) },
      })),
      series: curve.staffs.flatMap((staff, s) => staffSeries(curve, staff, s, text)),
    })
    return withoutTraces(chart.renderToSVGString())
  }
  finally {
    chart.dispose()
  }
}

/** What only a chart that is pressed needs; it is most of the letters. */
function withoutTraces(svg: string): string {
  return svg.replaceAll(/ (?:ecmeta_\w+|class|pointer-events)="[^"]*"/g, '')
}

function staffSeries(curve: Curve, staff: CurveStaff, s: number, text: object) {
  const at = (bin: number) => curve.fromS + (bin + 0.5) * curve.binS
  return staff.lines.map((line, l) => ({
    type: line.look === 'bars' ? 'bar' : 'line',
    xAxisIndex: s,
    yAxisIndex: s,
    // A bar of nothing is none.
    data: line.values.map((value, bin) => [at(bin), line.look === 'bars' && value === 0 ? null : value]),
    showSymbol: false,
    connectNulls: false,
    silent: true,
    color: LINE_COLOURS[line.look],
    ...(line.look === 'bars' ? { barWidth: '100%' } : {}),
    lineStyle: { width: line.look === 'planned' ? 1 : 1.4, ...(line.look === 'planned' ? { type: 'dashed' } : {}) },
    z: line.look === 'planned' ? 4 : 3,
    ...(l > 0
      ? {}
      : {
          markArea: {
            silent: true,
            itemStyle: { color: SHADE },
            label: { show: false },
            data: [
              ...curve.judged.map(({ fromS, toS }) => [{ xAxis: fromS }, { xAxis: toS }]),
              ...(staff.broken ?? []).map(b => [
                { xAxis: b.fromS, itemStyle: { color: BRICK, opacity: 0.16 } },
                { xAxis: b.toS },
              ]),
            ],
          },
          ...(staff.limit
            ? {
                markLine: {
                  silent: true,
                  symbol: 'none',
                  lineStyle: { color: BRICK, type: 'solid', width: 1 },
                  label: { ...text, color: BRICK, formatter: staff.limit.says, position: 'insideStartTop' },
                  data: [{ yAxis: staff.limit.value }],
                },
              }
            : {}),
        }),
  }))
}

/** Letters that fit beside a staff. */
const MOST_LETTERS = 24

function wrapped(name: string): string {
  const lines: string[] = []
  for (const word of name.split(' ')) {
    const last = lines.at(-1)
    if (last !== undefined && last.length + word.length < MOST_LETTERS) lines[lines.length - 1] = `${last} ${word}`
    else lines.push(word)
  }
  return lines.slice(0, 3).join('\n')
}

/** A round number of seconds, about ten of which make the whole. */
function stepS(lengthS: number): number {
  const steps = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200]
  return steps.find(s => lengthS / s <= 10) ?? 14_400
}

/** Room for all values and for the limit; one of nothing at all. */
function topOf({ limit, lines, unit }: CurveStaff): number {
  const largest = lines.flatMap(l => l.values).reduce<number>((most, v) => Math.max(most, v ?? 0), 0)
  const top = Math.max(largest, (limit?.value ?? 0) * 1.15)
  return top > 0 ? roundUp(top) : unit === 'ms' ? 1000 : 1
}

/** Two digits at most. */
function roundUp(n: number): number {
  const unit = 10 ** (Math.floor(Math.log10(n)) - 1)
  return Math.ceil(n / unit) * unit
}

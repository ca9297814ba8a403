/** A distribution as ECharts draws it: shares per bin on a logarithmic axis, failures below it, marks above. */
import type { Distribution } from '~~/api/views'
import type { Colours } from '~/composables/chart-colours'
import { FONT } from '~/format/chart-look'
import { share, timeText } from '~~/core/values/said-figures'

export interface DrawnDistribution {
  shown: Distribution
  /** Laid over it. */
  beside: Distribution | undefined
  limitsMs: readonly number[]
  colours: Colours
}

/** No labels at the ends of the axis, which are no round numbers. */
const ROUND_ONLY = { hideOverlap: true, showMinLabel: false, showMaxLabel: false }

export function distributionOption({ shown, beside, limitsMs, colours: c }: DrawnDistribution) {
  const all = [...shown.bins, ...(beside?.bins ?? [])]
  const edges = [...all.flatMap(b => [b.fromMs, b.toMs]), ...limitsMs]
  const [min, max] = [Math.min(...edges) * 0.9, Math.max(...edges) * 1.1]
  return {
    animation: false,
    grid: { left: 46, right: 18, top: 48, bottom: 24 },
    xAxis: {
      type: 'log',
      min,
      max,
      axisLine: { lineStyle: { color: c.edge } },
      axisTick: { lineStyle: { color: c.edge } },
      minorTick: { show: true, splitNumber: 9, lineStyle: { color: c.hair } },
      splitLine: { lineStyle: { color: c.hair } },
      axisLabel: { ...FONT, color: c.quiet, formatter: (ms: number) => timeText(ms), ...ROUND_ONLY },
    },
    yAxis: {
      type: 'value',
      min: 0,
      splitNumber: 3,
      splitLine: { lineStyle: { color: c.hair } },
      axisLabel: { ...FONT, color: c.quiet, formatter: (x: number) => share(x, x < 0.1 ? 1 : 0) },
    },
    series: [
      {
        ...outline(shown, 'right'),
        lineStyle: { color: c.ink, width: 1.4 },
        areaStyle: { color: c.ink, opacity: 0.08 },
        markLine: marks(shown, limitsMs, Math.log10(max / min), c),
      },
      { ...outline(shown, 'failed'), lineStyle: { color: c.brick, width: 1.4 }, areaStyle: { color: c.brick, opacity: 0.25 } },
      ...(beside
        ? [
            { ...outline(beside, 'right'), lineStyle: { color: c.act, width: 1.8 } },
            { ...outline(beside, 'failed'), lineStyle: { color: c.brick, width: 1.4, type: [3, 3] } },
          ]
        : []),
    ],
  }
}

/** Bins as one outline: flat over each, down to nothing where none is in use. */
function outline(of: Distribution, what: 'right' | 'failed') {
  const ended = Math.max(1, of.right + of.failed)
  const points: [number, number][] = []
  let lastMs = 0
  for (const bin of of.bins.filter(b => b[what] > 0)) {
    // Neighbours share an edge but for rounding.
    if (bin.fromMs > lastMs * 1.001) {
      if (lastMs > 0) points.push([lastMs, 0])
      points.push([bin.fromMs, 0])
    }
    points.push([bin.fromMs, bin[what] / ended], [bin.toMs, bin[what] / ended])
    lastMs = bin.toMs
  }
  if (lastMs > 0) points.push([lastMs, 0])
  return { type: 'line', symbol: 'none', silent: true, data: points }
}

/** Room of a mark's name as a share of the axis, and height of a row of them, px. */
const NAME_SHARE = 0.045
const ROW_PX = 12

/** Percentiles and limits; names that would lie over each other stand in rows, the first where there is room. */
function marks(of: Distribution, limitsMs: readonly number[], widest: number, c: Colours) {
  const places = of.percentiles.map(({ share: p, ms }) => ({
    ms,
    name: `p${Number((p * 100).toFixed(1))}`,
    lineStyle: { color: c.quiet, width: 1, type: 'solid' },
    color: c.quiet,
  }))
  const limits = limitsMs.map(ms => ({
    ms,
    name: timeText(ms),
    lineStyle: { color: c.plan, width: 2, type: [6, 4] },
    color: c.plantx,
  }))
  const ends: number[] = []
  const data = [...places, ...limits].sort((a, b) => a.ms - b.ms).map(({ ms, name, lineStyle, color }) => {
    const at = Math.log10(ms) / widest
    const free = ends.findIndex(end => at - end > NAME_SHARE)
    const row = free >= 0 ? free : ends.length
    ends[row] = at
    return { xAxis: ms, lineStyle, label: { ...FONT, formatter: name, color, distance: 3 + row * ROW_PX } }
  })
  return { silent: true, symbol: 'none', data }
}

<script setup lang="ts">
/**
 * A calibration drawn: a panel per signal over one shared axis of users, with its limit, the seconds seen, the fit, and
 * where it first crosses.
 */
import { use } from 'echarts/core'
import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import { useElementSize } from '@vueuse/core'
import VChart from 'vue-echarts'
import type { CalibrationEvidence } from '~~/core/capacity/calibration'
import { BEYOND_TRIED } from '~~/core/capacity/estimate'
import { SIGNAL_PHRASES, type Signal } from '~~/core/capacity/signals'
import { FONT } from '~/format/chart-look'
import { count } from '~~/core/values/said-figures'
import { signalValue } from '~/format/capacity'
import { keysIn } from '~~/core/values/written-out'

use([LineChart, ScatterChart, GridComponent, CanvasRenderer])
const { evidence, given } = defineProps<{
  evidence: CalibrationEvidence
  /** Users one generator is given: drawn through all panels. */
  given?: number
}>()
const colours = useColours()
const frame = useTemplateRef<HTMLElement>('frame')
const { height } = useElementSize(frame)
const LEFT = 58
const RIGHT = 16
const FOOT = 34
const HEAD = 22
/** Panels shown: those that move most; the rest is said in words. */
const MOST_PANELS = 5

/** The one that binds first, then by how near they come to their limits. */
const panels = computed(() => {
  const { signals, binds } = evidence.estimate
  const near = (s: Signal) => Math.max(...signals[s]!.levels.map(l => l.mean)) / signals[s]!.limit
  return keysIn(signals)
    .sort((a, b) => Number(b === binds) - Number(a === binds) || near(b) - near(a))
    .slice(0, MOST_PANELS)
})
const largest = computed(() => Math.max(1, ...evidence.levels.map(l => l.users), evidence.step?.users ?? 0))
const most = computed(() => Math.ceil(largest.value * 1.06))
const each = computed(() => (height.value - FOOT) / Math.max(1, panels.value.length))
/** Seconds lie beside each other around their level, so that none hides another. */
const spread = (i: number, n: number) => (n < 2 ? 0 : (i / (n - 1) - 0.5) * largest.value * 0.014)

const option = computed(() => {
  const c = colours.value
  if (!c || height.value < 80 || panels.value.length === 0) return undefined
  const series: object[] = []
  const tops = panels.value.map((signal) => {
    const seen = evidence.estimate.signals[signal]!
    return Math.max(seen.limit * 1.25, ...seen.levels.map(l => l.mean * 1.15))
  })
  panels.value.forEach((signal, i) => {
    const seen = evidence.estimate.signals[signal]!
    const axis = { xAxisIndex: i, yAxisIndex: i, silent: true }
    const top = tops[i]!
    series.push(
      {
        ...axis,
        type: 'line',
        symbol: 'none',
        data: [
          [0, seen.limit],
          [most.value, seen.limit],
        ],
        lineStyle: { color: c.brick, width: 1.2 },
        z: 4,
      },
      {
        ...axis,
        type: 'scatter',
        symbolSize: 4,
        itemStyle: { color: c.ink, opacity: 0.45 },
        z: 3,
        data: evidence.levels.flatMap(l =>
          l.seconds.map((s, k) => [l.users + spread(k, l.seconds.length), Math.min(top, s.health[signal])]),
        ),
      },
      {
        ...axis,
        type: 'line',
        symbol: 'none',
        data: seen.points.map(p => [p.users, Math.min(top, p.value)]),
        lineStyle: { color: c.act, width: 2 },
        z: 5,
      },
    )
    const { crossing } = seen
    if (crossing && seen.rises && crossing.users <= Math.min(most.value, largest.value * BEYOND_TRIED))
      series.push(
        {
          ...axis,
          type: 'scatter',
          symbol: 'diamond',
          symbolSize: 9,
          itemStyle: { color: c.panel, borderColor: c.act, borderWidth: 2 },
          z: 6,
          data: [[crossing.users, seen.limit]],
        },
        {
          ...axis,
          type: 'line',
          symbol: 'none',
          data: [
            [crossing.lower, seen.limit],
            [Math.min(most.value, crossing.upper ?? most.value), seen.limit],
          ],
          lineStyle: { color: c.act, width: 4, opacity: 0.45, cap: 'round' },
          z: 5,
        },
      )
    if (given !== undefined && given > 0)
      series.push({
        ...axis,
        type: 'line',
        symbol: 'none',
        data: [
          [given, 0],
          [given, top],
        ],
        lineStyle: { color: c.plan, width: 1.6, type: [6, 4] },
        z: 2,
      })
  })
  return {
    animation: false,
    grid: panels.value.map((_, i) => ({
      left: LEFT,
      right: RIGHT,
      top: i * each.value + HEAD,
      height: each.value - HEAD - 8,
    })),
    xAxis: panels.value.map((_, i) => ({
      gridIndex: i,
      type: 'value',
      min: 0,
      max: most.value,
      splitLine: { show: false },
      axisLine: { lineStyle: { color: c.edge } },
      axisTick: { show: i === panels.value.length - 1, lineStyle: { color: c.edge } },
      axisLabel: {
        show: i === panels.value.length - 1,
        ...FONT,
        color: c.quiet,
        showMaxLabel: false,
        formatter: (n: number) => count(n),
      },
    })),
    yAxis: panels.value.map((signal, i) => ({
      gridIndex: i,
      type: 'value',
      min: 0,
      max: tops[i],
      splitNumber: 2,
      axisLabel: { ...FONT, color: c.quiet, showMaxLabel: false, formatter: (n: number) => signalValue(signal, n) },
      splitLine: { lineStyle: { color: c.hair } },
    })),
    series,
  }
})
const said = (signal: Signal) => {
  const { limit, crossing, rises, shape } = evidence.estimate.signals[signal]!
  if (crossing && rises && crossing.users <= largest.value * BEYOND_TRIED) {
    const least = count(Math.max(0, crossing.lower))
    // Calibrations of release 0.6 kept null where there is no upper end.
    const interval = crossing.upper == null ? `${least} or more` : `${least} to ${count(crossing.upper)}`
    return `meets ${signalValue(signal, limit)} at ${count(crossing.users)} users (${interval}, by a ${shape})`
  }
  return rises ? `stays below ${signalValue(signal, limit)}` : 'does not rise with the load'
}
</script>

<template>
  <div ref="frame" class="panels">
    <VChart v-if="option" :option="option" autoresize :update-options="{ notMerge: true }" aria-hidden="true" />
    <div v-for="(s, i) in panels" :key="s" class="head" :style="{ top: `${i * each + 3}px` }">
      <b>{{ SIGNAL_PHRASES[s].replace(/^./, ch => ch.toUpperCase()) }}</b> <span class="q">{{ said(s) }}</span><b
        v-if="s === evidence.estimate.binds"
        class="binds"
      >binds</b>
    </div>
    <span v-if="panels.length" class="axis q">users on one generator</span>
    <p v-else class="q none">The first level settles…</p>
  </div>
</template>

<style scoped>
.panels {
  position: relative;
  height: 100%;
  min-height: 0;
}
.head {
  position: absolute;
  left: 10px;
  right: 10px;
  font-size: 12px;
  line-height: 16px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.binds {
  margin-left: 8px;
  border: 1px solid var(--act);
  border-radius: 3px;
  padding: 0 5px;
  color: var(--act);
  font-size: 11px;
  line-height: 14px;
}
.axis {
  position: absolute;
  right: 16px;
  bottom: 2px;
  font-size: 11px;
}
.none {
  padding: 20px;
}
</style>

<script setup lang="ts">
/**
 * Planned users of all groups over time, stacked, with holds, the ceiling of the fleet, and the last run as a thin line
 * beneath. Corners of the chosen group are handles.
 */
import { use } from 'echarts/core'
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, AxisPointerComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import type { PlanCheck } from '~~/api/views'
import { BASIS_WORDS, UNSURE } from '~~/core/fleet/capacity-book'
import { ceilingOf, ceilingOverRun } from '~~/core/fleet/ceiling'
import { cornersOf, levelAt, warmUpEndMs } from '~~/core/load/profile'
import { levelsOf, SETTLE_MS } from '~~/core/objectives/windows'
import type { Plan } from '~~/core/plan/document'
import { peakOfPlan, plannedAt } from '~~/core/plan/peak'
import { runLengthMs } from '~~/core/plan/length'
import { FONT } from '~/format/chart-look'
import { count } from '~~/core/values/said-figures'
import { loadWord } from '~/format/sizing'
import { duration, runTime } from '~/format/moments'
import { present } from '~~/core/values/present'

use([LineChart, GridComponent, MarkAreaComponent, AxisPointerComponent, CanvasRenderer])
/** `plan` has every level in users. */
const { plan, check, before, chosen } = defineProps<{
  plan: Plan
  check: PlanCheck | undefined
  before: { id: number, users: number[] } | undefined
  chosen: string | undefined
}>()
const emit = defineEmits<{ cursor: [atMs: number | undefined] }>()
const colours = useColours()
const LEFT = 46
const RIGHT = 132
const TOP = 12
const FOOT = 22

const lengthMs = computed(() => Math.max(1000, runLengthMs({ plan })))
/** Every corner twice: just before, and at it, so that jumps stand upright. */
const moments = computed(() =>
  [...new Set(plan.groups.flatMap(g => cornersOf(g.profile).map(c => c.atMs)))]
    .sort((a, b) => a - b)
    .flatMap(m => (m > 0 ? [m - 0.001, m] : [m])),
)
const ceiling = computed(() => check && ceilingOf(check.sizes, peakOfPlan(plan)))
/** Lower while those are not there that come for the peak only: a step each. */
const steps = computed(() => check && ceiling.value && ceilingOverRun(check.sizes, peakOfPlan(plan)))
const binding = computed(() => check?.sizes.find(s => s.code === ceiling.value?.code))
const top = computed(() => {
  const most = Math.max(peakOfPlan(plan) * 1.12, Math.min(ceiling.value?.users ?? 0, peakOfPlan(plan) * 1.6) * 1.06, 4)
  const step = 10 ** Math.floor(Math.log10(most / 2.5))
  const nice = ([1, 2, 5, 10].find(k => most / (k * step) <= 5) ?? 10) * step
  return { most: Math.ceil(most / nice) * nice, step: nice }
})
const groups = computed(() => [...plan.groups].reverse())
const warmMs = computed(() => Math.max(0, ...plan.groups.map(g => warmUpEndMs(g.profile))))
const holds = computed(() => levelsOf(plan, 5000))

const option = computed(() => {
  const c = colours.value
  if (!c) return undefined
  const last = groups.value.length - 1
  const colour = (letter: string) => c.groups[(letter.charCodeAt(0) - 65) % 8]!
  const name = (text: string) => ({ ...FONT, color: c.quiet, position: 'insideTop' as const, formatter: text })
  const areas = [
    ...holds.value.map(h => [{ name: `hold ${duration((h.toS - h.fromS) * 1000)}`, xAxis: h.fromS }, { xAxis: h.toS }]),
    // What is judged begins when the hold has settled: the darker part.
    ...holds.value
      .filter(h => (h.toS - h.fromS) * 1000 > SETTLE_MS)
      .map(h => [{ xAxis: h.fromS + SETTLE_MS / 1000, itemStyle: { color: c.shade, opacity: 0.9 } }, { xAxis: h.toS }]),
    ...(warmMs.value > 0
      ? [
          [
            { xAxis: 0, itemStyle: { color: c.plan, opacity: 0.08 }, label: name('warm-up') },
            { xAxis: warmMs.value / 1000 },
          ],
        ]
      : []),
  ]
  return {
    animation: false,
    grid: { left: LEFT, right: RIGHT, top: TOP, bottom: FOOT },
    xAxis: {
      type: 'value',
      min: 0,
      max: lengthMs.value / 1000,
      splitLine: { show: false },
      axisLine: { lineStyle: { color: c.edge } },
      axisTick: { lineStyle: { color: c.edge } },
      axisLabel: { ...FONT, color: c.quiet, formatter: (s: number) => runTime(s), hideOverlap: true },
      axisPointer: { show: true, snap: false, lineStyle: { color: c.ink, type: 'solid' }, label: { show: false } },
    },
    yAxis: {
      type: 'value',
      min: 0,
      max: top.value.most,
      interval: top.value.step,
      axisLabel: { ...FONT, color: c.quiet, formatter: (n: number) => count(n) },
      splitLine: { lineStyle: { color: c.hair } },
    },
    series: [
      ...groups.value.map((g, i) => ({
        type: 'line',
        name: g.letter,
        stack: 'users',
        symbol: 'none',
        silent: true,
        data: moments.value.map(m => [m / 1000, levelAt(g.profile, m)]),
        lineStyle: { color: colour(g.letter), width: g.letter === chosen ? 2.2 : i === last ? 0 : 1.5 },
        areaStyle: { color: colour(g.letter), opacity: g.letter === chosen ? c.tint * 1.5 : c.tint },
        ...(i === 0
          ? {
              markArea: {
                silent: true,
                itemStyle: { color: c.shade, opacity: 0.55 },
                label: { ...FONT, color: c.quiet, position: 'insideTop' as const },
                data: areas,
              },
            }
          : {}),
      })),
      {
        type: 'line',
        symbol: 'none',
        silent: true,
        data: moments.value.map(m => [m / 1000, plannedAt(plan, m)]),
        lineStyle: { color: c.plan, width: 2.2, type: [6, 4] },
        z: 5,
      },
      ...(steps.value?.length
        ? [
            {
              type: 'line',
              symbol: 'none',
              silent: true,
              step: 'end',
              data: [
                ...steps.value.map(s => [s.fromMs / 1000, s.users]),
                [lengthMs.value / 1000, steps.value.at(-1)?.users ?? 0],
              ],
              lineStyle: { color: c.ink, width: 1.2, type: 'solid' },
              z: 6,
            },
          ]
        : []),
      ...(before
        ? [
            {
              type: 'line',
              symbol: 'none',
              silent: true,
              data: before.users.map((n, s) => [s + 1, n]),
              lineStyle: { color: c.quiet, width: 1 },
              z: 4,
            },
          ]
        : []),
    ],
  }
})

/** Users of the groups drawn below one, at a moment. */
function below(letter: string, atMs: number): number {
  let sum = 0
  for (const g of groups.value) {
    if (g.letter === letter) return sum
    sum += levelAt(g.profile, atMs)
  }
  return sum
}

/** Direct labels beside the bands, where each is widest. */
const labels = computed(() => {
  const at = holds.value.length
    ? ((holds.value[holds.value.length - 1]!.fromS * 2 + holds.value[holds.value.length - 1]!.toS) / 3) * 1000
    : lengthMs.value / 2
  return groups.value.map((g) => {
    const level = levelAt(g.profile, at)
    return {
      letter: g.letter,
      level,
      left: at / lengthMs.value,
      bottom: (below(g.letter, at) + level / 2) / top.value.most,
      thin: level / top.value.most < 0.09,
    }
  })
})
const place = (x: number) => `calc(${LEFT}px + (100% - ${LEFT + RIGHT}px) * ${x})`
const height = (y: number) => `calc(${FOOT}px + (100% - ${TOP + FOOT}px) * ${y})`

const frame = useTemplateRef<HTMLElement>('frame')
const box = () => present(frame.value, 'the frame one points at')
function move(event: MouseEvent): void {
  const bounds = box().getBoundingClientRect()
  const x = (event.clientX - bounds.left - LEFT) / (bounds.width - LEFT - RIGHT)
  emit('cursor', x >= 0 && x <= 1 ? x * lengthMs.value : undefined)
}
/** Pixels of the plot per ms and per user. */
const scale = () => ({
  perMs: (box().clientWidth - LEFT - RIGHT) / lengthMs.value,
  perUser: (box().clientHeight - TOP - FOOT) / top.value.most,
})
</script>

<template>
  <div ref="frame" class="chart panel" @mousemove="move" @mouseleave="emit('cursor', undefined)">
    <VChart v-if="option" :option="option" autoresize :update-options="{ notMerge: true }" aria-hidden="true" />
    <template v-for="l in labels" :key="l.letter">
      <span
        v-if="!l.thin"
        class="label"
        :style="{ left: place(l.left), bottom: height(l.bottom) }"
      ><GroupTag :letter="l.letter" /> {{ count(l.level) }}</span>
    </template>
    <LoadHandles
      v-if="chosen"
      :key="chosen"
      :letter="chosen"
      :place="ms => place(ms / lengthMs)"
      :height="(users, ms) => height((users + below(chosen!, ms)) / top.most)"
      :scale="scale"
    />
    <div class="side">
      <template v-if="ceiling"><b>{{ count(ceiling.users) }} users</b><span class="q">carried<template v-if="binding && UNSURE.includes(binding.basis)">, {{ BASIS_WORDS[binding.basis] }}</template>: <LocationCode :code="ceiling.code" /> binds first<template
        v-if="binding?.loads[0] && binding.loads[0].signal !== 'assumed'"
      >, by {{ loadWord(binding.loads[0].signal) }}</template><template v-if="steps && steps.length > 1">; {{ count(Math.min(...steps.map(s => s.users))) }} outside the peak</template></span></template>
      <span class="plantx"><i class="dash" />planned, all groups</span>
      <span v-if="before" class="q"><i class="thin" />run {{ before.id }} as it was</span>
    </div>
  </div>
</template>

<style scoped>
.chart {
  position: relative;
  height: 100%;
  min-height: 0;
}
.label {
  position: absolute;
  transform: translateY(50%);
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 12px;
  pointer-events: none;
}
.side {
  position: absolute;
  right: 6px;
  top: 14px;
  width: 120px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  font-size: 11px;
  line-height: 15px;
}
.side b {
  font-size: 12px;
}
.side b + .q {
  margin-top: -8px;
}
.dash {
  display: block;
  width: 32px;
  border-top: 2.2px dashed var(--plan);
  margin-bottom: 3px;
}
.thin {
  display: block;
  width: 32px;
  border-top: 1px solid var(--quiet);
  margin-bottom: 3px;
}
</style>

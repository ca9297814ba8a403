<script setup lang="ts">
/**
 * The stave: every chart of a run stacked on one time axis. One chart instance; headings and the chosen window lie over
 * it.
 */
import { latestKnown } from '~~/core/merge/second-figures'
import { figureOf, timedObjective } from '~~/core/objectives/judge'
import { sliceOf } from '~~/core/objectives/sentence'
import { stepKey } from '~~/core/objectives/subject'
import { useElementSize } from '@vueuse/core'
import { use } from 'echarts/core'
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import type { RunView, SecondFigures, WindowView } from '~~/api/views'
import { planInUsers } from '~~/core/plan/expected'
import { levelsOf } from '~~/core/objectives/windows'
import { count, rate, time, timeText } from '~/format/figures'
import { runTime } from '~/format/moments'
import { LEFT, RIGHT, staffsIn, type Staff } from './stave-geometry'

use([BarChart, LineChart, GridComponent, MarkAreaComponent, MarkLineComponent, CanvasRenderer])
const {
  run,
  seconds,
  nowS,
  span,
  staffs: keys,
  chosen,
  brush = false,
  merged,
} = defineProps<{
  run: RunView
  seconds: (SecondFigures | undefined)[]
  /** Run second now while the run is on. */
  nowS?: number
  span: { fromS: number, toS: number }
  staffs: Staff['key'][]
  chosen?: { fromS: number, toS: number }
  /** A window can be chosen by dragging. */
  brush?: boolean
  /** Exact figures of the window shown, once the run is over; until then headings show the latest settled second. */
  merged?: WindowView
}>()
const emit = defineEmits<{ choose: [window: { fromS: number, toS: number } | undefined] }>()
const colours = useColours()
const frame = useTemplateRef<HTMLElement>('frame')
const { width, height } = useElementSize(frame)
const FONT = { fontFamily: 'Archivo Variable', fontSize: 11 }

const staffs = computed(() => staffsIn(height.value, keys))
const staffOf = (key: Staff['key']) => staffs.value.find(s => s.key === key)
const judged = computed(() => timedObjective(run.document.plan.objectives))
const objective = computed(() => judged.value?.objective)
const judgedName = computed(() => (objective.value ? sliceOf(objective.value, run.document.journeys) : 'all requests'))
/**
 * Three percentiles stand for an objective that is about one of them, over all groups and locations; any other is drawn
 * by its own metric alone.
 */
const isPlain = computed(
  () =>
    objective.value === undefined ||
    (['p50', 'p95', 'p99'].includes(objective.value.metric) &&
      objective.value.group === undefined &&
      objective.value.location === undefined &&
      !objective.value.withFailures),
)
const judgedSecond = (s: SecondFigures) => {
  const { step, journeyId } = objective.value ?? {}
  if (step === undefined) return s.all
  const key =
    journeyId === undefined ? Object.keys(s.steps).find(k => k.endsWith(`/${step}`)) : stepKey(journeyId, step)
  // Runs of earlier releases knew steps by their names alone.
  return s.steps[key ?? step] ?? s.steps[step]
}
const ownMs = (s: SecondFigures) => s.judged?.[judged.value!.index]?.[0]
const inked = computed(() =>
  isPlain.value ? ((objective.value?.metric ?? 'p95') as 'p50' | 'p95' | 'p99') : undefined,
)
const PLACE = { p50: 2, p95: 3, p99: 4 } as const
const latest = computed(() => latestKnown(seconds) ?? seconds.findLast(s => s !== undefined))
/** What the headings say: of the merged window where there is one, else, while it loads, of the latest known second. */
const headings = computed(() => {
  const s = nowS === undefined ? undefined : latest.value
  const code = run.document.plan.locations[emphasis.value]!.code
  if (merged) {
    const f = (judged.value && merged.objectives[judged.value.index]?.figures) ?? merged.total
    const of =
      objective.value?.step === undefined
        ? undefined
        : merged.steps.find(
            x =>
              x.step === objective.value!.step &&
              (objective.value!.journeyId === undefined || x.journeyId === objective.value!.journeyId),
          )
    const inside = seconds.slice(merged.fromS, merged.toS).filter(x => x !== undefined)
    return {
      planned: Math.max(0, ...run.planned.slice(merged.fromS, merged.toS)),
      present: Math.max(0, ...inside.map(present)),
      p99: f.p99Ms,
      p95: f.p95Ms,
      p50: f.p50Ms,
      own: objective.value && figureOf(objective.value, f),
      unknown: 0,
      there: (of ? of.byLocation[code] : merged.locations.find(l => l.code === code)?.figures)?.p95Ms,
      sent: merged.total.started / Math.max(1, merged.toS - merged.fromS),
      failed: merged.total.failed,
    }
  }
  const j = s && judgedSecond(s)
  return {
    planned: s && run.planned[s.second],
    present: s ? present(s) : undefined,
    p99: j?.[4],
    p95: j?.[3],
    p50: j?.[2],
    own: s && judged.value ? (ownMs(s) ?? undefined) : undefined,
    unknown: unknownAt.value,
    there: s?.locations[code]?.[3],
    sent: s?.started,
    failed: s?.failed,
  }
})
const present = (s: SecondFigures) => s.usersByLocation.reduce((a, b) => a + b, 0)
const unknownIn = (s: SecondFigures) => s.unknownByLocation?.reduce((a, b) => a + b, 0) ?? 0
/** As the newest second of all has it: a second that is not whole yet is where the unknown are. */
const unknownAt = computed(() => {
  const newest = seconds.findLast(s => s !== undefined)
  return newest ? unknownIn(newest) : 0
})
const shadow = (grid: number) => ({
  type: 'line',
  xAxisIndex: grid,
  yAxisIndex: grid,
  symbol: 'none',
  silent: true,
  connectNulls: false,
  z: 1,
})

/** One line as two series: final seconds full, provisional ones lighter. A hole stays a hole. */
function line(
  grid: number,
  value: (s: SecondFigures) => number | null | undefined,
  style: { color: string, width: number },
  z = 3,
) {
  const at = (want: boolean) =>
    seconds.flatMap((s, i) => {
      if (i < span.fromS - 1 || i > span.toS) return []
      const next = seconds[i + 1]
      const mine =
        s && (s.final === want || (want && !s.final && seconds[i - 1]?.final) || (!want && next && !next.final))
      return [[i + 1, mine ? (value(s) ?? null) : null]]
    })
  const base = {
    type: 'line',
    xAxisIndex: grid,
    yAxisIndex: grid,
    symbol: 'none',
    silent: true,
    connectNulls: false,
    z,
    sampling: 'minmax' as const,
  }
  return [
    { ...base, data: at(true), lineStyle: style },
    ...(nowS === undefined ? [] : [{ ...base, data: at(false), lineStyle: { ...style, opacity: 0.4 } }]),
  ]
}

const option = computed(() => {
  const c = colours.value
  if (!c || staffs.value.length === 0 || height.value < 60) return undefined
  const { plan } = run.document
  const holds = levelsOf(planInUsers(plan, run.document.journeys), 5000)
  const index = new Map(staffs.value.map((s, i) => [s.key, i]))
  const series: object[] = []
  const limitLine = (grid: number) =>
    objective.value
      ? [
          {
            type: 'line',
            xAxisIndex: grid,
            yAxisIndex: grid,
            symbol: 'none',
            silent: true,
            z: 5,
            data: [
              [span.fromS, objective.value.atMost / 1000],
              [span.toS, objective.value.atMost / 1000],
            ],
            lineStyle: { color: c.brick, width: 1.2 },
          },
        ]
      : []
  const addTo = (key: Staff['key'], make: (grid: number) => object[]) => {
    const grid = index.get(key)
    if (grid !== undefined) series.push(...make(grid))
  }
  addTo('users', g => [
    ...line(g, present, { color: c.ink, width: 1.6 }),
    // Of whom nobody knows: between those who are known to be there and those who may be.
    ...(seconds.some(s => s?.unknownByLocation)
      ? [
          {
            ...shadow(g),
            stack: 'unknown',
            data: seconds.map((s, i) => [i + 1, s?.unknownByLocation ? present(s) : null]),
            lineStyle: { width: 0 },
          },
          {
            ...shadow(g),
            stack: 'unknown',
            data: seconds.map((s, i) => [i + 1, s?.unknownByLocation ? unknownIn(s) : null]),
            lineStyle: { color: c.brick, width: 1, type: [2, 3] },
            areaStyle: { color: c.brick, opacity: 0.16 },
          },
        ]
      : []),
    {
      type: 'line',
      xAxisIndex: g,
      yAxisIndex: g,
      symbol: 'none',
      silent: true,
      z: 4,
      data: run.planned.map((n, s) => [s + 1, n]),
      lineStyle: { color: c.plan, width: 2, type: [6, 4] },
    },
  ])
  addTo('offBy', g => [
    {
      type: 'bar',
      xAxisIndex: g,
      yAxisIndex: g,
      silent: true,
      barWidth: '90%',
      data: seconds.flatMap((s, i) =>
        s && run.byPlan.planned[i] !== undefined
          ? [
              {
                value: [i + 0.5, offBy(s, i)],
                itemStyle: {
                  color: Math.abs(offBy(s, i)) > Math.max(1, run.byPlan.planned[i]! * 0.02) ? c.brick : c.ink,
                  opacity: s.final ? 1 : 0.4,
                },
              },
            ]
          : [],
      ),
    },
    {
      type: 'line',
      xAxisIndex: g,
      yAxisIndex: g,
      symbol: 'none',
      silent: true,
      data: [
        [span.fromS, 0],
        [span.toS, 0],
      ],
      lineStyle: { color: c.plan, width: 1.4, type: [6, 4] },
    },
  ])
  addTo('answered', g => [
    ...(isPlain.value
      ? (['p50', 'p95', 'p99'] as const).flatMap(p =>
          line(
            g,
            s => secondsOf(judgedSecond(s)?.[PLACE[p]]),
            p === inked.value ? { color: c.ink, width: 1.6 } : { color: c.quiet, width: 1 },
            p === inked.value ? 3 : 2,
          ),
        )
      : line(g, s => secondsOf(ownMs(s)), { color: c.ink, width: 1.6 })),
    ...limitLine(g),
  ])
  addTo('byLocation', g => [
    ...plan.locations.flatMap((l, i) =>
      line(
        g,
        s => secondsOf(s.locations[l.code]?.[3]),
        i === emphasis.value ? { color: c.ink, width: 1.6 } : { color: c.quiet, width: 1 },
        i === emphasis.value ? 4 : 2,
      ),
    ),
    // The limit is that of p95 there, or it is none of these lines'.
    ...(objective.value?.metric === 'p95' &&
    !objective.value.withFailures &&
    (objective.value.location === undefined || objective.value.location === plan.locations[emphasis.value]!.code)
      ? limitLine(g)
      : []),
  ])
  addTo('sent', g => [
    ...line(g, s => s.started, { color: c.ink, width: 1.4 }),
    {
      type: 'bar',
      xAxisIndex: g,
      yAxisIndex: g,
      silent: true,
      barWidth: '90%',
      itemStyle: { color: c.brick },
      data: seconds.flatMap((s, i) => (s && s.failed > 0 ? [[i + 0.5, s.failed]] : [])),
    },
  ])
  const shaded = holds.map(h => [{ xAxis: h.fromS }, { xAxis: h.toS }])
  staffs.value.forEach((_, g) =>
    series.push({
      type: 'line',
      xAxisIndex: g,
      yAxisIndex: g,
      data: [],
      silent: true,
      z: 0,
      markArea: { silent: true, animation: false, itemStyle: { color: c.shade, opacity: 0.8 }, data: shaded },
      markLine: {
        silent: true,
        symbol: 'none',
        animation: false,
        label: { show: false },
        lineStyle: { color: c.ink, width: 1.4, type: 'solid' },
        data: nowS === undefined ? [] : [{ xAxis: nowS }],
      },
    }),
  )
  return {
    animation: false,
    grid: staffs.value.map(s => ({
      left: LEFT,
      right: RIGHT,
      top: s.top,
      height: s.height,
      show: true,
      backgroundColor: c.panel,
      borderColor: c.hair,
    })),
    xAxis: staffs.value.map((_, i) => ({
      type: 'value',
      gridIndex: i,
      min: span.fromS,
      max: span.toS,
      position: 'top' as const,
      splitLine: { show: false },
      axisLine: { show: false },
      axisTick: { show: false },
      axisLabel: {
        show: i === 0,
        ...FONT,
        color: c.quiet,
        formatter: (s: number) => (s === span.fromS && s > 0 ? '' : runTime(s)),
        hideOverlap: true,
      },
    })),
    yAxis: staffs.value.map((s, i) => ({
      type: 'value',
      gridIndex: i,
      min: s.key === 'offBy' ? (v: { min: number }) => Math.min(-offRange.value, v.min) : 0,
      ...(s.key === 'offBy' ? { max: (v: { max: number }) => Math.max(offRange.value, v.max) } : {}),
      splitNumber: 2,
      minInterval: s.key === 'users' || s.key === 'sent' || s.key === 'offBy' ? 1 : 0,
      splitLine: { show: s.key !== 'offBy', lineStyle: { color: c.hair } },
      axisLabel: {
        show: s.key !== 'offBy',
        ...FONT,
        color: c.quiet,
        showMaxLabel: false,
        formatter: (n: number) =>
          s.key === 'answered' || s.key === 'byLocation' ? String(Number(n.toPrecision(3))) : count(n),
      },
    })),
    series,
  }
})
/** Only users who come and go by the plan can be off it. */
const offBy = (s: SecondFigures, i: number) =>
  run.byPlan.groups.reduce((sum, g) => sum + (s.usersByGroup[g] ?? 0), 0) - run.byPlan.planned[i]!
/** A user or two off must not look like a crowd. */
const offRange = computed(() => Math.max(4, Math.max(0, ...run.planned) * 0.03))
const secondsOf = (ms: number | null | undefined) => (ms === null || ms === undefined ? null : ms / 1000)

/** Which location's line is inked: arrows move it. */
const emphasis = ref(0)
function moveEmphasis(by: number): void {
  const n = run.document.plan.locations.length
  emphasis.value = (emphasis.value + by + n) % n
}
/** Code boxes at the line ends, kept apart. */
const ends = computed(() => {
  const staff = staffOf('byLocation')
  const s = latest.value
  if (!staff || !s) return []
  const values = run.document.plan.locations
    .map((l, i) => ({ code: l.code, i, ms: s.locations[l.code]?.[3] ?? null }))
    .filter(v => v.ms !== null)
    .sort((a, b) => b.ms! - a.ms!)
  const room = Math.max(1, values.length)
  return values
    .slice(0, Math.floor(staff.height / 17))
    .map((v, k) => ({ ...v, top: staff.top + Math.min(staff.height / room, 18) * k + 1 }))
})

// Choosing a window by dragging.
const dragging = ref<{ from: number, to: number }>()
const innerWidth = computed(() => Math.max(1, width.value - LEFT - RIGHT))
const secondAt = (event: MouseEvent) => {
  const box = frame.value!.getBoundingClientRect()
  return (
    span.fromS +
    Math.min(1, Math.max(0, (event.clientX - box.left - LEFT) / innerWidth.value)) * (span.toS - span.fromS)
  )
}
const pxAt = (second: number) => LEFT + ((second - span.fromS) / (span.toS - span.fromS)) * innerWidth.value
function down(event: MouseEvent): void {
  if (!brush) return
  dragging.value = { from: secondAt(event), to: secondAt(event) }
}
function move(event: MouseEvent): void {
  if (dragging.value) dragging.value.to = secondAt(event)
}
function up(): void {
  if (!dragging.value) return
  const [a, b] = [dragging.value.from, dragging.value.to].sort((x, y) => x - y) as [number, number]
  dragging.value = undefined
  emit('choose', b - a < 1 ? undefined : { fromS: Math.floor(a), toS: Math.ceil(b) })
}
const shown = computed(() =>
  dragging.value
    ? { fromS: Math.min(dragging.value.from, dragging.value.to), toS: Math.max(dragging.value.from, dragging.value.to) }
    : chosen,
)
const style = (s: Staff) => ({ top: `${s.top}px`, height: `${s.height}px` })
</script>

<template>
  <div ref="frame" class="stave" :class="{ brush }" @mousedown="down" @mousemove="move" @mouseup="up" @mouseleave="up">
    <VChart
      v-if="option"
      :option="option"
      autoresize
      :update-options="{ notMerge: true }"
      aria-hidden="true"
      class="canvas"
    />
    <template v-for="s in staffs" :key="s.key">
      <div v-if="s.key === 'users'" class="heading" :style="style(s)">
        <h2>Users</h2>
        <span class="q">{{ merged ? 'most in window' : 'planned, present' }}</span>
        <span class="legend"
        ><i class="dash" />planned<b class="plantx">{{
          headings.planned === undefined ? '–' : count(headings.planned)
        }}</b></span
        >
        <span class="legend"
        ><i class="ink" />present<b>{{ headings.present === undefined ? '–' : count(headings.present) }}</b></span
        >
        <span v-if="headings.unknown" class="legend"
        ><i class="dots" />unknown<b class="brick">{{ count(headings.unknown) }}</b></span
        >
      </div>
      <div v-else-if="s.key === 'offBy'" class="heading end" :style="style(s)"><span class="q">off by</span></div>
      <div v-else-if="s.key === 'answered'" class="heading" :style="style(s)">
        <h2>Answered in, s</h2>
        <span class="q clip">{{ judgedName }}{{ merged ? ', window' : ', each second' }}</span>
        <template v-if="isPlain"
        ><span v-for="p in ['p99', 'p95', 'p50'] as const" :key="p" class="legend"
        ><i :class="p === inked ? 'ink' : 'thin'" />{{ p }}<b>{{ timeText(headings[p]) }}</b></span
        ></template
        >
        <span v-else class="legend"
        ><i class="ink" />{{ objective!.metric }}<b>{{ timeText(headings.own) }}</b></span
        >
      </div>
      <div v-else-if="s.key === 'byLocation'" class="heading" :style="style(s)">
        <h2>p95, s</h2>
        <span class="q clip">{{ judgedName }}, by location</span>
        <span class="legend"
        ><button class="arrow" aria-label="Emphasise the location before" @click="moveEmphasis(-1)">‹</button
        ><LocationCode :code="run.document.plan.locations[emphasis]!.code" /><button
          class="arrow"
          aria-label="Emphasise the next location"
          @click="moveEmphasis(1)"
        >
          ›</button
        ><b>{{ timeText(headings.there) }}</b></span
        >
      </div>
      <div v-else class="heading" :style="style(s)">
        <h2>Per second</h2>
        <span class="q">{{ merged ? 'sent; failed in all' : 'sent, failed' }}</span>
        <span class="legend"
        ><i class="ink" />sent<b>{{ headings.sent === undefined ? '–' : rate(headings.sent) }}</b></span
        >
        <span class="legend"
        ><i class="block" />failed<b :class="{ brick: headings.failed }">{{
          headings.failed === undefined ? '–' : count(headings.failed)
        }}</b></span
        >
      </div>
    </template>
    <span
      v-for="e in ends"
      :key="e.code"
      class="line-end"
      :class="{ on: e.i === emphasis }"
      :style="{ top: `${e.top}px` }"
      :title="`${e.code}: ${time(e.ms).join(' ')}`"
    ><LocationCode :code="e.code"
    /></span>
    <div
      v-if="shown && staffs.length"
      class="window"
      :style="{
        left: `${pxAt(shown.fromS)}px`,
        width: `${pxAt(shown.toS) - pxAt(shown.fromS)}px`,
        top: `${staffs[0]!.top}px`,
      }"
    />
  </div>
</template>

<style scoped>
.stave {
  position: relative;
  min-height: 0;
  height: 100%;
  overflow: hidden;
}
.brush {
  cursor: crosshair;
}
.canvas {
  position: absolute;
  inset: 0;
}
.heading {
  position: absolute;
  left: 0;
  width: 104px;
  display: flex;
  flex-direction: column;
  font-size: 11.5px;
  line-height: 14px;
  pointer-events: none;
  overflow: hidden;
}
.heading h2 {
  white-space: nowrap;
}
.heading.end {
  width: 132px;
  align-items: flex-end;
  justify-content: center;
}
.legend {
  display: flex;
  align-items: center;
  gap: 4px;
  color: var(--quiet);
  height: 14px;
}
.legend b {
  margin-left: auto;
  color: var(--ink);
  font-weight: 620;
  white-space: nowrap;
}
.legend b.brick {
  color: var(--brick);
}
.legend b.plantx {
  color: var(--plantx);
}
.legend i {
  width: 14px;
  flex: none;
}
.legend .dash {
  border-top: 2px dashed var(--plan);
}
.legend .ink {
  border-top: 1.6px solid var(--ink);
}
.legend .dots {
  border-top: 2px dotted var(--brick);
}
.legend .thin {
  border-top: 1px solid var(--quiet);
}
.legend .block {
  height: 7px;
  width: 7px;
  background: var(--brick);
  margin: 0 3px;
}
.arrow {
  pointer-events: auto;
  width: 14px;
  height: 16px;
  cursor: pointer;
  color: var(--act);
  font-weight: 700;
}
.line-end {
  position: absolute;
  right: 8px;
  color: var(--quiet);
  background: var(--panel);
  line-height: 14px;
}
.line-end.on {
  color: var(--ink);
}
.window {
  position: absolute;
  bottom: 0;
  border: 1.5px solid var(--act);
  background: color-mix(in srgb, var(--act) 10%, transparent);
  pointer-events: none;
}
</style>

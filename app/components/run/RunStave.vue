<script setup lang="ts">
/**
 * The stave: every chart of a run stacked on one time axis. One chart instance; headings and the chosen window lie over
 * it.
 */
import { latestKnown } from '~~/core/merge/second-figures'
import { figureOf } from '~~/core/objectives/judge'
import { sliceOf } from '~~/core/objectives/sentence'
import { useElementSize, useThrottleFn } from '@vueuse/core'
import { use } from 'echarts/core'
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import type { RunView, SecondFigures, WindowView } from '~~/api/views'
import type { BrokenStretch } from '~~/core/result/stretches'
import { planInUsers } from '~~/core/plan/expected'
import { levelsOf } from '~~/core/objectives/windows'
import { count, rate, time, timeText } from '~/format/figures'
import { runTime } from '~/format/moments'
import { staveOption, staveTick, type StaveFrame } from './stave-chart'
import { LEFT, RIGHT, staffsIn, type Staff } from './stave-geometry'
import { moved, NO_READING, readRunTime } from './stave-cursor'
import { judgedFigure, PLACE } from './stave-judged'
import { KeptPoints, present, staveLines, unknownIn } from './stave-lines'

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
  broken = [],
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
  /** Stretches in which an objective was broken; those of the one that is drawn are shown. */
  broken?: readonly BrokenStretch[]
}>()
const emit = defineEmits<{ choose: [window: { fromS: number, toS: number } | undefined] }>()
const colours = useColours()
const frame = useTemplateRef<HTMLElement>('frame')
const { width, height } = useElementSize(frame)

const staffs = computed(() => staffsIn(height.value, keys))
const staffOf = (key: Staff['key']) => staffs.value.find(s => s.key === key)
const judged = computed(() => judgedFigure(run.document.plan.objectives))
const objective = computed(() => judged.value.objective)
const judgedName = computed(() => (objective.value ? sliceOf(objective.value, run.document.journeys) : 'all requests'))
const latest = computed(() => latestKnown(seconds) ?? seconds.findLast(s => s !== undefined))
/** The second that is read. */
const reading = ref(NO_READING)
const isRead = computed(() => reading.value.at !== undefined)
/** Under each heading: what its values are of. */
const ofWhat = (window: string, live: string) =>
  isRead.value ? `at ${runTime(reading.value.at!)}` : merged ? window : live
function onKey(event: KeyboardEvent): void {
  if (event.target !== frame.value || event.ctrlKey || event.metaKey || event.altKey) return
  const next = moved(reading.value, event, span)
  if (next) reading.value = next
  // Nothing is read any more: the window goes next.
  else if (event.key === 'Escape' && brush && chosen) emit('choose', undefined)
  else return
  event.preventDefault()
}
function readAt(text: string): true | string {
  if (text.trim() === '') {
    reading.value = NO_READING
    return true
  }
  const at = readRunTime(text)
  if (at === undefined) return 'Write a run time, such as +12:52.'
  if (at <= span.fromS || at > span.toS) return `Between ${runTime(span.fromS + 1)} and ${runTime(span.toS)}.`
  reading.value = { at, pinned: true }
  return true
}
/**
 * What the headings say: of the second that is read, else of the merged window where there is one, else, while it
 * loads, of the latest known second.
 */
const headings = computed(() => {
  const s = isRead.value ? seconds[reading.value.at! - 1] : nowS === undefined ? undefined : latest.value
  const code = run.document.plan.locations[emphasis.value]!.code
  if (merged && !isRead.value) {
    const { index } = judged.value
    const f = (index === undefined ? undefined : merged.objectives[index]?.figures) ?? merged.total
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
  const j = s && judged.value.figuresIn(s)
  return {
    planned: s && run.planned[s.second],
    present: s ? present(s) : undefined,
    p99: j?.[PLACE.p99],
    p95: j?.[PLACE.p95],
    p50: j?.[PLACE.p50],
    own: s && (judged.value.ownMs(s) ?? undefined),
    unknown: isRead.value ? (s ? unknownIn(s) : 0) : unknownAt.value,
    there: s?.locations[code]?.[PLACE.p95],
    sent: s?.started,
    failed: s?.failed,
  }
})
/** As the newest second of all has it: a second that is not whole yet is where the unknown are. */
const unknownAt = computed(() => {
  const newest = seconds.findLast(s => s !== undefined)
  return newest ? unknownIn(newest) : 0
})
/** Which location's line is inked: arrows move it. */
const emphasis = ref(0)
function moveEmphasis(by: number): void {
  const n = run.document.plan.locations.length
  emphasis.value = (emphasis.value + by + n) % n
}
/** Times on a logarithmic axis. */
const scale = useInAddress('scale')
const isLog = computed({
  get: () => scale.value === 'log',
  set: (is) => {
    scale.value = is ? 'log' : undefined
  },
})
/** Shorter stretches are not shaded, ms. */
const SHORTEST_HOLD_MS = 5000
/** What stands still while the run goes on. */
const still = computed((): StaveFrame | undefined => {
  if (!colours.value || staffs.value.length === 0 || height.value < 60) return undefined
  const { plan, journeys } = run.document
  const shown = plan.locations[emphasis.value]!.code
  const limit = objective.value
  // By location, the limit is that of p95 there, or it is none of these lines'.
  const isOfLocations =
    limit?.metric === 'p95' && !limit.withFailures && (limit.location === undefined || limit.location === shown)
  return {
    staffs: staffs.value,
    span,
    planned: run.planned,
    isLog: isLog.value,
    holds: levelsOf(planInUsers(plan, journeys), SHORTEST_HOLD_MS),
    limit: limit && { objective: limit, on: isOfLocations ? ['answered', 'byLocation'] : ['answered'] },
    colours: colours.value,
  }
})
const isLive = computed(() => nowS !== undefined)
const chart = useTemplateRef<InstanceType<typeof VChart>>('chart')
/** The chart that shows its frame, and the points it shows in it. */
let drawn: { on: InstanceType<typeof VChart>, kept: KeptPoints } | undefined
/** Drawn anew when its frame changes; a tick changes points alone. */
async function draw(): Promise<void> {
  drawn = undefined
  // A chart that has just been put there takes nothing before it has measured itself.
  await nextTick()
  const [frame, on] = [still.value, chart.value]
  if (!frame || !on) return
  const kept = new KeptPoints(staveLines(run, judged.value, emphasis.value, isLive.value), span)
  kept.take(seconds)
  on.setOption(staveOption(frame, kept.all()), { notMerge: true })
  drawn = { on, kept }
}
/** To draw a chart anew is what a live page costs: once a second, however often news come. */
const TICK_MS = 1000
const tick = useThrottleFn(() => {
  if (!still.value || !drawn || drawn.on !== chart.value) return
  const { on, kept } = drawn
  if (kept.take(seconds)) on.setOption(staveTick(still.value, kept.all()), { lazyUpdate: true })
}, TICK_MS, true)
watch([still, chart, isLive], draw, { flush: 'post' })
watch(() => seconds, () => void tick(), { flush: 'post' })

/** Code boxes at the line ends, kept apart. */
const ends = computed(() => {
  const staff = staffOf('byLocation')
  const s = latest.value
  if (!staff || !s) return []
  const values = run.document.plan.locations
    .map((l, i) => ({ code: l.code, i, ms: s.locations[l.code]?.[PLACE.p95] ?? null }))
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
/** The moment one points at, whole seconds; undefined: beside the charts. */
function pointedAt(event: MouseEvent): number | undefined {
  const isOver = event.clientX - frame.value!.getBoundingClientRect().left >= LEFT
  return isOver ? Math.min(Math.floor(span.toS), Math.max(span.fromS + 1, Math.round(secondAt(event)))) : undefined
}
function move(event: MouseEvent): void {
  if (dragging.value) dragging.value.to = secondAt(event)
  if (!reading.value.pinned) reading.value = { at: pointedAt(event), pinned: false }
}
/** Dragging chooses a window; a click holds the cursor where one points, and lets it go where it is held. */
function up(event: MouseEvent): void {
  const drag = dragging.value
  dragging.value = undefined
  const [a, b] = drag ? [drag.from, drag.to].sort((x, y) => x - y) as [number, number] : [0, 0]
  if (b - a >= 1) return emit('choose', { fromS: Math.floor(a), toS: Math.ceil(b) })
  const at = pointedAt(event)
  if (at !== undefined) reading.value = { at, pinned: !(reading.value.pinned && reading.value.at === at) }
}
function leave(): void {
  dragging.value = undefined
  if (!reading.value.pinned) reading.value = NO_READING
}
/** The present second is a rule over all staffs, and no line of the chart: it moves more often. */
const nowPx = computed(() =>
  nowS === undefined || nowS < span.fromS || nowS > span.toS ? undefined : Math.round(pxAt(nowS)),
)
const shown = computed(() =>
  dragging.value
    ? { fromS: Math.min(dragging.value.from, dragging.value.to), toS: Math.max(dragging.value.from, dragging.value.to) }
    : chosen,
)
/** Height of the bar that shows a broken stretch, px. */
const BAR_PX = 6
/** Those of the objective that is drawn, as far as they are in sight. */
const drawnStretches = computed(() =>
  broken
    .filter(s => s.objective === judged.value.index && s.toS > span.fromS && s.fromS < span.toS)
    .map(s => ({ ...s, fromS: Math.max(s.fromS, span.fromS), toS: Math.min(s.toS, span.toS) })),
)
const style = (s: Staff) => ({ top: `${s.top}px`, height: `${s.height}px` })
</script>

<template>
  <div
    ref="frame"
    class="stave"
    :class="{ brush }"
    tabindex="0"
    role="group"
    aria-label="Charts of the run: arrow keys read a second"
    @keydown="onKey"
    @mousedown="down"
    @mousemove="move"
    @mouseup="up"
    @mouseleave="leave"
  >
    <label v-if="staffs.length" class="at">at <DraftInput
      size="xs"
      class="moment"
      placeholder="–"
      :value="reading.at === undefined ? '' : runTime(reading.at)"
      :accept="readAt"
    /></label>
    <VChart v-if="still" ref="chart" manual-update autoresize aria-hidden="true" class="canvas" />
    <template v-for="s in staffs" :key="s.key">
      <div v-if="s.key === 'users'" class="heading" :style="style(s)">
        <h2>Users</h2>
        <span class="q">{{ ofWhat('most in window', 'planned, present') }}</span>
        <span class="legend"><i class="dash" />planned<b class="plantx">{{
          headings.planned === undefined ? '–' : count(headings.planned)
        }}</b></span>
        <span class="legend"><i class="ink" />present<b>{{ headings.present === undefined ? '–' : count(headings.present) }}</b></span>
        <span
          v-if="headings.unknown"
          class="legend"
        ><i class="dots" />unknown<b class="brick">{{ count(headings.unknown) }}</b></span>
      </div>
      <div v-else-if="s.key === 'offBy'" class="heading end" :style="style(s)"><span class="q">off by</span></div>
      <div v-else-if="s.key === 'answered'" class="heading" :style="style(s)">
        <h2>Answered in, s</h2>
        <UButton
          size="xs"
          variant="link"
          class="scale"
          :aria-pressed="isLog"
          aria-label="Times on a logarithmic axis"
          @mousedown.stop
          @mouseup.stop
          @click="isLog = !isLog"
        >
          {{ isLog ? 'even scale' : 'log scale' }}
        </UButton>
        <span class="q clip">{{ judgedName }}, {{ ofWhat('window', 'each second') }}</span>
        <template v-if="judged.isPlain"><span
          v-for="p in ['p99', 'p95', 'p50'] as const"
          :key="p"
          class="legend"
        ><i :class="p === judged.inked ? 'ink' : 'thin'" />{{ p }}<b>{{ timeText(headings[p]) }}</b></span></template>
        <span
          v-else
          class="legend"
        ><i class="ink" />{{ objective!.metric }}<b>{{ timeText(headings.own) }}</b></span>
      </div>
      <div v-else-if="s.key === 'byLocation'" class="heading" :style="style(s)">
        <h2>p95, s</h2>
        <span class="q clip">{{ judgedName }}, by location</span>
        <span class="legend"><button class="arrow" aria-label="Emphasise the location before" @click="moveEmphasis(-1)">‹</button><LocationCode :code="run.document.plan.locations[emphasis]!.code" /><button
          class="arrow"
          aria-label="Emphasise the next location"
          @click="moveEmphasis(1)"
        >
          ›</button><b>{{ timeText(headings.there) }}</b></span>
      </div>
      <div v-else class="heading" :style="style(s)">
        <h2>Per second</h2>
        <span class="q">{{ ofWhat('sent; failed in all', 'sent, failed') }}</span>
        <span class="legend"><i class="ink" />sent<b>{{ headings.sent === undefined ? '–' : rate(headings.sent) }}</b></span>
        <span class="legend"><i class="block" />failed<b :class="{ brick: headings.failed }">{{
          headings.failed === undefined ? '–' : count(headings.failed)
        }}</b></span>
      </div>
    </template>
    <span
      v-for="e in ends"
      :key="e.code"
      class="line-end"
      :class="{ on: e.i === emphasis }"
      :style="{ top: `${e.top}px` }"
      :title="`${e.code}: ${time(e.ms).join(' ')}`"
    ><LocationCode :code="e.code" /></span>
    <template v-if="staffOf('answered')">
      <div
        v-for="s in drawnStretches"
        :key="s.fromS"
        class="broken"
        :class="{ hollow: !s.judged }"
        :style="{
          left: `${pxAt(s.fromS)}px`,
          width: `${Math.max(2, pxAt(s.toS) - pxAt(s.fromS))}px`,
          top: `${staffOf('answered')!.top + staffOf('answered')!.height - BAR_PX}px`,
        }"
      />
    </template>
    <div v-if="nowPx !== undefined && staffs.length" class="now" :style="{ top: `${staffs[0]!.top}px`, translate: `${nowPx}px` }" />
    <div v-if="isRead && staffs.length" class="cursor" :style="{ left: `${pxAt(reading.at!)}px`, top: `${staffs[0]!.top}px` }">
      <span class="moment-label" :class="{ pinned: reading.pinned }">{{ runTime(reading.at!) }}</span>
    </div>
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
.at {
  position: absolute;
  left: 0;
  top: 1px;
  z-index: 2;
  display: flex;
  gap: 4px;
  align-items: center;
  font-size: 11.5px;
  color: var(--quiet);
}
.moment {
  width: 66px;
}
.moment :deep(input) {
  height: 18px;
}
.broken {
  position: absolute;
  height: 6px;
  background: var(--brick);
  border: 1.5px solid var(--brick);
  pointer-events: none;
}
.broken.hollow {
  background: transparent;
}
.cursor {
  position: absolute;
  bottom: 0;
  width: 0;
  border-left: 1.4px solid var(--ink);
  pointer-events: none;
}
.now {
  position: absolute;
  left: 0;
  bottom: 0;
  border-left: 1.4px solid var(--ink);
  pointer-events: none;
}
.moment-label {
  position: absolute;
  top: -19px;
  left: 0;
  transform: translateX(-50%);
  padding: 0 6px;
  font-size: 11.5px;
  line-height: 18px;
  font-weight: 620;
  border-radius: 2px;
  color: var(--ink);
  background: var(--panel);
  border: 1px solid var(--edge);
}
.moment-label.pinned {
  color: var(--panel);
  background: var(--ink);
  border-color: var(--ink);
}
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
.scale {
  pointer-events: auto;
  align-self: flex-start;
  padding: 0;
  height: 14px;
  font-size: 11px;
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

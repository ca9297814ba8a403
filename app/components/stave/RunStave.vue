<script setup lang="ts">
/**
 * The stave: charts of a run stacked on one time axis, those the plan asks for or those somebody chose. Headings, the
 * cursor and the chosen window lie over what is drawn.
 */
import { latestKnown } from '~~/core/merge/second-figures'
import { sliceOf } from '~~/core/objectives/sentence'
import { useElementSize } from '@vueuse/core'
import type { RunView, SecondFigures, WindowView } from '~~/api/views'
import type { BrokenStretch } from '~~/core/result/stretches'
import { planInUsers } from '~~/core/plan/expected'
import { levelsOf } from '~~/core/objectives/windows'
import { count, rate, time, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { choicesOf } from '../result/slice-names'
import type { StaveFrame } from './stave-chart'
import { LEFT, leastHeight, placesIn, RIGHT, type GridKey, type StavePlace } from './stave-geometry'
import { useChosenStave } from './chosen-stave'
import { houseFigures } from './house-figures'
import { ownValueText } from './own-lines'
import { isOver, useOwnStaffs, type OwnEntry } from './own-staffs'
import { moved, NO_READING, readRunTime } from './stave-cursor'
import { judgedFigure, PLACE } from './stave-judged'
import { staveLines } from './stave-lines'
import { markBeside, marksNear, marksOf } from './stave-marks'
import { useStavePointer } from './stave-pointer'
import { titleOf } from './stave-staffs'
import { useTargetStaffs, type TargetEntry } from './target-staffs'
import { unloadedLines } from './unloaded-lines'
import NowRule from './NowRule.vue'
import StaffHeading from './StaffHeading.vue'
import StaveCanvas from './StaveCanvas.vue'
import StaveMenu from './StaveMenu.vue'

const {
  run,
  seconds,
  nowS,
  span,
  chosen,
  brush = false,
  merged,
  broken = [],
} = defineProps<{
  run: RunView
  seconds: (SecondFigures | undefined)[]
  /** Run second now, whole, while the run is on. */
  nowS?: number
  /** What is shown: all of it, or what it is zoomed to. */
  span: { fromS: number, toS: number }
  chosen?: { fromS: number, toS: number }
  /** A window can be chosen by dragging; without it dragging zooms. */
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

// Parts of a run that is asked for again are the same objects, as long as they are as they were.
const document = computed(() => run.document)
const generators = computed(() => run.generators)
const zoom = useZoom(() => span.toS)
const named = computed(() => choicesOf(document.value, generators.value.map(g => g.name)))
const stave = useChosenStave(() => document.value, () => named.value)
/** Nobody planned what other programs did. */
const hasPlan = computed(() => document.value.claimed === undefined)
const places = computed(() => placesIn(height.value, stave.entries.value, hasPlan.value))
const placeOf = (key: GridKey) => places.value.find(p => p.key === key)
/** The staff whose editor is open. */
const edited = ref<string>()
/** What every heading has. */
const heading = (place: StavePlace) => ({
  place,
  stave,
  named: named.value,
  unloadedMs: unloaded.value.get(place.key),
})

const judged = computed(() => judgedFigure(document.value.plan.objectives))
const objective = computed(() => judged.value.objective)
const judgedName = computed(() => (objective.value ? sliceOf(objective.value, document.value.journeys) : 'all requests'))
const isLive = computed(() => nowS !== undefined)

// The cursor.
/** The second that is read. */
const reading = ref(NO_READING)
const isRead = computed(() => reading.value.at !== undefined)
/** Under each heading: what its values are of. */
const ofWhat = (window: string, live: string) =>
  isRead.value ? `at ${runTime(reading.value.at ?? 0)}` : merged ? window : live
function onKey(event: KeyboardEvent): void {
  if (event.target !== frame.value || event.ctrlKey || event.metaKey || event.altKey) return
  // Of most keys there is none.
  const beside = { PageDown: 1, PageUp: -1 }[event.key] as 1 | -1 | undefined
  const next = beside
    ? besideMark(beside)
    : moved(reading.value, event, span)
  if (next) reading.value = next
  else if (event.key === '+') edited.value = stave.add()
  // Nothing is read any more: what it is zoomed to goes next, then the window.
  else if (event.key === 'Escape' && zoom.value) zoom.value = undefined
  else if (event.key === 'Escape' && brush && chosen) emit('choose', undefined)
  else return
  event.preventDefault()
}
/** The mark before or after the second that is read; the last stays. */
function besideMark(by: 1 | -1): typeof reading.value {
  const from = reading.value.at ?? (by > 0 ? span.fromS : span.toS + 1)
  const at = markBeside(marks.value, from, by)
  return at === undefined ? reading.value : { at, pinned: true }
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
// What the target says of itself.
const target = useTargetStaffs({
  run: () => run,
  entries: () => stave.entries.value,
  isLive: () => isLive.value,
  at: () => reading.value.at,
  window: () => (merged ? { fromS: merged.fromS, toS: merged.toS } : undefined),
})
/** Shorter stretches are not shaded, ms. */
const SHORTEST_HOLD_MS = 5000
const holds = computed(() => levelsOf(planInUsers(document.value.plan, document.value.journeys), SHORTEST_HOLD_MS))
const marks = computed(() =>
  marksOf(run, broken, holds.value, target.steps.value).filter(({ at }) => at > span.fromS && at <= span.toS))
const readMarks = computed(() => (isRead.value ? marksNear(marks.value, reading.value.at ?? 0, 0) : []))

// The house's staffs.
const latest = computed(() => latestKnown(seconds) ?? seconds.findLast(s => s !== undefined))
/** Which location's line is inked: arrows move it. */
const inked = ref(0)
const locationAt = (i: number) => document.value.plan.locations[i]!.code
function moveInked(by: number): void {
  const n = document.value.plan.locations.length
  inked.value = (inked.value + by + n) % n
}
const headings = computed(() =>
  houseFigures({
    run,
    seconds,
    judged: judged.value,
    code: locationAt(inked.value),
    at: reading.value.at,
    isLive: isLive.value,
    merged,
  }))
/** Times on a logarithmic axis. */
const scale = useInAddress('scale')
const isLog = computed({
  get: () => scale.value === 'log',
  set: (is) => {
    scale.value = is ? 'log' : undefined
  },
})

// Staffs of one's own.
const own = useOwnStaffs({
  run: () => run,
  seconds: () => seconds,
  entries: () => stave.entries.value,
  named: () => named.value,
  span: () => span,
  isZoomed: () => zoom.value !== undefined,
  isLive: () => isLive.value,
  nowS: () => nowS,
  latestS: () => latest.value?.second,
  merged: () => merged,
  at: () => reading.value.at,
  isLog: () => isLog.value,
})
const { problem } = own

const ownDrawn = computed(() => [...own.drawn.value, ...target.drawn.value])

const rehearsed = computed(() => run.unloaded)
const unloaded = computed(() =>
  unloadedLines(rehearsed.value, document.value, objective.value, locationAt(inked.value), places.value))

// The chart.
const planned = computed(() => run.planned)
/** What stands still while the run goes on. */
const still = computed((): StaveFrame | undefined => {
  if (!colours.value || places.value.length === 0 || height.value < 60) return undefined
  const shown = locationAt(inked.value)
  const limit = objective.value
  // By location, the limit is that of p95 there, or it is none of these lines'.
  const isOfLocations =
    limit?.metric === 'p95' && !limit.withFailures && (limit.location === undefined || limit.location === shown)
  return {
    places: places.value,
    span,
    planned: planned.value,
    isLog: isLog.value,
    holds: holds.value,
    limit: limit && { objective: limit, on: isOfLocations ? ['objective', 'objectiveByLocation'] : ['objective'] },
    unloaded: unloaded.value,
    colours: colours.value,
  }
})
const byPlan = computed(() => run.byPlan)
const house = computed(() =>
  staveLines({ document: document.value, byPlan: byPlan.value }, judged.value, inked.value, isLive.value))

/** Code boxes at the line ends, kept apart. */
const ends = computed(() => {
  const staff = placeOf('objectiveByLocation')
  const s = latest.value
  if (!staff || !s) return []
  const values = run.document.plan.locations
    .map((l, i) => ({ code: l.code, i, ms: s.locations[l.code]?.[PLACE.p95] ?? null }))
    .filter(v => v.ms !== null)
    .sort((a, b) => (b.ms ?? 0) - (a.ms ?? 0))
  const room = Math.max(1, values.length)
  return values
    .slice(0, Math.floor(staff.height / 17))
    .map((v, k) => ({ ...v, top: staff.top + Math.min(staff.height / room, 18) * k + 1 }))
})

const { dragging, shown, innerWidth, pxAt, down, move, up, leave } = useStavePointer({
  frame,
  width,
  span: () => span,
  chosen: () => chosen,
  marks: () => marks.value,
  reading,
  drag(window, zooms) {
    if (brush && !zooms) emit('choose', window)
    else zoom.value = window
  },
})
useActs([
  {
    key: 'z',
    says: 'Zoom the charts to the chosen window, and out again',
    act: () => {
      zoom.value = zoom.value ? undefined : chosen
    },
  },
])
/** The label of the cursor stays within the stave, px. */
const LABEL_PX = 210
const labelShift = computed(() => {
  const x = pxAt(reading.value.at ?? 0)
  const half = readMarks.value.length > 0 ? LABEL_PX : 0
  if (half > 0 && x - LEFT < half) return 'translateX(-30px)'
  return half > 0 && width.value - x < half ? 'translateX(calc(-100% + 30px))' : 'translateX(-50%)'
})
/** Height of the bar that shows a broken stretch, px. */
const BAR_PX = 6
/** Those of the objective that is drawn, as far as they are in sight. */
const drawnStretches = computed(() =>
  broken
    .filter(s => s.objective === judged.value.index && s.toS > span.fromS && s.fromS < span.toS)
    .map(s => ({ ...s, fromS: Math.max(s.fromS, span.fromS), toS: Math.min(s.toS, span.toS) })),
)
const top = computed(() => places.value[0]?.top ?? 0)
const offByStyle = (p: StavePlace) => ({ top: `${p.top}px`, height: `${p.height}px` })
</script>

<template>
  <div
    ref="frame"
    class="stave"
    :class="{ brush }"
    :style="{ minHeight: `${leastHeight(stave.entries.value, hasPlan)}px` }"
    tabindex="0"
    role="group"
    aria-label="Charts of the run: arrow keys read a second, Page Up and Page Down go from mark to mark, + adds a staff"
    @keydown="onKey"
    @mousedown="down"
    @mousemove="move"
    @mouseup="up"
    @mouseleave="leave"
  >
    <div v-if="places.length" class="at" @mousedown.stop @mouseup.stop>
      <label>at <DraftInput
        size="xs"
        class="moment"
        placeholder="–"
        :value="reading.at === undefined ? '' : runTime(reading.at)"
        :accept="readAt"
      /></label>
      <StaveMenu :stave="stave" @added="edited = $event" />
    </div>
    <StaveCanvas
      v-if="still"
      :frame="still"
      :house="house"
      :besides="ownDrawn"
      :seconds="seconds"
      :is-live="isLive"
      :width="width"
      :height="height"
    />
    <template v-for="p in places" :key="p.key">
      <div v-if="p.key === 'offBy'" class="off-by q" :style="offByStyle(p)">off by</div>
      <StaffHeading
        v-else-if="p.key === 'users'"
        v-model:edited="edited"
        v-bind="heading(p)"
        title="Users"
        :of="ofWhat('most in window', hasPlan ? 'planned, present' : 'present')"
      >
        <span v-if="hasPlan" class="legend"><i class="dash" />planned<b class="plantx">{{
          headings.planned === undefined ? '–' : count(headings.planned)
        }}</b></span>
        <span class="legend"><i class="ink" />present<b>{{ headings.present === undefined ? '–' : count(headings.present) }}</b></span>
        <span
          v-if="headings.unknown"
          class="legend"
        ><i class="dots" />unknown<b class="brick">{{ count(headings.unknown) }}</b></span>
      </StaffHeading>
      <StaffHeading
        v-else-if="p.key === 'objective'"
        v-model:edited="edited"
        v-bind="heading(p)"
        title="Answered in, s"
        :of="`${judgedName}, ${ofWhat('window', 'each second')}`"
      >
        <UButton
          size="xs"
          variant="link"
          class="scale"
          :aria-pressed="isLog"
          aria-label="Times on a logarithmic axis"
          :title="isLog ? 'Times on an even axis' : 'Times on a logarithmic axis'"
          @click="isLog = !isLog"
        >
          {{ isLog ? 'even' : 'log' }}
        </UButton>
        <template v-if="judged.isPlain"><span
          v-for="percentile in ['p99', 'p95', 'p50'] as const"
          :key="percentile"
          class="legend"
        ><i :class="percentile === judged.inked ? 'ink' : 'thin'" />{{ percentile }}<b>{{ timeText(headings[percentile]) }}</b></span></template>
        <span
          v-else
          class="legend"
        ><i class="ink" />{{ objective!.metric }}<b>{{ timeText(headings.own) }}</b></span>
      </StaffHeading>
      <StaffHeading
        v-else-if="p.key === 'objectiveByLocation'"
        v-model:edited="edited"
        v-bind="heading(p)"
        title="p95, s"
        :of="`${judgedName}, by location`"
      >
        <span class="legend"><button class="arrow" aria-label="Emphasise the location before" @click="moveInked(-1)">‹</button><LocationCode :code="run.document.plan.locations[inked]!.code" /><button
          class="arrow"
          aria-label="Emphasise the next location"
          @click="moveInked(1)"
        >
          ›</button><b>{{ timeText(headings.there) }}</b></span>
      </StaffHeading>
      <StaffHeading
        v-else-if="p.key === 'traffic'"
        v-model:edited="edited"
        v-bind="heading(p)"
        title="Per second"
        :of="ofWhat('sent; failed in all', 'sent, failed')"
      >
        <span class="legend"><i class="ink" />sent<b>{{ headings.sent === undefined ? '–' : rate(headings.sent) }}</b></span>
        <span class="legend"><i class="block" />failed<b :class="{ brick: headings.failed }">{{
          headings.failed === undefined ? '–' : count(headings.failed)
        }}</b></span>
      </StaffHeading>
      <StaffHeading
        v-else-if="p.entry.target"
        v-model:edited="edited"
        v-bind="heading(p)"
        :title="p.entry.target.length > 1 ? 'Target’s own' : p.entry.target[0]!"
        :of="target.ofWhich(p.entry as TargetEntry)"
      >
        <span
          v-for="l in target.told(p.entry as TargetEntry)"
          :key="l.name"
          class="legend"
          :class="{ stale: target.isStale(p.entry as TargetEntry) }"
        >
          <template v-if="target.isSplit(p.entry as TargetEntry)">
            <button
              class="arrow"
              aria-label="Emphasise the line before"
              @click="target.moveInked(p.entry as TargetEntry, -1)"
            >‹</button><span class="clip" :title="l.name">{{ l.name }}</span><button
              class="arrow"
              aria-label="Emphasise the next line"
              @click="target.moveInked(p.entry as TargetEntry, 1)"
            >›</button>
          </template>
          <template v-else><i :class="l.isInked ? 'ink' : 'thin'" /><span class="clip" :title="l.name">{{ l.name }}</span></template>
          <b :class="{ brick: l.isOver }">{{ l.value }}</b>
        </span>
      </StaffHeading>
      <StaffHeading
        v-else
        v-model:edited="edited"
        v-bind="heading(p)"
        :title="p.entry.own ? titleOf(p.entry.own) : p.entry.key"
        :of="p.entry.own ? own.ofWhich(p.entry as OwnEntry) : (p.entry.problem ?? '')"
      >
        <template v-if="p.entry.own">
          <span v-for="l in own.toldIn(p.entry as OwnEntry)" :key="l.value" class="legend">
            <template v-if="p.entry.own.split && own.told(p.entry.own).length > 1">
              <button
                class="arrow"
                aria-label="Emphasise the line before"
                @click="own.moveInked(p.entry as OwnEntry, -1)"
              >‹</button><span class="clip" :title="l.name">{{ l.name }}</span><button
                class="arrow"
                aria-label="Emphasise the next line"
                @click="own.moveInked(p.entry as OwnEntry, 1)"
              >›</button>
            </template>
            <template v-else><i :class="l.isInked ? 'ink' : 'thin'" /><span class="clip" :title="l.name">{{ l.name }}</span></template>
            <b :class="{ brick: isOver(p.entry.own, own.valueIn(p.entry.own, l.value)) }">{{
              ownValueText(p.entry.own, own.valueIn(p.entry.own, l.value))
            }}</b>
          </span>
          <span v-if="problem" class="brick clip" role="alert" :title="problem.remedy">{{ problem.sentence }}</span>
        </template>
      </StaffHeading>
    </template>
    <span
      v-for="e in ends"
      :key="e.code"
      class="line-end"
      :class="{ on: e.i === inked }"
      :style="{ top: `${e.top}px` }"
      :title="`${e.code}: ${time(e.ms).join(' ')}`"
    ><LocationCode :code="e.code" /></span>
    <template v-if="placeOf('objective')">
      <div
        v-for="s in drawnStretches"
        :key="s.fromS"
        class="broken"
        :class="{ hollow: !s.judged }"
        :style="{
          left: `${pxAt(s.fromS)}px`,
          width: `${Math.max(2, pxAt(s.toS) - pxAt(s.fromS))}px`,
          top: `${placeOf('objective')!.top + placeOf('objective')!.height - BAR_PX}px`,
        }"
      />
    </template>
    <template v-if="places.length">
      <i v-for="(m, i) in marks" :key="i" class="mark" :style="{ left: `${pxAt(m.at)}px`, top: `${top}px` }" />
      <NowRule v-if="isLive" :span="span" :width="innerWidth" :left="LEFT" :style="{ top: `${top}px` }" />
      <div v-if="isRead" class="cursor" :style="{ left: `${pxAt(reading.at!)}px`, top: `${top}px` }">
        <span class="moment-label" :class="{ pinned: reading.pinned }" :style="{ transform: labelShift }">{{ runTime(reading.at!) }}<span v-for="m in readMarks" :key="m.says" class="says"> · {{ m.says }}</span></span>
      </div>
      <div
        v-if="shown"
        class="window"
        :style="{
          left: `${pxAt(shown.fromS)}px`,
          width: `${pxAt(shown.toS) - pxAt(shown.fromS)}px`,
          top: `${top}px`,
        }"
      />
      <UButton
        v-if="zoom || (chosen && shown && !dragging)"
        size="xs"
        variant="link"
        class="zoom"
        :style="{ right: `${RIGHT + 2}px`, top: `${top + 1}px` }"
        @mousedown.stop
        @mouseup.stop
        @click="zoom = zoom ? undefined : chosen"
      >
        {{ zoom ? 'whole run' : 'zoom to the window' }} <UKbd>z</UKbd>
      </UButton>
    </template>
  </div>
</template>

<style scoped>
.at {
  position: absolute;
  left: 0;
  top: 1px;
  z-index: 2;
  display: flex;
  gap: 5px;
  align-items: center;
  font-size: 11.5px;
  color: var(--quiet);
}
.at label {
  display: flex;
  gap: 4px;
  align-items: center;
}
.mark {
  position: absolute;
  width: 7px;
  height: 7px;
  margin-left: -3.5px;
  margin-top: -8px;
  border-radius: 50%;
  border: 1.2px solid var(--quiet);
  pointer-events: none;
}
.zoom {
  position: absolute;
  z-index: 2;
  height: 18px;
  padding: 0 4px;
  font-size: 11.5px;
  background: var(--panel);
}
.says {
  font-weight: 450;
}
.moment {
  width: 62px;
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
.moment-label {
  position: absolute;
  top: -19px;
  left: 0;
  padding: 0 6px;
  max-width: 420px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
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
  flex: 1 0 auto;
  overflow: hidden;
}
.brush {
  cursor: crosshair;
}
.off-by {
  position: absolute;
  left: 0;
  width: 132px;
  display: flex;
  align-items: center;
  justify-content: flex-end;
  font-size: 11.5px;
  pointer-events: none;
}
.scale {
  position: absolute;
  top: 14px;
  left: 106px;
  padding: 0;
  height: 14px;
  font-size: 11px;
}
.stale,
.stale b {
  color: var(--plantx);
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

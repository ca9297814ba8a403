<script setup lang="ts">
/**
 * The corners of one group's level, dragged with the pointer or moved with arrow keys. One drag is one change to undo.
 */
import { BY_USERS, LEVEL_UNITS } from '~~/core/load/drive'
import { printDuration } from '~~/core/load/phrase'
import type { LoadProfile } from '~~/core/load/profile'
import { profileInUsers } from '~~/core/plan/expected'
import { count } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { groupOf } from '~~/core/plan/in-plan'
import { present } from '~~/core/values/present'

const { letter, place, height, scale } = defineProps<{
  letter: string
  /** Where a moment is drawn, and where a number of users above what lies below at a moment. */
  place: (ms: number) => string
  height: (users: number, ms: number) => string
  scale: () => { perMs: number, perUser: number }
}>()
const store = usePlan()
/** Dragged durations snap to this, ms. */
const SNAP_MS = 500

const group = computed(() => store.plan?.groups.find(g => g.letter === letter))
const rate = computed(() => (group.value?.drive ?? BY_USERS).kind !== 'users')
const unit = computed(() => LEVEL_UNITS[(group.value?.drive ?? BY_USERS).kind])
/** While a corner is dragged the plan changes with it; all of that is one step to undo. */
let dragged: { index: number, x: number, y: number, before: LoadProfile } | undefined

const corners = computed(() => {
  if (!group.value) return []
  const inUsers = profileInUsers(
    group.value,
    store.view?.journeys.find(j => j.id === group.value?.journeyId),
  )
  let at = group.value.profile.startDelayMs
  return group.value.profile.segments.map((segment, index) => {
    at += segment.overMs
    return { index, atMs: at, to: segment.to, users: inUsers.segments[index]!.to, overMs: segment.overMs }
  })
})

/**
 * A corner moved by a number of ms and levels: the stretch before it grows or shrinks, what follows keeps its length. A
 * level that was held stays held.
 */
function moved(profile: LoadProfile, index: number, ms: number, levels: number): LoadProfile {
  const segments = profile.segments.map(s => ({ ...s }))
  const corner = segments[index]!
  corner.overMs = Math.max(0, Math.round((corner.overMs + ms) / SNAP_MS) * SNAP_MS)
  const to = Math.max(0, rate.value ? Number((corner.to + levels).toFixed(1)) : Math.round(corner.to + levels))
  const was = corner.to
  for (let i = index; i < segments.length && segments[i]!.to === was; i++) segments[i]!.to = to
  for (let i = index - 1; i >= 0 && corner.overMs > 0 && was === profile.segments[i]!.to; i--) segments[i]!.to = to
  return { ...profile, segments }
}

function change(profile: LoadProfile, along?: object): void {
  store.edit((p) => {
    groupOf(p, letter).profile = profile
  }, along)
}

const profile = () => present(group.value, 'the group whose load this is').profile

function down(event: PointerEvent, index: number): void {
  // A pointer goes down on an element.
  ;(event.target as HTMLElement).setPointerCapture(event.pointerId)
  dragged = { index, x: event.clientX, y: event.clientY, before: profile() }
}

function drag(event: PointerEvent): void {
  if (!dragged) return
  const { perMs, perUser } = scale()
  const corner = corners.value[dragged.index]!
  // Where the level is no number of users, a user's height stands for as much of the rate as it takes.
  const perLevel = rate.value && corner.users > 0 ? corner.to / corner.users : 1
  const profile = moved(
    dragged.before,
    dragged.index,
    (event.clientX - dragged.x) / perMs,
    ((dragged.y - event.clientY) / perUser) * perLevel,
  )
  change(profile, dragged)
}

function up(): void {
  dragged = undefined
}

function onKey(event: KeyboardEvent, index: number): void {
  const step = event.shiftKey ? 10 : 1
  const by: Record<string, [number, number]> = {
    ArrowLeft: [-1000 * step, 0],
    ArrowRight: [1000 * step, 0],
    ArrowUp: [0, step],
    ArrowDown: [0, -step],
  }
  const [ms, levels] = by[event.key] ?? []
  if (ms === undefined || levels === undefined) return
  event.preventDefault()
  change(moved(profile(), index, ms, levels))
}
</script>

<template>
  <div>
    <button
      v-for="c in corners"
      :key="c.index"
      class="handle"
      :style="{
        left: place(c.atMs),
        bottom: height(c.users, c.atMs),
        borderColor: `var(--g${((letter.charCodeAt(0) - 65) % 8) + 1})`,
      }"
      :aria-label="`Corner ${c.index + 1} of group ${letter}: ${count(c.to)} ${unit} at ${runTime(c.atMs / 1000)}, after ${printDuration(c.overMs)}`"
      :title="`${c.to} ${unit} at ${runTime(c.atMs / 1000)}: drag, or arrow keys`"
      @pointerdown="down($event, c.index)"
      @pointermove="drag"
      @pointerup="up"
      @pointercancel="up"
      @keydown="onKey($event, c.index)"
    />
  </div>
</template>

<style scoped>
.handle {
  position: absolute;
  width: 10px;
  height: 10px;
  transform: translate(-50%, 50%);
  border: 2px solid;
  background: var(--panel);
  border-radius: 2px;
  cursor: move;
  touch-action: none;
  z-index: 3;
  padding: 0;
}
.handle:hover,
.handle:focus-visible {
  background: var(--sel);
}
</style>

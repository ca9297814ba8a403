<script setup lang="ts">
/** What the load amounts to, and the moment under the cursor. */
import { fastestStartRate, userHoursOf } from '~~/core/load/profile'
import { expectedWork } from '~~/core/plan/expected'
import { peakMoment, plannedAt } from '~~/core/plan/peak'
import { count } from '~~/core/values/said-figures'
import { duration, runTime } from '~/format/moments'

const { cursorMs, lengthS } = defineProps<{ cursorMs: number | undefined, lengthS: number }>()
const emit = defineEmits<{ shape: [phrase: string], scale: [] }>()
const store = usePlan()
// It is drawn only where there is a plan.
const inUsers = computed(() => store.inUsers!)
const peak = computed(() => peakMoment(inUsers.value))
const userHours = computed(() => inUsers.value.groups.reduce((sum, g) => sum + userHoursOf(g.profile), 0))
const fastest = computed(() => Math.max(0, ...inUsers.value.groups.map(g => fastestStartRate(g.profile))))
const work = computed(() =>
  (store.plan?.groups ?? [])
    .map(g => expectedWork(g, store.view?.journeys.find(j => j.id === g.journeyId)))
    .reduce((sum, w) => ({ passes: sum.passes + w.passes, requests: sum.requests + w.requests }), {
      passes: 0,
      requests: 0,
    }),
)

/** Ready-made phrases: written into the level of the chosen group, to be changed there. */
const SHAPES = {
  stairs: 'stairs → 80 in 4 steps of 2 min with 15 s ramps, → 0 in 30 s',
  burst: '→ 40 in 30 s, hold 2 min, burst → 120 for 30 s with 5 s ramps, hold 2 min, → 0 in 15 s',
  wave: '→ 60 in 30 s, wave ± 30 every 4 min for 12 min, → 0 in 30 s',
  soak: 'soak 40 for 4 h with 10 min ramps',
} as const
const shape = ref('')
watch(shape, (name) => {
  if (name === '') return
  // The list offers these alone.
  emit('shape', SHAPES[name as keyof typeof SHAPES])
  shape.value = ''
})
</script>

<template>
  <div class="bandh">
    <h2>Load</h2>
    <span><b class="planned">{{ count(peak.users) }} users</b> at peak, {{ runTime(peak.atMs / 1000) }}</span>
    <span class="q">{{ duration(lengthS * 1000) }} in all</span>
    <span class="q">{{ userHours.toFixed(userHours < 10 ? 1 : 0) }} user-hours</span>
    <span class="q">{{
      fastest === Infinity ? 'some start at once' : `fastest start ${fastest.toFixed(1)} users/s`
    }}</span>
    <span class="q">about {{ count(work.passes) }} passes, {{ count(work.requests) }} requests</span>
    <PickOne
      v-model="shape"
      size="xs"
      variant="ghost"
      aria-label="Ready-made level for the chosen group"
      :disabled="!store.plan!.groups.length"
      :items="[
        { value: '', label: 'shapes…' },
        ...Object.entries(SHAPES).map(([name, _]) => ({ value: name, label: name })),
      ]"
    />
    <UButton size="xs" variant="ghost" :disabled="!peak.users" @click="emit('scale')">scale…</UButton>
    <span class="spring" />
    <span
      v-if="cursorMs !== undefined"
      class="q"
    >at <b class="ink">{{ runTime(cursorMs / 1000) }}</b> <span class="planned">{{ count(plannedAt(inUsers, cursorMs)) }} users</span></span>
  </div>
</template>

<style scoped>
.bandh {
  display: flex;
  gap: 14px;
  align-items: center;
  white-space: nowrap;
  font-size: 12.5px;
  overflow: hidden;
}
.ink {
  color: var(--ink);
}
.spring {
  flex: 1;
}
</style>

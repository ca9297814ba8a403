<script setup lang="ts">
/** The fleet: a lane per location, strays apart in brick. A machine opens at an address of its own. */
import { clockTime, duration } from '~/format/moments'

/** Stretches of time a lane can show. */
const SPANS = [
  { word: '4 min', pastMs: 3 * 60_000, aheadMs: 60_000, stepMin: 1 },
  { word: '30 min', pastMs: 10 * 60_000, aheadMs: 20 * 60_000, stepMin: 5 },
] as const
const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: fleet, load } = read('fleet')
const spanAt = ref(0)
const span = computed(() => SPANS[spanAt.value]!)
const marks = computed(() => {
  const first = -span.value.pastMs / 60_000
  return Array.from(
    { length: (span.value.pastMs + span.value.aheadMs) / 60_000 / span.value.stepMin + 1 },
    (_, i) => first + i * span.value.stepMin,
  )
})
let loading: Promise<unknown> | undefined
let again = false
/** One question at a time, and one more after it, however often the fleet changes meanwhile. */
function loadSoon(): void {
  if (loading) {
    again = true
    return
  }
  loading = load().finally(() => {
    loading = undefined
    if (again) {
      again = false
      loadSoon()
    }
  })
}
live.onNews((news) => {
  if (news.kind === 'fleet' || news.kind === 'run') loadSoon()
})
const shown = computed(() =>
  fleet.value?.locations.map(l => ({
    ...l,
    machines: l.machines.filter(m => m.goneAt === undefined || m.goneAt > (fleet.value?.now ?? 0) - span.value.pastMs),
  })),
)
const silent = computed(() => fleet.value?.ways.filter(w => w.silent) ?? [])
const KINDS = { machine: 'a machine', disk: 'a disk', address: 'an address' }
const act = (carryOut: () => Promise<unknown>) =>
  guarded(async () => {
    await carryOut()
    await load()
  })
const look = () => act(() => api('lookForStrays'))
useActs([
  {
    key: 'w',
    says: 'Wider or narrower',
    act: () => {
      spanAt.value = 1 - spanAt.value
    },
  },
  { key: 'r', needs: 'operator', says: 'Ask every provider now', act: () => void look() },
])
useHead({ title: 'Fleet · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead>
      <span class="q s12">{{ duration(span.pastMs) }} back, {{ duration(span.aheadMs) }} ahead</span>
      <UButton size="sm" @click="spanAt = 1 - spanAt">
        {{ spanAt === 0 ? 'Wider' : 'Narrower' }} <UKbd>w</UKbd>
      </UButton>
      <UButton v-needs="'operator'" size="sm" @click="look">Look for strays <UKbd>r</UKbd></UButton>
    </FleetHead>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <p v-for="w in silent" :key="w.id" class="brick said"><AGlyph name="inTheWay" /> {{ w.silent }}</p>
      <p v-for="f in fleet?.faults" :key="f.what" class="brick said">
        <AGlyph name="inTheWay" word="fault" /> {{ f.what }}: {{ f.sentence }}
        <span class="q">{{ f.times === 1 ? '' : `${f.times} times, the last ` }}at {{ clockTime(f.at) }}</span>
      </p>
      <div v-if="shown?.length || fleet?.strays.length" class="panel">
        <div class="axis" aria-hidden="true">
          <span
            v-for="m in marks"
            :key="m"
            class="q"
            :style="{ left: `${((m * 60_000 + span.pastMs) / (span.pastMs + span.aheadMs)) * 100}%` }"
          >{{ m === 0 ? 'now' : `${m > 0 ? '+' : '−'}${Math.abs(m)} min` }}</span>
        </div>
        <section v-if="fleet?.strays.length" class="strays brick" aria-label="Strays">
          <div v-for="s in fleet.strays" :key="s.provider + s.ref" class="stray">
            <AGlyph name="stray" /><b class="ref">{{ s.ref.replace(/^attached /, '') }}</b>
            <span class="clip">{{ KINDS[s.kind] }} in {{ s.region }}, {{ s.provider }}:
              <template v-if="s.why === 'unknown'">it carries our label, and no run knows it. It costs until it is released.</template><template v-else>it was given back and is still there; it is being released again.</template></span>
            <span class="for">for {{ duration(live.controllerNow - s.since) }}</span>
            <UButton
              v-needs="'keeper'"
              size="sm"
              color="error"
              @click="act(() => api('releaseStray', { provider: s.provider, ref: s.ref }))"
            >
              Release it
            </UButton>
          </div>
        </section>
        <FleetLane
          v-for="l in shown"
          :key="l.code + l.provider + l.region"
          :lane="l"
          :way="fleet?.ways.find(w => w.id === l.provider)"
          :now="live.controllerNow"
          :past-ms="span.pastMs"
          :ahead-ms="span.aheadMs"
          @open="goTo(`/fleet/machines/${encodeURIComponent($event.id)}`)"
        />
      </div>
      <p v-else-if="shown" class="q">
        No location yet: they come with the first plan. Or
        <NuxtLink to="/fleet/ways" class="u">invite a machine</NuxtLink>.
      </p>
      <p v-else-if="!problem" class="q">Asking the providers…</p>
    </div>
  </div>
</template>

<style scoped>
.said {
  margin-bottom: 6px;
}
.axis {
  position: relative;
  height: 22px;
  margin: 0 10px 0 524px;
  font-size: 11px;
  line-height: 22px;
}
.axis span {
  position: absolute;
  transform: translateX(-50%);
  white-space: nowrap;
}
.axis span:first-child {
  transform: none;
}
.axis span:last-child {
  transform: translateX(-100%);
}
.strays {
  border-bottom: 1px solid var(--hair);
  background: var(--brickbg);
}
.stray {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 5px 10px;
  font-size: 12.5px;
}
.stray .clip {
  flex: 1;
}
.ref,
.for {
  white-space: nowrap;
}
</style>

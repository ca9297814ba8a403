<script setup lang="ts">
/**
 * Beside the panels: the capacity with its interval, what binds, headroom and think time moving the recommendation,
 * other types by money, history, and the plans that use it.
 */
import type { CapacityView } from '~~/api/views'
import { bothMargins, recommended, USUAL_HEADROOM, useOf } from '~~/core/capacity/capacity'
import { WHY_INCONCLUSIVE } from '~~/core/capacity/estimate'
import { SIGNAL_LIMITS, SIGNAL_PHRASES } from '~~/core/capacity/signals'
import { carries, ORIGIN_WORDS, signalValue } from '~/format/capacity'
import { bytes, count, euro } from '~/format/figures'
import { dayTime } from '~/format/moments'

const { view } = defineProps<{ view: CapacityView }>()
const emit = defineEmits<{ given: [users: number], changed: [] }>()
const live = useLive()
const { problem, guarded } = useGuarded()
const { armed, press } = useTwice()
const c = computed(() => view.line.capacity)
const headroom = ref(USUAL_HEADROOM * 100)
const thinkS = ref(c.value.thinkMs / 1000)
watch(
  () => c.value.id,
  () => {
    thinkS.value = c.value.thinkMs / 1000
  },
)
/** Users at this headroom and think time: where the fullest signal is full. */
const give = computed(() => {
  if (c.value.outcome === 'inconclusive') return 0
  if (Math.abs(thinkS.value * 1000 - c.value.thinkMs) < 1) return recommended(c.value, headroom.value / 100)
  const fullest = Math.max(
    0,
    ...Object.values(useOf(c.value, { thinkMs: Math.max(0, thinkS.value * 1000) }, headroom.value / 100)),
  )
  return fullest > 0 ? Math.floor(1 / fullest) : 0
})
watch(give, users => emit('given', users), { immediate: true })
const perSecond = computed(() => give.value / Math.max(0.001, c.value.responseMs / 1000 + Math.max(0, thinkS.value)))
const best = computed(() => Math.max(0, ...view.comparison.map(l => l.usersPerMoneyHour ?? 0)))
const most = computed(() => Math.max(1, ...view.history.map(l => l.capacity.upper ?? l.capacity.users)))
async function drop(): Promise<void> {
  if (await guarded(() => api(`capacities/${c.value.id}/drop`, 'POST'))) emit('changed')
}
</script>

<template>
  <section class="panel pad" aria-label="Capacity">
    <ProblemNote v-if="problem" :problem="problem" />
    <p class="q s12">
      One <b>{{ c.machineType }}</b> with users of
      <NuxtLink :to="`/journeys/${c.journeyId}`" class="u"
      ><b>{{ c.journeyName }}</b></NuxtLink
      >, {{ c.network === 'direct' ? 'no network added' : c.network }}
    </p>
    <p class="fig" :class="{ q: c.outcome === 'inconclusive' }">
      {{ carries(c) }} <span v-if="c.outcome !== 'inconclusive'" class="unit">users</span>
    </p>
    <p v-if="c.outcome === 'inconclusive'">
      <b>{{ WHY_INCONCLUSIVE[c.why!].sentence }}</b> {{ WHY_INCONCLUSIVE[c.why!].next }}
    </p>
    <p v-else-if="c.outcome === 'atLeast'">
      No signal came near its limit. More may be borne, and nobody has seen it: raise what may be tried, or take the
      built-in sink.
    </p>
    <p v-else-if="c.binds">
      {{ SIGNAL_PHRASES[c.binds].replace(/^./, x => x.toUpperCase()) }} binds: it meets its limit of
      {{ signalValue(c.binds, SIGNAL_LIMITS[c.binds]) }} first.
    </p>
    <p v-if="view.line.stale.length" class="plantx">Stale: {{ view.line.stale.join(', ') }}.</p>
    <NuxtLink
      :to="`/fleet/capacity?again=${c.id}`"
      class="btn sm again"
      :class="{ act: view.line.stale.length || c.outcome === 'inconclusive' }"
    >Calibrate again…</NuxtLink
    >
    <p v-if="c.spread !== undefined" class="q s12">
      {{ c.machines }} siblings differ by {{ (c.spread * 100).toFixed(1) }} % (standard deviation); the slowest counts.
    </p>
  </section>

  <section v-if="c.outcome !== 'inconclusive'" class="panel pad" aria-label="Recommendation">
    <h2>
      Give it <b class="planned">{{ count(give) }} users</b> <span class="q">{{ perSecond.toFixed(perSecond < 10 ? 1 : 0) }} passes/s</span>
    </h2>
    <label class="line"
    >Headroom <input v-model.number="headroom" type="range" min="0" max="60" step="5" aria-label="Headroom, %"> <span>{{ headroom }} %</span></label
    >
    <p v-if="c.binds" class="q s12">
      Limit and headroom together: {{ signalValue(c.binds, SIGNAL_LIMITS[c.binds]) }} × {{ 100 - headroom }} % =
      <b>{{ signalValue(c.binds, bothMargins(SIGNAL_LIMITS[c.binds], headroom / 100)) }}</b> of
      {{ SIGNAL_PHRASES[c.binds] }}, from the lower end of the interval.
    </p>
    <label class="line"
    >Think time per pass
      <input
        v-model.number="thinkS"
        class="field"
        type="number"
        min="0"
        step="0.5"
        aria-label="Think time per pass, s"
      > <span
      >s <span class="q">(calibrated with {{ (c.thinkMs / 1000).toFixed(1) }})</span></span
      ></label
    >
  </section>

  <section class="panel pad" aria-label="What it costs the generator">
    <h2>What users cost it</h2>
    <table class="table">
      <tbody>
        <tr v-if="c.costs.cpuUsPerPass !== undefined">
          <td>CPU</td>
          <td class="num">
            {{ (c.costs.cpuUsPerPass / 1000).toFixed(2) }} ms per pass, {{ count(c.costs.cpuUsPerRequest!) }} µs per
            request
          </td>
        </tr>
        <tr v-if="c.costs.bytesPerPass !== undefined">
          <td>Received</td>
          <td class="num">{{ bytes(c.costs.bytesPerPass) }} per pass</td>
        </tr>
        <tr v-if="c.costs.memoryKbPerUser !== undefined">
          <td>Memory</td>
          <td class="num">{{ c.costs.memoryKbPerUser.toFixed(0) }} kB per user</td>
        </tr>
        <tr v-if="c.costs.socketsPerUser !== undefined">
          <td>Sockets</td>
          <td class="num">{{ c.costs.socketsPerUser.toFixed(2) }} per user</td>
        </tr>
        <tr>
          <td>A pass</td>
          <td class="num">
            {{ (c.responseMs / 1000).toFixed(2) }} s answers, {{ (c.thinkMs / 1000).toFixed(1) }} s think time
          </td>
        </tr>
        <tr>
          <td>Known</td>
          <td class="num">
            {{ ORIGIN_WORDS[c.origin] }}, {{ dayTime(c.at, live.controllerNow)
            }}<template v-if="c.target">, {{ c.target }}</template
            ><template v-if="c.runId"
            >, <NuxtLink :to="`/runs/${c.runId}`" class="u">run {{ c.runId }}</NuxtLink></template
            >
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="c.note" class="q s12">{{ c.note }}</p>
  </section>

  <section v-if="view.comparison.length > 1" class="panel pad" aria-label="Other types">
    <h2>Per money, against others</h2>
    <table class="table">
      <thead>
        <tr>
          <th>On</th>
          <th>Network</th>
          <th class="num">Give</th>
          <th class="num">Users per €/h</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="l in [...view.comparison].sort((a, b) => (b.usersPerMoneyHour ?? 0) - (a.usersPerMoneyHour ?? 0))"
          :key="l.capacity.id"
        >
          <td>
            <NuxtLink :to="`/fleet/capacity/${l.capacity.id}`" :class="l.capacity.id === c.id ? '' : 'u'">{{
              l.capacity.machineType
            }}</NuxtLink> <span v-if="l.capacity.perHour !== undefined" class="q">{{ euro(l.capacity.perHour) }}/h</span>
          </td>
          <td class="clip">{{ l.capacity.network === 'direct' ? 'none' : l.capacity.network }}</td>
          <td class="num">{{ count(l.recommended) }}</td>
          <td class="num">
            <span v-if="l.usersPerMoneyHour" class="bar"
            ><i :style="{ width: `${(l.usersPerMoneyHour / best) * 100}%` }"
            /></span>
            {{ l.usersPerMoneyHour ? count(l.usersPerMoneyHour) : '–' }}
          </td>
        </tr>
      </tbody>
    </table>
  </section>

  <section v-if="view.history.length > 1" class="panel pad" aria-label="History">
    <h2>As it moved</h2>
    <table class="table">
      <tbody>
        <tr v-for="l in view.history" :key="l.capacity.id">
          <td>
            <NuxtLink :to="`/fleet/capacity/${l.capacity.id}`" :class="l.capacity.id === c.id ? '' : 'u'">{{
              dayTime(l.capacity.at, live.controllerNow)
            }}</NuxtLink>
          </td>
          <td class="q">release {{ l.capacity.release }}, journey v{{ l.capacity.journeyVersion }}</td>
          <td class="num">
            <span class="span"
            ><i
              :style="{
                left: `${(l.capacity.lower / most) * 100}%`,
                width: `${Math.max(1.5, (((l.capacity.upper ?? l.capacity.users) - l.capacity.lower) / most) * 100)}%`,
              }"
            /></span>
            {{ l.capacity.outcome === 'inconclusive' ? 'not known' : count(l.capacity.users) }}
          </td>
        </tr>
      </tbody>
    </table>
  </section>

  <section class="panel pad" aria-label="Used by">
    <h2>Plans that use it</h2>
    <p v-if="view.plans.length">
      <NuxtLink v-for="p in view.plans" :key="p.id" :to="`/plans/${p.id}`" class="u plan">{{ p.name }}</NuxtLink>
    </p>
    <p v-else class="q s12">No plan has its journey on machines of {{ c.provider }}.</p>
    <button class="btn sm broken drop" @click="press(drop)">
      {{ armed ? 'Press again: it is gone for good' : 'Take it away…' }}
    </button>
  </section>
</template>

<style scoped>
.pad {
  padding: 8px 12px;
  display: grid;
  gap: 4px;
}
.fig {
  font-size: 22px;
  line-height: 28px;
  font-weight: 620;
  font-stretch: 112%;
}
.unit {
  font-size: 13px;
  font-weight: 450;
  color: var(--quiet);
}
.line {
  display: grid;
  grid-template-columns: 118px 100px 1fr;
  gap: 8px;
  align-items: center;
  font-size: 12.5px;
}
.u {
  text-decoration: underline;
  text-underline-offset: 2px;
}
.plan + .plan {
  margin-left: 12px;
}
.bar {
  display: inline-block;
  width: 44px;
  height: 7px;
  margin-right: 4px;
  background: var(--sunk);
  vertical-align: 1px;
}
.bar i {
  display: block;
  height: 7px;
  background: var(--ink);
}
.span {
  display: inline-block;
  position: relative;
  width: 70px;
  height: 7px;
  background: var(--sunk);
  vertical-align: 1px;
}
.span i {
  position: absolute;
  top: 0;
  height: 7px;
  background: var(--ink);
}
.again {
  justify-self: start;
}
.drop {
  justify-self: start;
  margin-top: 6px;
}
</style>

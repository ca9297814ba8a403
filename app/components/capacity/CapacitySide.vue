<script setup lang="ts">
/**
 * Beside the panels: the capacity with its interval, what binds, headroom and think time moving the recommendation,
 * other types by money, history, and the plans that use it.
 */
import type { CapacityLine, CapacityView } from '~~/api/views'
import type { ListColumn } from '../marks/list-table'
import { bothMargins, recommended, USUAL_HEADROOM, useOf } from '~~/core/capacity/capacity'
import { WHY_INCONCLUSIVE } from '~~/core/capacity/estimate'
import { SIGNAL_LIMITS, SIGNAL_PHRASES } from '~~/core/capacity/signals'
import { carries, ORIGIN_WORDS, signalValue } from '~/format/capacity'
import { bytes, count, euro } from '~~/core/values/said-figures'
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
  if (await guarded(() => api('dropCapacity', { capacity: c.value.id }))) emit('changed')
}
const COMPARED: ListColumn<CapacityLine>[] = [
  { id: 'type', head: 'On', value: l => l.capacity.machineType },
  { id: 'network', head: 'Network', value: l => (l.capacity.network === 'direct' ? 'none' : l.capacity.network) },
  { id: 'give', head: 'Give', num: true, value: l => l.recommended },
  { id: 'value', head: 'Users per €/h', num: true, value: l => l.usersPerMoneyHour },
]
const HISTORY: ListColumn<CapacityLine>[] = [
  { id: 'at', head: '', value: l => l.capacity.at },
  { id: 'of', head: '', value: l => l.capacity.release },
  { id: 'users', head: '', num: true, value: l => l.capacity.users },
]
/** Where its interval lies on the way to the largest there is. */
const spanOf = ({ lower, upper, users }: CapacityLine['capacity']) => ({
  left: `${(lower / most.value) * 100}%`,
  width: `${Math.max(1.5, (((upper ?? users) - lower) / most.value) * 100)}%`,
})
</script>

<template>
  <section class="panel pad" aria-label="Capacity">
    <ProblemNote v-if="problem" :problem="problem" />
    <p class="q s12">
      One <b>{{ c.machineType }}</b> with users of
      <NuxtLink
        :to="`/journeys/${c.journeyId}`"
        class="u"
      ><b>{{ c.journeyName }}</b></NuxtLink>, {{ c.network === 'direct' ? 'no network added' : c.network }}
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
    <UButton
      :to="`/fleet/capacity?again=${c.id}`"
      size="sm"
      :variant="view.line.stale.length || c.outcome === 'inconclusive' ? 'solid' : undefined"
      class="again"
    >Calibrate again…</UButton>
    <p v-if="c.spread !== undefined" class="q s12">
      {{ c.machines }} siblings differ by {{ (c.spread * 100).toFixed(1) }} % (standard deviation); the slowest counts.
    </p>
  </section>

  <section v-if="c.outcome !== 'inconclusive'" class="panel pad" aria-label="Recommendation">
    <h2>
      Give it <b class="planned">{{ count(give) }} users</b> <span class="q">{{ perSecond.toFixed(perSecond < 10 ? 1 : 0) }} passes/s</span>
    </h2>
    <div class="line">
      <span>Headroom</span> <USlider
        v-model="headroom"
        :min="0"
        :max="60"
        :step="5"
        aria-label="Headroom, %"
      /> <span>{{ headroom }} %</span>
    </div>
    <p v-if="c.binds" class="q s12">
      Limit and headroom together: {{ signalValue(c.binds, SIGNAL_LIMITS[c.binds]) }} × {{ 100 - headroom }} % =
      <b>{{ signalValue(c.binds, bothMargins(SIGNAL_LIMITS[c.binds], headroom / 100)) }}</b> of
      {{ SIGNAL_PHRASES[c.binds] }}, from the lower end of the interval.
    </p>
    <div class="line">
      <span>Think time per pass</span>
      <NumberInput v-model="thinkS" :min="0" :step="0.5" aria-label="Think time per pass, s" /> <span>s <span class="q">(calibrated with {{ (c.thinkMs / 1000).toFixed(1) }})</span></span></div>
  </section>

  <section class="panel pad" aria-label="What it costs the generator">
    <h2>What users cost it</h2>
    <dl class="facts">
      <div v-if="c.costs.cpuUsPerPass !== undefined">
        <dt>CPU</dt>
        <dd>
          {{ (c.costs.cpuUsPerPass / 1000).toFixed(2) }} ms per pass, {{ count(c.costs.cpuUsPerRequest!) }} µs per
          request
        </dd>
      </div>
      <div v-if="c.costs.bytesPerPass !== undefined">
        <dt>Received</dt>
        <dd>{{ bytes(c.costs.bytesPerPass) }} per pass</dd>
      </div>
      <div v-if="c.costs.memoryKbPerUser !== undefined">
        <dt>Memory</dt>
        <dd>{{ c.costs.memoryKbPerUser.toFixed(0) }} kB per user</dd>
      </div>
      <div v-if="c.costs.socketsPerUser !== undefined">
        <dt>Sockets</dt>
        <dd>{{ c.costs.socketsPerUser.toFixed(2) }} per user</dd>
      </div>
      <div>
        <dt>A pass</dt>
        <dd>
          {{ (c.responseMs / 1000).toFixed(2) }} s answers, {{ (c.thinkMs / 1000).toFixed(1) }} s think time
        </dd>
      </div>
      <div>
        <dt>Known</dt>
        <dd>
          {{ ORIGIN_WORDS[c.origin] }}, {{ dayTime(c.at, live.controllerNow)
          }}<template v-if="c.target">, {{ c.target }}</template><template v-if="c.runId">, <NuxtLink :to="`/runs/${c.runId}`" class="u">run {{ c.runId }}</NuxtLink></template>
        </dd>
      </div>
    </dl>
    <p v-if="c.note" class="q s12">{{ c.note }}</p>
  </section>

  <section v-if="view.comparison.length > 1" class="panel pad" aria-label="Other types">
    <h2>Per money, against others</h2>
    <ListTable
      plain
      name="compared"
      :rows="view.comparison"
      :columns="COMPARED"
      :row-key="l => l.capacity.id"
      :sorted-by="{ id: 'value', desc: true }"
    >
      <template #type="{ row }">
        <NuxtLink :to="`/fleet/capacity/${row.capacity.id}`" :class="row.capacity.id === c.id ? '' : 'u'">{{
          row.capacity.machineType
        }}</NuxtLink> <span v-if="row.capacity.perHour !== undefined" class="q">{{ euro(row.capacity.perHour) }}/h</span>
      </template>
      <template #give="{ row }">{{ count(row.recommended) }}</template>
      <template #value="{ row }">
        <span v-if="row.usersPerMoneyHour" class="bar"><i
          :style="{ width: `${(row.usersPerMoneyHour / best) * 100}%` }"
        /></span> {{ row.usersPerMoneyHour ? count(row.usersPerMoneyHour) : '–' }}
      </template>
    </ListTable>
  </section>

  <section v-if="view.history.length > 1" class="panel pad" aria-label="History">
    <h2>As it moved</h2>
    <ListTable plain name="known before" :rows="view.history" :columns="HISTORY" :row-key="l => l.capacity.id">
      <template #at="{ row }">
        <NuxtLink :to="`/fleet/capacity/${row.capacity.id}`" :class="row.capacity.id === c.id ? '' : 'u'">{{
          dayTime(row.capacity.at, live.controllerNow)
        }}</NuxtLink>
      </template>
      <template #of="{ row }">
        <span class="q">release {{ row.capacity.release }}, journey v{{ row.capacity.journeyVersion }}</span>
      </template>
      <template #users="{ row }">
        <span class="span"><i :style="spanOf(row.capacity)" /></span>
        {{ row.capacity.outcome === 'inconclusive' ? 'not known' : count(row.capacity.users) }}
      </template>
    </ListTable>
  </section>

  <section class="panel pad" aria-label="Used by">
    <h2>Plans that use it</h2>
    <p v-if="view.plans.length">
      <NuxtLink v-for="p in view.plans" :key="p.id" :to="`/plans/${p.id}`" class="u plan">{{ p.name }}</NuxtLink>
    </p>
    <p v-else class="q s12">No plan has its journey on machines of {{ c.provider }}.</p>
    <UButton v-needs="'operator'" size="sm" color="error" class="drop" @click="press(drop)">
      {{ armed ? 'Press again: it is gone for good' : 'Take it away…' }}
    </UButton>
  </section>
</template>

<style scoped>
.facts > div {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  padding: 4px 0;
  border-bottom: 1px solid var(--hair);
}
.facts dd {
  text-align: right;
}
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

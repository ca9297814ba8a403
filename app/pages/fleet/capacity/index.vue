<script setup lang="ts">
/**
 * What generators carry: everything that was calibrated or set by hand, what has gone stale, batches under way, and the
 * way to begin one.
 */
import type { CapacitiesView, CapacityLine } from '~~/api/views'
import { ORIGIN_WORDS, carries, wishAgain, type CalibrationPreset } from '~/format/capacity'
import { SIGNAL_PHRASES } from '~~/core/capacity/signals'
import { count, euro } from '~/format/figures'
import { dayTime } from '~/format/moments'

const live = useLive()
const route = useRoute()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read<CapacitiesView>('calibrations')
live.onNews((news) => {
  if (news.kind === 'calibrations' || (news.kind === 'run' && view.value?.batches.some(b => !b.endedAt))) void load()
})
const calibrating = ref(false)
const byHand = ref(false)
const preset = ref<CalibrationPreset>({})
const all = ref(false)

/** The newest of each journey, type and network; older ones on demand. */
const lines = computed(() => {
  const newest = new Map<string, CapacityLine>()
  for (const line of view.value?.capacities ?? []) {
    const { journeyId, provider, machineType, network, id } = line.capacity
    const key = all.value ? id : `${journeyId} ${provider} ${machineType} ${network}`
    if (!newest.has(key)) newest.set(key, line)
  }
  return [...newest.values()].sort(
    (a, b) =>
      a.capacity.journeyName.localeCompare(b.capacity.journeyName) ||
      a.capacity.machineType.localeCompare(b.capacity.machineType),
  )
})
const best = computed(() => Math.max(0, ...lines.value.map(l => l.usersPerMoneyHour ?? 0)))
const networkName = (id: string) =>
  id === 'direct' ? 'none added' : (view.value?.networks.find(n => n.id === id)?.name ?? id)

function calibrate(wish: CalibrationPreset = {}): void {
  preset.value = wish
  calibrating.value = true
}
/** A plan sheet sends here with what it wants measured; a capacity, to have it measured again. */
watch(view, (now, before) => {
  const again = now?.capacities.find(l => l.capacity.id === route.query.again)
  if (again && !before) return calibrate(wishAgain(again.capacity))
  const list = (name: string) =>
    String(route.query[name] ?? '')
      .split(',')
      .filter(Boolean)
  if (now && !before && route.query.journeys)
    calibrate({
      journeys: list('journeys'),
      provider: String(route.query.provider ?? ''),
      types: list('types'),
      networks: list('networks'),
    })
})
const input = useTemplateRef<HTMLInputElement>('input')
const taken = ref<number>()
async function take(file: File | undefined): Promise<void> {
  if (!file) return
  taken.value = undefined
  await guarded(async () => {
    let read: unknown
    try {
      read = JSON.parse(await file.text())
    }
    catch {
      throw new ApiError({
        code: 'json',
        sentence: `${file.name} is not JSON.`,
        remedy: 'Choose a file that was exported here, or by another Vornak.',
      })
    }
    taken.value = (await api<{ taken: number }>('capacities', 'POST', read as object)).taken
  })
  if (input.value) input.value.value = ''
  await load()
}
async function stop(id: number): Promise<void> {
  await guarded(() => api(`calibrations/${id}/stop`, 'POST'))
  await load()
}
useHead({ title: 'Capacity · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead>
      <label class="btn"
      >Import…<input
        ref="input"
        type="file"
        accept=".json,application/json"
        class="sr"
        aria-label="Import capacities from a JSON file"
        @change="take(($event.target as HTMLInputElement).files?.[0])"
      ></label>
      <a class="btn" href="/api/capacities/file.json">Export as JSON</a>
      <button class="btn" :aria-disabled="!view" @click="view && (byHand = true)">By hand…</button>
      <button class="btn act" :aria-disabled="!view" @click="view && calibrate()">Calibrate…</button>
    </FleetHead>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <p v-if="taken !== undefined" class="q" role="status">
        {{
          taken === 0
            ? 'All of them were here already.'
            : `${taken} ${taken === 1 ? 'capacity was' : 'capacities were'} new.`
        }}
      </p>
      <template v-if="view">
        <div v-if="view.batches.some(b => !b.endedAt)" class="batches">
          <BatchPanel
            v-for="b in view.batches.filter(x => !x.endedAt)"
            :key="b.id"
            :batch="b"
            :view="view"
            @stop="stop(b.id)"
          />
        </div>
        <section class="panel pad" aria-label="Capacities">
          <div class="top">
            <h2>What one generator carries</h2>
            <span class="spring" /><label v-if="view.capacities.length > lines.length || all" class="q s12"
            ><input v-model="all" type="checkbox"> earlier ones too</label
            >
          </div>
          <table v-if="lines.length" class="table">
            <thead>
              <tr>
                <th>Journey</th>
                <th>On</th>
                <th>Network</th>
                <th class="num">Users at its limits</th>
                <th>What binds</th>
                <th class="num">Give it</th>
                <th class="num">Users per €/h</th>
                <th>How it is known</th>
                <th />
              </tr>
            </thead>
            <tbody>
              <tr v-for="l in lines" :key="l.capacity.id">
                <td>
                  <NuxtLink :to="`/fleet/capacity/${l.capacity.id}`" class="u"
                  ><b>{{ l.capacity.journeyName }}</b></NuxtLink
                  >
                </td>
                <td>
                  {{ l.capacity.machineType }}
                  <span v-if="l.capacity.perHour !== undefined" class="q">{{ euro(l.capacity.perHour) }}/h</span>
                </td>
                <td>{{ networkName(l.capacity.network) }}</td>
                <td class="num">
                  <span
                    :class="
                      l.capacity.origin === 'calibrated' && l.capacity.outcome !== 'inconclusive'
                        ? 'measured'
                        : 'assumed'
                    "
                  >{{ carries(l.capacity) }}</span
                  >
                </td>
                <td>
                  {{
                    l.capacity.binds
                      ? SIGNAL_PHRASES[l.capacity.binds]
                      : l.capacity.outcome === 'atLeast'
                        ? 'nothing yet'
                        : '–'
                  }}
                </td>
                <td class="num">
                  <b>{{ l.recommended > 0 ? count(l.recommended) : '–' }}</b>
                </td>
                <td class="num">
                  <span v-if="l.usersPerMoneyHour" class="bar"
                  ><i :style="{ width: `${(l.usersPerMoneyHour / best) * 100}%` }"
                  /></span>
                  {{ l.usersPerMoneyHour ? count(l.usersPerMoneyHour) : '–' }}
                </td>
                <td>
                  <span :class="{ struck: l.stale.length }">{{ ORIGIN_WORDS[l.capacity.origin] }}</span> <span class="q">{{ dayTime(l.capacity.at, live.controllerNow) }}</span><span
                    v-if="l.stale.length"
                    class="plantx"
                  >
                    stale: {{ l.stale.join(', ') }}</span
                  >
                </td>
                <td class="num">
                  <button class="btn sm" @click="calibrate(wishAgain(l.capacity))">
                    {{ l.stale.length || l.capacity.outcome === 'inconclusive' ? 'Calibrate again' : 'Again' }}
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="q empty">
            Nothing is calibrated yet: fleets are sized by an assumption, and their runs are qualified at best. A
            calibration takes one machine for about three minutes and finds what it carries before it becomes the
            bottleneck itself.
          </p>
        </section>
        <div v-if="view.batches.some(b => b.endedAt)" class="batches past">
          <BatchPanel
            v-for="b in view.batches.filter(x => x.endedAt).slice(0, 6)"
            :key="b.id"
            :batch="b"
            :view="view"
          />
        </div>
        <CalibrateDialog
          v-model:open="calibrating"
          :view="view"
          :preset="preset"
          @begun="id => navigateTo(`/fleet/capacity/batch-${id}`)"
        />
        <ByHandDialog v-model:open="byHand" :view="view" @saved="load" />
      </template>
      <p v-else-if="!problem" class="q">Reading what is known…</p>
    </div>
  </div>
</template>

<style scoped>
.pad {
  padding: 8px 12px;
}
.top {
  display: flex;
  align-items: center;
  min-height: 24px;
}
.spring {
  flex: 1;
}
.batches {
  display: grid;
  gap: 12px;
  margin-bottom: 12px;
}
.past {
  margin-top: 12px;
  grid-template-columns: repeat(auto-fill, minmax(420px, 1fr));
}
.u {
  text-decoration: underline;
  text-underline-offset: 2px;
}
.struck {
  text-decoration: line-through;
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
.empty {
  max-width: 70ch;
  padding: 8px 0;
}
</style>

<script setup lang="ts">
/**
 * What generators carry: everything that was calibrated or set by hand, what has gone stale, batches under way, and the
 * way to begin one.
 */
import type { BodyOf } from '~~/api/operations'
import type { CapacityLine } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { ORIGIN_WORDS, carries, wishAgain, type CalibrationPreset } from '~/format/capacity'
import { SIGNAL_PHRASES } from '~~/core/capacity/signals'
import { count, euro } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'

const live = useLive()
const route = useRoute()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('capacities')
live.onNews((news) => {
  if (news.kind === 'calibrations' || (news.kind === 'run' && view.value?.batches.some(b => !b.endedAt))) void load()
})
const calibrating = useOpenInAddress('open', 'calibrate')
const byHand = useOpenInAddress('open', 'by-hand')
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
const COLUMNS: ListColumn<CapacityLine>[] = [
  { id: 'journey', head: 'Journey', value: l => l.capacity.journeyName },
  { id: 'type', head: 'On', value: l => l.capacity.machineType },
  { id: 'network', head: 'Network', value: l => networkName(l.capacity.network) },
  { id: 'carries', head: 'Users at its limits', num: true, value: l => l.capacity.users },
  { id: 'binds', head: 'What binds', value: l => l.capacity.binds && SIGNAL_PHRASES[l.capacity.binds] },
  { id: 'give', head: 'Give it', num: true, value: l => l.recommended },
  { id: 'value', head: 'Users per €/h', num: true, value: l => l.usersPerMoneyHour },
  { id: 'known', head: 'How it is known', value: l => ORIGIN_WORDS[l.capacity.origin] },
  { id: 'acts', head: '' },
]
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
const taken = ref<number>()
async function take(file: File): Promise<void> {
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
    // The server holds it against its schema.
    taken.value = (await api('takeCapacities', {}, read as BodyOf<'takeCapacities'>)).taken
  })
  await load()
}
async function stop(id: number): Promise<void> {
  await guarded(() => api('stopCalibration', { calibration: id }))
  await load()
}
useActs([
  { says: 'Calibrate', act: () => calibrate() },
  {
    says: 'Set a capacity by hand',
    act: () => {
      byHand.value = true
    },
  },
])
useHead({ title: 'Capacity · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead>
      <FileButton
        label="Import…"
        says="Import capacities from a JSON file"
        accept=".json,application/json"
        @chosen="take"
      />
      <UButton external :to="hrefTo('capacitiesFile')">Export as JSON</UButton>
      <UButton :aria-disabled="!view" @click="view && (byHand = true)">By hand…</UButton>
      <UButton v-needs="'operator'" variant="solid" :aria-disabled="!view" @click="view && calibrate()">Calibrate…</UButton>
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
            <span class="spring" /><UCheckbox
              v-if="view.capacities.length > lines.length || all"
              v-model="all"
              label="earlier ones too"
            />
          </div>
          <ListTable
            v-if="lines.length"
            name="capacities"
            :rows="lines"
            :columns="COLUMNS"
            :row-key="l => l.capacity.id"
          >
            <template #journey="{ row }">
              <NuxtLink
                :to="`/fleet/capacity/${row.capacity.id}`"
                class="u"
              ><b>{{ row.capacity.journeyName }}</b></NuxtLink>
            </template>
            <template #type="{ row }">
              {{ row.capacity.machineType }}
              <span v-if="row.capacity.perHour !== undefined" class="q">{{ euro(row.capacity.perHour) }}/h</span>
            </template>
            <template #network="{ row }">{{ networkName(row.capacity.network) }}</template>
            <template #carries="{ row }">
              <span
                :class="
                  row.capacity.origin === 'calibrated' && row.capacity.outcome !== 'inconclusive'
                    ? 'measured'
                    : 'assumed'
                "
              >{{ carries(row.capacity) }}</span>
            </template>
            <template #binds="{ row }">
              {{
                row.capacity.binds
                  ? SIGNAL_PHRASES[row.capacity.binds]
                  : row.capacity.outcome === 'atLeast'
                    ? 'nothing yet'
                    : '–'
              }}
            </template>
            <template #give="{ row }">
              <b>{{ row.recommended > 0 ? count(row.recommended) : '–' }}</b>
            </template>
            <template #value="{ row }">
              <span
                v-if="row.usersPerMoneyHour"
                class="bar"
              ><i :style="{ width: `${(row.usersPerMoneyHour / best) * 100}%` }" /></span>
              {{ row.usersPerMoneyHour ? count(row.usersPerMoneyHour) : '–' }}
            </template>
            <template #known="{ row }">
              <span :class="{ struck: row.stale.length }">{{ ORIGIN_WORDS[row.capacity.origin] }}</span> <span class="q">{{ dayTime(row.capacity.at, live.controllerNow) }}</span><span
                v-if="row.stale.length"
                class="plantx"
              >
                stale: {{ row.stale.join(', ') }}</span>
            </template>
            <template #acts="{ row }">
              <UButton v-needs="'operator'" size="sm" @click="calibrate(wishAgain(row.capacity))">
                {{ row.stale.length || row.capacity.outcome === 'inconclusive' ? 'Calibrate again' : 'Again' }}
              </UButton>
            </template>
          </ListTable>
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
          @begun="id => goTo(`/fleet/capacity/batch-${id}`)"
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

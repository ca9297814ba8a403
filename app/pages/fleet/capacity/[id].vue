<script setup lang="ts">
/** One capacity, or a batch under way (`batch-N`): the panels of its signals, and beside them what they mean. */
import type { CalibrationBatchView, CapacitiesView, CapacityView } from '~~/api/views'

const route = useRoute()
const live = useLive()
const { problem, guarded, reading } = useGuarded()
const id = computed(() => String(route.params.id))
const batchId = computed(() => /^batch-(\d+)$/.exec(id.value)?.[1])
const batch = ref<CalibrationBatchView>()
const view = ref<CapacitiesView>()
const opened = ref<CapacityView>()
const given = ref<number>()

async function load(): Promise<void> {
  await reading(async () => {
    if (batchId.value === undefined) {
      opened.value = await api('capacity', { capacity: id.value })
      return
    }
    view.value ??= await api('capacities')
    batch.value = await api('calibration', { calibration: Number(batchId.value) })
    // The seconds of its run say when there is something new.
    live.watch(batch.value.run?.id)
    const done = batch.value.items.findLast(i => i.capacityId)
    if (batch.value.endedAt && batch.value.items.length === 1 && done?.capacityId)
      await goTo({ path: `/fleet/capacity/${done.capacityId}`, replace: true })
  })
}
void load()
watch(id, load)
let last = 0
live.onNews((news) => {
  if (news.kind === 'calibrations') return void load()
  if (batchId.value === undefined || (news.kind !== 'seconds' && news.kind !== 'run') || Date.now() - last < 900) return
  last = Date.now()
  void load()
})
onUnmounted(() => live.unwatch(batch.value?.run?.id))
const shown = computed(() => (batchId.value === undefined ? opened.value?.evidence : batch.value?.seen))
async function stop(): Promise<void> {
  await guarded(() => api('stopCalibration', { calibration: Number(batchId.value) }))
  await load()
}
useHead({ title: () => `${opened.value?.line.capacity.journeyName ?? 'Calibration'} · Vornak` })
</script>

<template>
  <div class="screen">
    <FleetHead><UButton to="/fleet/capacity">All capacities</UButton></FleetHead>
    <div class="body two">
      <section class="panel" aria-label="Signals over users">
        <SignalPanels v-if="shown" :evidence="shown" v-bind="given === undefined ? {} : { given }" />
        <p v-else-if="problem" class="pad"><ProblemNote :problem="problem" /></p>
        <p v-else-if="batch?.endedAt" class="q pad">This batch is over: see the figures of its items beside.</p>
        <p v-else-if="batch" class="q pad">
          {{
            batch.run
              ? 'The machine is being taken, called and rehearsed. Levels appear here as they are held.'
              : 'Waiting for its turn.'
          }}
        </p>
        <p v-else-if="opened" class="q pad">Nobody measured it here: there are no seconds to draw.</p>
        <p v-else class="q pad">Reading…</p>
      </section>
      <aside>
        <ProblemNote v-if="problem && shown" :problem="problem" />
        <BatchPanel v-if="batch && view" :batch="batch" :view="view" @stop="stop" />
        <CapacitySide
          v-if="opened"
          :view="opened"
          @given="
            n => {
              given = n
            }
          "
          @changed="goTo('/fleet/capacity')"
        />
      </aside>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 396px;
  gap: 12px;
  min-height: 0;
  overflow: hidden;
}
.two > * {
  min-height: 0;
}
aside {
  overflow: auto;
  display: grid;
  gap: 12px;
  align-content: start;
}
.pad {
  padding: 12px;
}
</style>

<script setup lang="ts">
/**
 * What users of each network felt: connecting as measured, against what the profile promises; times of the chosen step.
 */
import type { RunView, WindowView } from '~~/api/views'
import { stepKey } from '~~/core/objectives/subject'
import type { ListColumn } from '../marks/list-table'
import { count, timeText } from '~~/core/values/said-figures'

/** Times of all steps, or of one, by its key. */
const step = defineModel<string>('step', { required: true })
const { window: figures, run } = defineProps<{ window: WindowView, run: RunView }>()
const steps = computed(() => figures.steps.filter(s => s.kind !== 'round').map(s => stepKey(s.journeyId, s.step)))
const shown = computed(() => (steps.value.includes(step.value) ? step.value : ''))
const lines = computed(() => figures.networks.filter(n => n.figures.started > 0))
const of = (line: WindowView['networks'][number]) =>
  shown.value === '' ? line.figures : line.steps.find(s => stepKey(s.journeyId, s.step) === shown.value)?.figures
const profile = (id: string) => run.document.networks?.find(n => n.id === id)
/** Beyond what timers and a busy moment explain. */
const isOff = (expected: number | undefined, measured: number | undefined) =>
  expected !== undefined && measured !== undefined && Math.abs(measured - expected) > Math.max(8, expected * 0.1)
type Line = WindowView['networks'][number]
const columns = computed<ListColumn<Line>[]>(() => [
  { id: 'location', head: 'Location', value: n => n.location },
  { id: 'network', head: 'Network', value: n => n.name },
  { id: 'added', head: 'added', num: true, value: n => profile(n.network)?.latencyMs },
  { id: 'connections', head: 'connections', num: true, value: n => n.figures.connects ?? 0 },
  { id: 'connect', head: 'connect, median', num: true, value: n => n.figures.connectP50Ms },
  { id: 'promised', head: 'promised', num: true, value: n => n.expectedConnectMs },
  { id: 'right', head: 'right', num: true, value: n => of(n)?.right ?? 0 },
  { id: 'firstByte', head: 'p95 first byte', num: true, value: n => of(n)?.firstByteP95Ms },
  { id: 'p50', head: 'p50', num: true, value: n => of(n)?.p50Ms },
  { id: 'p95', head: 'p95', num: true, value: n => of(n)?.p95Ms },
])
</script>

<template>
  <ListTable name="networks" :rows="lines" :columns="columns" :row-key="n => n.location + n.network">
    <template #location="{ row }"><LocationCode :code="row.location" /></template>
    <template #network="{ row }"><b>{{ row.name }}</b></template>
    <template #added="{ row }"><span class="q">{{ profile(row.network) ? `${profile(row.network)!.latencyMs} ms` : '–' }}</span></template>
    <template #connections="{ row }">{{ count(row.figures.connects ?? 0) }}</template>
    <template #connect="{ row }">
      <span class="measured" :class="{ plantx: isOff(row.expectedConnectMs, row.figures.connectP50Ms) }">{{
        timeText(row.figures.connectP50Ms)
      }}</span>
    </template>
    <template #promised="{ row }">
      <span v-if="row.expectedConnectMs !== undefined" class="planned">{{ timeText(row.expectedConnectMs) }}</span>
      <template v-else>–</template>
    </template>
    <template #right="{ row }">{{ count(of(row)?.right ?? 0) }}</template>
    <template #firstByte="{ row }">{{ timeText(of(row)?.firstByteP95Ms) }}</template>
    <template #p50="{ row }">{{ timeText(of(row)?.p50Ms) }}</template>
    <template #p95="{ row }"><b>{{ timeText(of(row)?.p95Ms) }}</b></template>
  </ListTable>
</template>

<style scoped>
.b {
  font-weight: 620;
}
</style>

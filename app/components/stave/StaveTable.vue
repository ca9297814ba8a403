<script setup lang="ts">
/** The charts of a run in words, which their picture is described by, and as a table once it is asked for. */
import { nameOf } from '~~/core/objectives/sentence'
import { count, rate, timeText } from '~~/core/values/said-figures'
import type { RunView, SecondFigures } from '~~/api/views'
import type { ListColumn } from '../marks/list-table'
import { runTime } from '~/format/moments'
import { judgedFigure } from './stave-judged'
import { sayStave, staveRows, type StaveRow } from './stave-table'

const { run, seconds, span } = defineProps<{
  run: Pick<RunView, 'document'>
  seconds: readonly (SecondFigures | undefined)[]
  /** What the charts show of the run. */
  span: { fromS: number, toS: number }
  /** Of the words: what the charts name to be described. */
  wordsId: string
}>()
const emit = defineEmits<{ choose: [window: { fromS: number, toS: number }] }>()
const open = useOpenInAddress('charts', 'table')
const judged = computed(() => judgedFigure(run.document.plan.objectives))
const name = computed(() =>
  judged.value.objective ? nameOf(judged.value.objective, run.document.journeys) : 'p95 of all requests')
const rows = computed(() => staveRows(seconds, span, judged.value))
const limit = computed(() => judged.value.objective?.atMost)
const words = computed(() => sayStave(rows.value, name.value, limit.value))
const columns = computed((): ListColumn<StaveRow>[] => [
  { id: 'when', head: 'When', value: r => r.fromS },
  { id: 'users', head: 'Users, most', num: true, value: r => r.users },
  { id: 'worst', head: `${name.value}, worst second`, num: true, value: r => r.worst?.ms },
  { id: 'perSecond', head: 'Requests a second', num: true, value: r => r.perSecond },
  { id: 'failed', head: 'Failed', num: true, value: r => r.failed },
])
</script>

<template>
  <div class="as-table">
    <p :id="wordsId" class="sr">{{ words }}</p>
    <UButton size="xs" variant="link" :aria-expanded="open" @click="open = !open">
      {{ open ? 'Without the table' : 'The charts as a table' }}
    </UButton>
    <ListTable v-if="open" name="charts" :rows="rows" :columns="columns" :row-key="r => r.fromS">
      <template #when="{ row }">
        <UButton size="xs" variant="link" @click="emit('choose', { fromS: row.fromS, toS: row.toS })">
          {{ runTime(row.fromS) }} to {{ runTime(row.toS) }}
        </UButton>
      </template>
      <template #users="{ row }">{{ count(row.users) }}</template>
      <template #worst="{ row }">
        <span :class="{ brick: (row.worst?.ms ?? 0) > (limit ?? Infinity) }">{{ timeText(row.worst?.ms) }}</span>
      </template>
      <template #perSecond="{ row }">{{ rate(row.perSecond) }}</template>
      <template #failed="{ row }">{{ count(row.failed) }}</template>
    </ListTable>
  </div>
</template>

<style scoped>
.as-table {
  margin: 2px 0 6px;
}
</style>

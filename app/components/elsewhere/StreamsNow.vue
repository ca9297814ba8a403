<script setup lang="ts">
/** Programs elsewhere that tell of a run: how much, and when they were heard last. */
import { useIntervalFn } from '@vueuse/core'
import type { RunView, StreamsView } from '~~/api/views'
import { count } from '~~/core/values/said-figures'
import type { ListColumn } from '~/components/marks/list-table'
import { ago } from '~/format/moments'

const { run } = defineProps<{ run: RunView }>()
const live = useLive()
const { problem, read } = useGuarded()
const { found: streams, load } = read('streams', { run: run.line.id })
const EVERY_MS = 1000
useIntervalFn(() => void load(), EVERY_MS)

type Stream = StreamsView[number]
const columns: ListColumn<Stream>[] = [
  { id: 'place', head: 'Location', value: s => s.place },
  { id: 'taken', head: 'Lines', num: true, value: s => s.taken },
  { id: 'faulty', head: 'Not read', num: true, value: s => s.faulty },
  { id: 'heard', head: 'Heard', num: true, value: s => s.heardAt },
]
const heard = ({ endedAt, heardAt }: Stream) =>
  endedAt !== undefined ? 'has ended' : heardAt === undefined ? 'not yet' : ago(heardAt, live.controllerNow)
</script>

<template>
  <section class="panel pad" aria-labelledby="tellers">
    <h2 id="tellers">Told by</h2>
    <ProblemNote v-if="problem" :problem="problem" />
    <ListTable name="programs that tell of it" plain :rows="streams ?? []" :columns="columns" :row-key="s => s.place">
      <template #taken="{ row }">{{ count(row.taken) }}</template>
      <template #faulty="{ row }"><span :class="{ brick: row.faulty > 0 }">{{ count(row.faulty) }}</span></template>
      <template #heard="{ row }"><span class="q">{{ heard(row) }}</span></template>
    </ListTable>
  </section>
</template>

<style scoped>
.pad {
  padding: 6px 12px 8px;
}
</style>

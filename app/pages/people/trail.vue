<script setup lang="ts">
/** Who did what, when, from where. */
import type { TrailEntry } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { clockTime, dayTime } from '~/format/moments'

const live = useLive()
const { problem, reading } = useGuarded()
const entries = ref<TrailEntry[]>()
const more = ref(false)
async function load(before?: number): Promise<void> {
  await reading(async () => {
    const page = await api('trail', before === undefined ? {} : { before })
    entries.value = [...(before === undefined ? [] : (entries.value ?? [])), ...page.entries]
    more.value = page.more
  })
}
void load()
const COLUMNS: ListColumn<TrailEntry>[] = [
  { id: 'when', head: 'When', value: e => e.at },
  { id: 'who', head: 'Who', value: e => e.who },
  { id: 'act', head: 'What', wide: true, value: e => e.says },
  { id: 'about', head: 'Of', value: e => e.about },
  { id: 'outcome', head: 'Came to', value: e => e.outcome },
  { id: 'address', head: 'From', value: e => e.address },
]
useHead({ title: 'Trail · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="body list-page">
      <ProblemNote v-if="problem" :problem="problem" />
      <ListTable
        v-if="entries?.length"
        name="trail"
        :rows="entries"
        :columns="COLUMNS"
        :row-key="e => e.id"
        height="calc(100dvh - 130px)"
        search="Find in the trail"
      >
        <template #head><PeopleTabs /></template>
        <template #when="{ row }">
          <span class="num">{{ dayTime(row.at, live.controllerNow).split(' ').slice(0, -1).join(' ') }} {{ clockTime(row.at) }}</span>
        </template>
        <template #act="{ row }"><span :title="row.act">{{ row.says }}</span></template>
        <template #about="{ row }"><b>{{ row.about }}</b></template>
        <template #outcome="{ row }">
          <span :class="row.outcome === 'done' ? 'q' : 'brick'">{{ row.outcome === 'done' ? 'done' : `refused: ${row.outcome}` }}</span>
        </template>
      </ListTable>
      <template v-else>
        <PeopleTabs />
        <p v-if="entries" class="q">Nobody has changed anything yet.</p>
      </template>
      <UButton v-if="more" size="sm" @click="load(entries!.at(-1)!.id)">Older ones</UButton>
    </div>
  </div>
</template>

<script setup lang="ts">
/** All runs, the latest first. */
import type { RunLine } from '~~/api/views'
import { RUN_WORDS } from '~~/core/run/life'
import type { ListColumn } from '~/components/marks/list-table'
import { count, euro } from '~/format/figures'
import { dayTime } from '~/format/moments'
import { markOf } from '~/format/runs'

const live = useLive()
const { problem, read } = useGuarded()
const { found: runs, load } = read('runs')
const again = ref<RunLine>()
const asking = computed({
  get: () => again.value !== undefined,
  set: (is) => {
    if (!is) again.value = undefined
  },
})
live.onNews((news) => {
  if (news.kind === 'run') void load()
})
const COLUMNS: ListColumn<RunLine>[] = [
  { id: 'run', head: 'Run', num: true, value: r => r.id },
  { id: 'question', head: 'Question', wide: true, value: r => r.question },
  { id: 'answer', head: 'Answer', wide: true, value: r => r.sentence },
  { id: 'plan', head: 'Plan', asked: true, value: r => r.planName },
  { id: 'target', head: 'Target', asked: true, value: r => r.target },
  { id: 'state', head: 'State', asked: true, value: r => RUN_WORDS[r.state] },
  { id: 'users', head: 'Users', num: true, value: r => r.peakUsers },
  { id: 'soundness', head: 'Soundness', value: r => r.soundness },
  { id: 'cost', head: 'Cost, €', num: true, value: r => r.cost },
  { id: 'when', head: 'When', num: true, value: r => r.createdAt },
  { id: 'acts', head: '' },
]
useHead({ title: 'Runs · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="body list-page">
      <ProblemNote v-if="problem" :problem="problem" />
      <ListTable
        v-if="runs?.length"
        name="runs"
        :rows="runs"
        :columns="COLUMNS"
        :row-key="r => r.id"
        :sorted-by="{ id: 'run', desc: true }"
        height="calc(100dvh - 96px)"
        search="Find in questions and answers"
      >
        <template #head>
          <h1>Runs</h1>
          <UButton variant="link" to="/runs/kept">What is kept</UButton>
        </template>
        <template #run="{ row }"><b>{{ row.id }}</b></template>
        <template #question="{ row }">
          <NuxtLink :to="`/runs/${row.id}`" class="u" :title="row.question">{{ row.question }}</NuxtLink>
        </template>
        <template #answer="{ row }">
          <AGlyph :name="markOf(row).glyph" :class="markOf(row).tone" :word="markOf(row).word" /> <b
            :class="markOf(row).tone"
            :title="row.sentence"
          >{{ row.sentence }}</b>
        </template>
        <template #users="{ row }">{{ count(row.peakUsers) }}</template>
        <template #soundness="{ row }">
          <template v-if="row.soundness">
            <AGlyph
              v-if="row.soundness !== 'sound'"
              name="costsSoundness"
              :class="row.soundness === 'unsound' ? 'brick' : 'plantx'"
              :word="row.soundness"
            /> {{ row.soundness }}
          </template>
          <span v-else class="q">{{ RUN_WORDS[row.state] }}</span>
        </template>
        <template #cost="{ row }">{{ euro(row.cost) }}</template>
        <template #when="{ row }"><span class="q">{{ dayTime(row.createdAt, live.controllerNow) }}</span></template>
        <template #acts="{ row }">
          <UButton size="xs" variant="link" :aria-label="`Again, run ${row.id}`" @click="again = row">Again</UButton>
        </template>
      </ListTable>
      <template v-else>
        <h1>Runs</h1>
        <p v-if="runs" class="q">No run yet. Open a plan and start it.</p>
        <p v-else-if="!problem" class="q">Reading the runs…</p>
      </template>
    </div>
    <AgainDialog v-if="again" v-model:open="asking" :run="again" />
  </div>
</template>

<script setup lang="ts">
/** Requests step by step: started by us, answered to us, counted by the target; and what explains a difference. */
import type { RunView, ThreeWayView } from '~~/api/views'
import { count } from '~~/core/values/said-figures'
import type { ListColumn } from '../marks/list-table'

const { run } = defineProps<{ run: RunView }>()
const { view, all, problem } = useThreeWay(() => run.line.id)

type Row = ThreeWayView['steps'][number]
const steps = computed(() => view.value?.steps ?? [])
const total = (of: (row: Row) => number) => steps.value.reduce((sum, row) => sum + of(row), 0)
/** What stands between the counts. */
function explained(row: Row): string {
  const parts = [
    [row.neverSent, 'never sent'],
    [row.unclear, 'unclear whether sent'],
    [row.cut, 'cut off'],
    [row.redirects, 'redirects followed'],
  ] as const
  const told = parts.filter(([n]) => n > 0).map(([n, word]) => `${count(n)} ${word}`)
  if (row.state === 'balanced') return 'balanced'
  if (row.state === 'explained') return `explained: ${told.join(', ') || 'other callers'}`
  const by = count(Math.abs(row.openBy))
  const than = told.length > 0 ? `${told.join(', ')} explain` : 'can be'
  if (row.state === 'coming') return `${by} are still to come: the target is read for a while after the load`
  if (row.openBy < 0) return `open: ${by} fewer than ${than}`
  const why = row.others.how === 'mark' ? 'a proxy on the way repeats' : 'a proxy repeats, or others call that did not before'
  return `open: ${by} more than ${than}; so it is where ${why}`
}
function othersText({ others }: Row): string {
  if (others.how === 'mark') return 'none: told apart by the run’s mark'
  if (others.most === undefined) return 'not known'
  return `${count(others.least)} to ${count(others.most)}, from before the load`
}
const COUNTS: ListColumn<Row>[] = [
  { id: 'started', head: 'started', num: true, value: r => r.started },
  { id: 'answered', head: 'answered', num: true, value: r => r.answered },
  { id: 'counted', head: 'counted there', num: true, value: r => r.counted },
]
const COLUMNS: ListColumn<Row>[] = [
  { id: 'step', head: 'Step', value: r => r.step },
  ...COUNTS,
  { id: 'others', head: 'Other callers', value: othersText },
  { id: 'account', head: 'Account', value: explained },
]
</script>

<template>
  <div class="three-way">
    <h3>The target’s count</h3>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!view" class="q">Counting…</p>
    <p v-else-if="view.missing" class="q">{{ view.missing }}</p>
    <template v-else>
      <p v-if="all" :class="all.state === 'open' ? 'brick' : 'q'" role="status">
        {{ all.sentence }}{{ all.state === 'open' && view.isReading ? ' It is still read.' : '' }}
      </p>
      <ListTable name="three-way" :rows="steps" :columns="COLUMNS" :row-key="r => r.step">
        <template #step="{ row }"><b>{{ row.step }}</b></template>
        <template v-for="c in COUNTS" :key="c.id" #[c.id]="{ row }">{{ count(Number(c.value!(row))) }}</template>
        <template #others="{ row }"><span class="q">{{ othersText(row) }}</span></template>
        <template #account="{ row }">
          <span :class="{ brick: row.state === 'open', q: row.state === 'balanced' }">{{ explained(row) }}</span>
        </template>
        <template #foot-step>all</template>
        <template v-for="c in COUNTS" :key="c.id" #[`foot-${c.id}`]>{{ count(total(r => Number(c.value!(r)))) }}</template>
      </ListTable>
    </template>
  </div>
</template>

<style scoped>
.three-way {
  margin-top: 8px;
}
</style>

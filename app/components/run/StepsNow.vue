<script setup lang="ts">
/** Per step what went out, came back and failed: over the last ten settled seconds, and since the start. */
import type { FailureKind, Figures, MeasureKind, RunView, WindowView } from '~~/api/views'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { stepKey } from '~~/core/objectives/subject'
import { count, rate, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import type { ListColumn } from '../marks/list-table'

const { run, recent } = defineProps<{ run: RunView, recent: WindowView | undefined }>()
const store = useRun()
/**
 * Sums since the start are asked for so often, s, or each time the run is longer by so much: they are added up where
 * frames are merged, and the longer the run the longer that takes.
 */
const EVERY_S = 3
const EVERY_SHARE = 0.02
const untilS = ref(1)
watchEffect(() => {
  const now = Math.floor(store.nowS ?? 0)
  if (now >= untilS.value + Math.max(EVERY_S, untilS.value * EVERY_SHARE)) untilS.value = now
})

const name = useStepNames(
  () => recent ?? { steps: [] },
  () => run.document,
)
const { found: sinceStart } = useNewestAnswer(
  () => ({ run: run.line.id, toS: untilS.value }),
  async ({ run, toS }) => ({ toS, ...await api('slices', { run }, { fromS: 0, toS, rows: ['step'] }) }),
)
const lengthS = computed(() => Math.max(1, (recent?.toS ?? 1) - (recent?.fromS ?? 0)))
interface Line {
  key: string
  name: string
  kind: MeasureKind | 'all'
  now: Figures
  whole: Figures
}
const lines = computed((): Line[] => {
  if (!recent) return []
  const totals = new Map(sinceStart.value?.rows.map(row => [row.value, row.figures]))
  const { total } = recent
  return [
    { key: '', name: 'All requests', kind: 'all', now: total, whole: sinceStart.value?.whole ?? total },
    ...recent.steps.map(({ figures, ...step }): Line => {
      const key = stepKey(step.journeyId, step.step)
      return { key, name: name(step), kind: step.kind, now: figures, whole: totals.get(key) ?? figures }
    }),
  ]
})
const columns: ListColumn<Line>[] = [
  { id: 'name', head: 'Step', value: l => l.name, wide: true },
  { id: 'out', head: 'out', num: true, value: l => l.now.started },
  { id: 'back', head: 'back', num: true, value: l => l.now.right },
  { id: 'p95', head: 'p95', num: true, unit: 'ms', value: l => l.now.p95Ms },
  { id: 'failed', head: 'failed', num: true, value: l => l.now.failed },
]
/** What is no request is said. */
const KINDS: Record<MeasureKind, string> = { request: '', bundle: 'bundle', span: 'span', round: 'round' }
const kindsOf = (failures: Partial<Record<FailureKind, number>>) =>
  (Object.entries(failures) as [FailureKind, number][])
    .sort((a, b) => b[1] - a[1])
    .map(([kind, n]) => `${FAILURE_WORDS[kind]} ${count(n)}`)
    .join(', ')
</script>

<template>
  <ListTable
    name="steps now"
    plain
    class="steps"
    empty="Nothing has come back yet."
    :rows="lines"
    :columns="columns"
    :row-key="l => l.key"
  >
    <template #name="{ row }">
      <b>{{ row.name }}</b><br>
      <span v-if="row.whole.failed" class="s11 brick">{{ kindsOf(row.whole.failures) }}</span>
      <span v-else class="s11 q">{{ row.kind === 'all' ? `last 10 s; below, to ${runTime(sinceStart?.toS ?? 0)}` : KINDS[row.kind] }}</span>
    </template>
    <template #out="{ row }">
      {{ rate(row.now.started / lengthS) }}/s<br><span class="s11 q">{{ count(row.whole.started) }}</span>
    </template>
    <template #back="{ row }">
      {{ rate(row.now.right / lengthS) }}/s<br><span class="s11 q">{{ count(row.whole.right) }}</span>
    </template>
    <template #p95="{ row }">
      {{ timeText(row.now.p95Ms) }}<br><span class="s11 q">{{ timeText(row.whole.p95Ms) }}</span>
    </template>
    <template #failed="{ row }">
      <span :class="{ brick: row.now.failed > 0 }">{{ count(row.now.failed) }}</span><br><span class="s11 q">{{ count(row.whole.failed) }}</span>
    </template>
  </ListTable>
</template>

<style scoped>
.steps {
  font-size: 12px;
  line-height: 15px;
}
.steps :deep(td),
.steps :deep(th) {
  padding: 3px 4px;
}
</style>

<script setup lang="ts">
/** How, where and when the chosen window failed; from a count to the exchanges that were kept of it. */
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import type { Dimension } from '~~/core/result/slices'
import type { RunDocument } from '~~/core/run/document'
import type { FailureKind, FailureReport } from '~~/api/views'
import { count, share } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import type { ListColumn } from '../marks/list-table'
import { choicesOf } from './slice-names'

const { runId, window, document, machines } = defineProps<{
  runId: number
  window: { fromS: number, toS: number }
  document: RunDocument
  /** Names of its generators. */
  machines: readonly string[]
}>()
const emit = defineEmits<{
  /** Exchanges of a kind are wanted, of a step by its key or of any. */
  examples: [of: { kind: FailureKind, status?: number }, step: string]
  choose: [window: { fromS: number, toS: number }]
}>()

type Line = FailureReport['kinds'][number]
/** A wrong status is a failure of its own for each status. */
const wordOf = (line: Line) => FAILURE_WORDS[line.kind] + (line.status ? ` ${line.status}` : '')
/** More steps than these have no column of their own. */
const MOST_STEPS = 8

const { chosen } = useSliceOnly()
const choices = computed(() => choicesOf(document, machines))
const nameOf = (dimension: Dimension, value: string) =>
  choices.value[dimension].find(c => c.value === value)?.label ?? value
const { found: report, problem } = useNewestAnswer(
  () => ({ run: runId, wish: { ...window, only: chosen.value } }),
  ({ run, wish }) => api('failures', { run }, wish),
)

/** Steps in which something failed, the worst first. */
const steps = computed(() => {
  const counts = new Map<string, number>()
  for (const line of report.value?.kinds ?? [])
    for (const [key, n] of line.steps) counts.set(key, (counts.get(key) ?? 0) + n)
  return [...counts].sort((a, b) => b[1] - a[1]).map(([key, n]) => ({ key, name: nameOf('step', key), n }))
})
const shown = computed(() => steps.value.slice(0, MOST_STEPS))
const at = (line: Line, key: string) => line.steps.find(([step]) => step === key)?.[1] ?? 0
const shareOf = (line: Line) => line.count / Math.max(1, report.value?.ended ?? 0)
/** Where it differs from everywhere else, in words. */
const whereOf = (line: Line) =>
  line.places
    .map(p => `${nameOf(p.dimension, p.value)} ${share(p.share)} (elsewhere ${share(p.restShare)})`)
    .join('; ')
const columns = computed((): ListColumn<Line>[] => [
  { id: 'kind', head: 'Failure', value: wordOf },
  ...shown.value.map(s => ({ id: s.key, head: s.name, num: true, value: (l: Line) => at(l, s.key) || undefined })),
  { id: 'all', head: 'all steps', num: true, value: l => l.count },
  { id: 'share', head: 'share', num: true, unit: '%', value: l => shareOf(l) * 100 },
  { id: 'first', head: 'first', num: true, unit: 's', value: l => l.firstS },
  { id: 'last', head: 'last', num: true, unit: 's', value: l => l.lastS },
  { id: 'where', head: 'where it differs', value: whereOf },
  { id: 'course', head: 'when, each to its own height' },
])
</script>

<template>
  <div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!report" class="q">Counting failures…</p>
    <p v-else-if="report.kinds.length === 0" class="q s12">
      Nothing failed: {{ count(report.ended) }} right {{ report.ended === 1 ? 'answer' : 'answers' }}.
    </p>
    <ListTable
      v-else
      name="failures"
      :rows="report.kinds"
      :columns="columns"
      :row-key="wordOf"
      :sorted-by="{ id: 'all', desc: true }"
    >
      <template #head>
        <span><b>{{ count(report.failed) }}</b> failed of {{ count(report.ended) }} that ended, {{ share(report.failed / Math.max(1, report.ended)) }}</span>
        <span v-if="steps.length > shown.length" class="q">{{ steps.length - shown.length }} more steps are in <i>all steps</i></span>
      </template>
      <template #kind="{ row }"><b>{{ wordOf(row) }}</b></template>
      <template v-for="s in shown" :key="s.key" #[s.key]="{ row }">
        <CountLink
          color="error"
          :n="at(row, s.key)"
          :of="`of ${s.name}, ${wordOf(row)}`"
          @open="emit('examples', row, s.key)"
        />
      </template>
      <template #all="{ row }">
        <CountLink class="strong" color="error" :n="row.count" :of="wordOf(row)" @open="emit('examples', row, '')" />
      </template>
      <template #share="{ row }">{{ share(shareOf(row)) }}</template>
      <template #first="{ row }">{{ runTime(row.firstS) }}</template>
      <template #last="{ row }">{{ runTime(row.lastS) }}</template>
      <template #where="{ row }">
        <span class="where" :class="{ q: row.places.length === 0 }">{{ whereOf(row) || 'alike everywhere' }}</span>
      </template>
      <template #course="{ row }">
        <UButton
          size="xs"
          variant="ghost"
          :aria-label="`Choose ${runTime(row.firstS)} to ${runTime(row.lastS + 1)}`"
          @click="emit('choose', { fromS: row.firstS, toS: row.lastS + 1 })"
        >
          <CourseStrip :counts="row.course" word="Its course over the window" />
        </UButton>
      </template>
    </ListTable>
    <p v-if="report?.kinds.some(k => k.places.length)" class="q s12">
      A place is named where Fisher’s exact test on stretches of time with and without such a failure tells it from the
      rest (p below 1 % after Holm’s correction over the places asked about), and its share is twice the rest’s or a
      point away.
    </p>
  </div>
</template>

<style scoped>
.strong {
  font-weight: 620;
}
.where {
  white-space: normal;
}
</style>

<script setup lang="ts">
/** Exact figures of the chosen window in rows as one wants them, of everything or of what is chosen. */
import { DIMENSIONS, type Dimension, type SliceFigures, type SlicePart } from '~~/core/result/slices'
import type { RunDocument } from '~~/core/run/document'
import type { MeasureKind } from '~~/api/views'
import type { ListColumn } from '../marks/list-table'
import { FIGURE_COLUMNS } from './slice-columns'
import { choicesOf, DIMENSION_WORDS } from './slice-names'

const { runId, window, document, machines } = defineProps<{
  runId: number
  window: { fromS: number, toS: number }
  document: RunDocument
  /** Names of its generators. */
  machines: readonly string[]
}>()

interface Line {
  key: string
  /** Names, as they are told and copied. */
  first: string
  second: string
  /** Values, and which of the two dimensions the line is about. */
  value: string
  inner: boolean
  kind: MeasureKind | undefined
  figures: SliceFigures
  parts: Line[] | undefined
}

const { only, chosen } = useSliceOnly()
const { by, then } = useSliceRows()
const choices = computed(() => choicesOf(document, machines))
const told = computed(() => DIMENSIONS.filter(d => d === 'step' || choices.value[d].length > 1))

const { found, problem } = useNewestAnswer(
  () => ({ run: runId, by: by.value, then: then.value, wish: { ...window, only: chosen.value } }),
  async ({ run, by, then, wish }) => ({
    slices: await api('slices', { run }, { ...wish, rows: then ? [by, then] : [by] }),
    by,
    then,
  }),
)

/** What is told is about: where generators are told apart of a folded run, more than was asked for. */
const over = computed(() => found.value?.slices.over)
const lengthS = computed(() => {
  const { fromS, toS } = over.value ?? window
  return Math.max(1, toS - fromS)
})
const nameOf = (d: Dimension, value: string) => choices.value[d].find(c => c.value === value)?.label ?? value
const lines = computed((): Line[] => {
  if (!found.value) return []
  const { slices, by, then } = found.value
  const line = (row: SlicePart, key: string): Omit<Line, 'first' | 'second' | 'parts' | 'inner'> => ({
    key,
    value: row.value,
    kind: row.kind,
    figures: row.figures,
  })
  return slices.rows.map((row) => {
    const first = nameOf(by, row.value)
    return {
      ...line(row, row.value),
      first,
      second: '',
      inner: false,
      parts: then && row.parts
        ? row.parts.map(part => ({
            ...line(part, `${row.value}\n${part.value}`),
            first,
            second: nameOf(then, part.value),
            inner: true,
            parts: undefined,
          }))
        : undefined,
    }
  })
})
const dimensionOf = (line: Line) => (line.inner ? found.value?.then : found.value?.by)
const head = (d: Dimension) => d.replace(/^./, c => c.toUpperCase())
const columns = computed((): ListColumn<Line>[] => [
  { id: 'first', head: head(found.value?.by ?? by.value), value: l => l.first },
  ...(found.value?.then ? [{ id: 'second', head: head(found.value.then), value: (l: Line) => l.second }] : []),
  ...FIGURE_COLUMNS.map(({ id, head, unit, asked, value }) => ({
    id,
    head,
    unit,
    asked,
    num: true,
    value: (l: Line) => value(l.figures, lengthS.value),
  })),
])
const isChosen = computed(() => Object.keys(chosen.value).length > 0)
function countEverything(): void {
  for (const d of DIMENSIONS) only[d].value = []
}
</script>

<template>
  <div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="over" class="plantx s12">
      Frames of this run were folded: by generator, these are seconds {{ over.fromS }} to {{ over.toS }}.
    </p>
    <ListTable
      name="figures"
      :empty="found ? 'Nobody was there.' : 'Adding up the window…'"
      :rows="lines"
      :columns="columns"
      :row-key="l => l.key"
      :parts="l => l.parts"
    >
      <template #head>
        <AskLine>
          <label>rows <PickOne
            v-model="by"
            size="sm"
            aria-label="Rows"
            :items="told.map(d => ({ value: d, label: DIMENSION_WORDS[d].one }))"
          /></label>
          <label>unfold into <PickOne
            v-model="then"
            size="sm"
            aria-label="Rows unfold into"
            :items="[
              ...told.filter(d => d !== by).map(d => ({ value: d, label: DIMENSION_WORDS[d].one })),
              { value: '' as const, label: 'nothing' },
            ]"
          /></label>
          <span class="q">of</span>
          <PickSome
            v-for="d in told"
            :key="d"
            v-model="only[d].value"
            size="sm"
            :aria-label="`Which ${d}s count`"
            :items="choices[d]"
            :all="DIMENSION_WORDS[d].all"
          />
          <UButton v-if="isChosen" size="sm" variant="link" @click="countEverything">everything</UButton>
        </AskLine>
      </template>
      <template #first="{ row }">
        <span v-if="row.inner" class="q">{{ row.first }}</span>
        <LocationCode v-else-if="dimensionOf(row) === 'location'" :code="row.value" />
        <b v-else>{{ row.first }}</b>
        <span v-if="!row.inner && (row.kind === 'span' || row.kind === 'bundle')" class="q"> {{ row.kind }}</span>
      </template>
      <template #second="{ row }">
        <LocationCode v-if="row.inner && dimensionOf(row) === 'location'" :code="row.value" />
        <template v-else-if="row.inner">{{ row.second }}</template>
        <span v-if="row.inner && (row.kind === 'span' || row.kind === 'bundle')" class="q"> {{ row.kind }}</span>
      </template>
      <template v-for="c in FIGURE_COLUMNS" :key="c.id" #[c.id]="{ row }">
        <span
          :class="{ brick: (c.id === 'failed' || c.id === 'share') && row.figures.failed > 0, strong: c.id === 'p95' }"
        >{{ c.show(row.figures, lengthS) }}</span>
      </template>
      <template #foot-first>{{ isChosen ? 'all of these' : 'all' }}</template>
      <template v-for="c in FIGURE_COLUMNS" :key="c.id" #[`foot-${c.id}`]>
        {{ found ? c.show(found.slices.whole, lengthS) : '–' }}
      </template>
    </ListTable>
  </div>
</template>

<style scoped>
.strong {
  font-weight: 620;
}
</style>

<script setup lang="ts">
/** One source: where it is, how often it is read, what a try says, and the series that are chosen of what it offers. */
import { figureText } from '~~/core/values/said-figures'
import type { ApiProblem, TriedSource } from '~~/api/views'
import { chosenBy, isChosenByName, type SeriesChoice, type Source, type SourceFault } from '~~/core/target/source'
import type { ListColumn } from '../marks/list-table'
import { offeredChoice } from './offered-choice'
import SentHere from './SentHere.vue'
import SeriesRow from './SeriesRow.vue'
import SourceFields from './SourceFields.vue'
import TriedLine from './TriedLine.vue'

const { source, faults, targetId, isSaved } = defineProps<{
  source: Source
  faults: readonly SourceFault[]
  targetId: string
  isSaved: boolean
}>()
const emit = defineEmits<{ change: [source: Source], remove: [] }>()
const put = (change: Partial<Source>) => emit('change', { ...source, ...change })
/** What was tried of another kind tells nothing of this one. */
function change(next: Source): void {
  if (next.kind !== source.kind) tried.value = undefined
  emit('change', next)
}
const tried = shallowRef<TriedSource>()
const problem = ref<ApiProblem>()
const isTrying = ref(false)
async function tryIt(): Promise<void> {
  isTrying.value = true
  try {
    tried.value = await api('trySource', { target: targetId }, { source })
    problem.value = undefined
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  isTrying.value = false
}

type Offered = TriedSource['offered'][number]
const showsOffered = ref(false)
const COLUMNS: ListColumn<Offered>[] = [
  { id: 'of', head: 'Metric', value: o => o.of },
  { id: 'type', head: 'type', value: o => o.type },
  { id: 'value', head: 'value', num: true, value: o => o.value },
  { id: 'labels', head: 'labels', value: o => Object.keys(o.labels).join(', ') },
  { id: 'help', head: 'says', value: o => o.help, wide: true },
  { id: 'add', head: '' },
]
const isChosen = (o: Offered) => source.series.some(s => s.of === o.of)
const add = (o: Offered) => put({ series: [...source.series, offeredChoice(o, source, source.series)] })
const isWritten = computed(() => !isChosenByName(source))
function addWritten(): void {
  let n = source.series.length + 1
  while (source.series.some(s => s.name === `series ${n}`)) n++
  put({ series: [...source.series, { name: `series ${n}`, of: source.kind === 'json' ? '$.' : '', kind: 'gauge' }] })
}
const setSeries = (at: number, choice: SeriesChoice) =>
  put({ series: source.series.map((s, i) => (i === at ? choice : s)) })
const removeSeries = (at: number) => put({ series: source.series.filter((_, i) => i !== at) })
const foundOf = ({ name }: SeriesChoice) => tried.value?.found.find(f => f.name === name)
const labelsOf = (choice: SeriesChoice) =>
  foundOf(choice)?.labels ?? Object.keys(tried.value?.offered.find(o => o.of === choice.of)?.labels ?? {})
/** What a try read of a series. */
function nowOf(choice: SeriesChoice): string {
  const { unit } = choice
  const lines = foundOf(choice)?.lines
  if (!lines) return ''
  if (lines.length === 0) return 'nothing'
  return lines.length > 1 ? `${lines.length} lines` : figureText(lines[0]!.value, unit)
}
/** Of pages alone the approval and secrets count as they are kept. */
const isPage = computed(() => source.kind !== 'command' && source.kind !== 'sent')
const offersNothing = computed(() => source.kind === 'json' || source.byPattern === true)
const own = computed(() => faults.filter(f => f.series === undefined))
</script>

<template>
  <div class="source" :class="{ written: isWritten }" role="group" :aria-label="`Source ${source.name}`">
    <div class="fields">
      <SourceFields :source="source" @change="change" />
      <div class="acts">
        <UButton :loading="isTrying" @click="tryIt">Try</UButton>
        <UButton variant="link" @click="emit('remove')">Remove</UButton>
      </div>
    </div>
    <p v-for="f in own" :key="f.sentence" class="brick s12" role="alert">{{ f.sentence }} {{ f.remedy }}</p>
    <ProblemNote v-if="problem" :problem="problem" />
    <TriedLine v-if="tried" :tried="tried" :is-saved="isSaved || !isPage" />
    <pre v-if="tried?.text" class="font-mono s11 wrote" aria-label="What the command wrote">{{ tried.text }}</pre>
    <SentHere v-if="source.kind === 'sent'" :target-id="targetId" :source="source.name" :is-saved="isSaved" />
    <div v-if="source.series.length > 0" class="series">
      <div class="row head q s11">
        <span>Series</span><span>{{ chosenBy(source) }}</span><span>taken</span><span v-if="!isWritten">only labels</span><span>split by</span><span>unit</span><span>times</span><span>stands for</span><span>limit</span><span class="num">now</span><span />
      </div>
      <SeriesRow
        v-for="(choice, i) in source.series"
        :key="i"
        :choice="choice"
        :source="source"
        :course="foundOf(choice)?.course"
        :labels="labelsOf(choice)"
        :now="nowOf(choice)"
        :fault="faults.find(f => f.series === i)?.sentence"
        @change="setSeries(i, $event)"
        @remove="removeSeries(i)"
      />
    </div>
    <p v-else class="q s12">No series is chosen yet{{ offersNothing ? '' : ': try it, and choose among what it offers' }}.</p>
    <div class="more">
      <UButton v-if="isWritten" size="sm" @click="addWritten">Add a series</UButton>
      <UButton
        v-if="tried && tried.offered.length > 0"
        size="sm"
        :aria-expanded="showsOffered"
        @click="showsOffered = !showsOffered"
      >
        {{ showsOffered ? 'Hide what it offers' : `Choose among ${tried.offered.length} it offers` }}
      </UButton>
    </div>
    <ListTable
      v-if="showsOffered && tried"
      name="offered-metrics"
      :rows="tried.offered"
      :columns="COLUMNS"
      :row-key="o => o.of"
    >
      <template #of="{ row }"><b class="font-mono">{{ row.of }}</b></template>
      <template #value="{ row }">{{ row.value === undefined ? (row.lines === undefined ? '' : `${row.lines} lines`) : figureText(row.value, row.unit) }}</template>
      <template #add="{ row }">
        <UButton size="sm" variant="link" @click="add(row)">{{ isChosen(row) ? 'Add again' : 'Add' }}</UButton>
      </template>
    </ListTable>
  </div>
</template>

<style scoped>
.source {
  border-top: 1px solid var(--hair);
  padding-top: 8px;
  display: grid;
  gap: 6px;
}
.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: end;
}
.acts,
.more {
  display: flex;
  gap: 6px;
  align-items: center;
}
.wrote {
  max-height: 120px;
  overflow: auto;
  padding: 4px 8px;
  border: 1px solid var(--hair);
}
.series {
  display: grid;
  gap: 3px;
  overflow-x: auto;
}
.row.head {
  display: grid;
  grid-template-columns: var(--series-columns);
  gap: 6px;
}
.source {
  --series-columns: minmax(90px, 1fr) minmax(140px, 1.6fr) 150px minmax(100px, 1.2fr) 96px 56px 80px 112px 60px 74px 60px;
}
.source.written {
  --series-columns: minmax(90px, 1fr) minmax(240px, 2.8fr) 150px 96px 56px 80px 112px 60px 74px 60px;
}
.num {
  text-align: right;
}
</style>

<script setup lang="ts">
/** What can be changed of a staff: all of it as one line of words, or word by word; its height, its place. */
import {
  isTimedMeasure,
  MEASURE_WORDS,
  MEASURES,
  printLimit,
  readLimit,
  splitsOf,
  STATISTIC_WORDS,
  statisticsOf,
  usualStatistic,
  type NamedValues,
  type Staff,
  type StaffMeasure,
  type StaffSplit,
  type StaffStatistic,
} from '~~/core/result/staff'
import { DIMENSIONS, type Dimension } from '~~/core/result/slices'
import { DIMENSION_WORDS } from '../result/slice-names'
import type { ChosenStave } from './chosen-stave'
import { HEIGHTS, ownEntry, type StaffEntry, type StaffHeight } from './stave-staffs'
import { present } from '~~/core/values/present'

const { entry, stave, named } = defineProps<{ entry: StaffEntry, stave: ChosenStave, named: NamedValues }>()
const emit = defineEmits<{
  /** It is another staff now, of another key. */
  renamed: [key: string]
  close: []
}>()

const own = computed(() => entry.own)
/** A staff of one's own: only such a one has these fields. */
const itself = () => present(own.value, 'a staff of one’s own')
/** Dimensions of which there is a choice. */
const told = computed(() => DIMENSIONS.filter(d => named[d].length > 1))
const isFirst = computed(() => stave.entries.value[0]?.key === entry.key)
const isLast = computed(() => stave.entries.value.at(-1)?.key === entry.key)
const isOnly = computed(() => stave.entries.value.length < 2)

function write(words: string): true | string {
  const written = stave.write(entry.key, words)
  if ('problem' in written) return written.problem
  if (written.key !== entry.key) emit('renamed', written.key)
  return true
}
/** What is refused beyond a field of its own. */
const fault = ref<string>()
function make(staff: Staff): void {
  const written = write(ownEntry(staff, named).key)
  fault.value = written === true ? undefined : written
}
/** Users are known by fewer dimensions than what they do. */
const isKnownBy = (staff: Pick<Staff, 'statistics' | 'measure'>, d: Dimension) =>
  staff.measure !== 'users' || splitsOf(staff).includes(d)
/** What its measure does not have is left out. */
function fitting(staff: Staff): Staff {
  const can = statisticsOf(staff.measure)
  const some = staff.statistics.filter(s => can.includes(s))
  const statistics = some.length > 0 ? some : [usualStatistic(staff.measure)]
  const { split, only = {}, limit, ...rest } = { ...staff, statistics }
  const canSplit = split && splitsOf(rest).includes(split)
  // Its keys are dimensions.
  const counts = Object.entries(only).filter(([d, of]) => of.length > 0 && isKnownBy(rest, d as Dimension))
  const before = itself()
  const sameUnit = isTimedMeasure(before.measure)
    ? isTimedMeasure(staff.measure)
    : before.measure === staff.measure && before.statistics[0] === statistics[0]
  return {
    ...rest,
    ...(canSplit ? { split } : {}),
    ...(counts.length > 0 ? { only: Object.fromEntries(counts) } : {}),
    ...(limit !== undefined && sameUnit ? { limit } : {}),
  }
}
const statistics = computed({
  get: () => own.value?.statistics ?? [],
  set: (some: StaffStatistic[]) => {
    const { split, ...rest } = itself()
    make(fitting({ ...rest, ...(some.length < 2 && split ? { split } : {}), statistics: some }))
  },
})
const measure = computed({
  get: () => itself().measure,
  set: (measure: StaffMeasure) => make(fitting({ ...itself(), measure })),
})
const split = computed({
  get: () => itself().split ?? '',
  set: (by: StaffSplit | '') => {
    const { split: _, ...rest } = itself()
    make(by === '' ? rest : { ...rest, statistics: rest.statistics.slice(0, 1), split: by })
  },
})
const only = (d: Dimension) => itself().only?.[d] ?? []
function setOnly(d: Dimension, some: string[]): void {
  make(fitting({ ...itself(), only: { ...itself().only, [d]: some } }))
}
const canOnly = computed(() =>
  told.value.filter(d => own.value && isKnownBy(own.value, d)))
function setLimit(text: string): true | string {
  const { limit: _, ...rest } = itself()
  const limit = text.trim() === '' ? undefined : readLimit(rest, text)
  if (typeof limit === 'string') return limit
  make(limit === undefined ? rest : { ...rest, limit })
  return true
}
const HEIGHT_WORDS: Record<StaffHeight, string> = { low: 'low', usual: 'usual', tall: 'tall' }
</script>

<template>
  <div class="editor" role="group" :aria-label="`Staff ${entry.key}`">
    <label v-if="!entry.house" class="line">
      <span class="q">in words</span>
      <DraftInput class="words" :value="entry.key" :accept="write" autofocus />
    </label>
    <p v-if="entry.target" class="q">What the target says of itself: chosen among its sources, on its page.</p>
    <p v-else-if="entry.house" class="q">{{ entry.key }}: drawn from what each second tells of itself.</p>
    <p v-if="fault" class="brick" role="alert">{{ fault }}</p>
    <p v-if="entry.problem" class="brick" role="alert">{{ entry.problem }}</p>
    <template v-if="own">
      <AskLine>
        <PickSome
          v-model="statistics"
          size="sm"
          aria-label="Statistics"
          :items="statisticsOf(measure).map(s => ({ value: s, label: STATISTIC_WORDS[s] }))"
          :all="STATISTIC_WORDS[usualStatistic(measure)]"
        />
        <span class="q">of</span>
        <PickOne v-model="measure" size="sm" aria-label="Measure" :items="MEASURES.map(m => ({ value: m, label: MEASURE_WORDS[m] }))" />
        <label>split by <PickOne
          v-model="split"
          size="sm"
          aria-label="Split by"
          :items="[
            { value: '' as const, label: 'nothing' },
            ...splitsOf({ statistics: own.statistics.slice(0, 1), measure }).map(s => ({ value: s, label: s })),
          ]"
        /></label>
        <label>limit <DraftInput
          size="sm"
          class="limit"
          placeholder="none"
          aria-label="Limit"
          :value="own.limit === undefined ? '' : printLimit(own, own.limit)"
          :accept="setLimit"
        /></label>
      </AskLine>
      <AskLine>
        <span class="q">of which</span>
        <PickSome
          v-for="d in canOnly"
          :key="d"
          :model-value="only(d)"
          size="sm"
          :aria-label="`Which ${d}s are drawn`"
          :items="named[d]"
          :all="DIMENSION_WORDS[d].all"
          @update:model-value="setOnly(d, $event)"
        />
      </AskLine>
    </template>
    <div class="line">
      <UFieldGroup>
        <UButton
          v-for="h in HEIGHTS"
          :key="h"
          size="sm"
          :variant="entry.height === h ? 'solid' : 'outline'"
          :aria-pressed="entry.height === h"
          @click="stave.resize(entry.key, h)"
        >
          {{ HEIGHT_WORDS[h] }}
        </UButton>
      </UFieldGroup>
      <UButton size="sm" :disabled="isFirst" @click="stave.move(entry.key, -1)">Up</UButton>
      <UButton size="sm" :disabled="isLast" @click="stave.move(entry.key, 1)">Down</UButton>
      <span class="spring" />
      <UButton size="sm" color="error" variant="link" :disabled="isOnly" @click="emit('close'), stave.remove(entry.key)">
        Take away
      </UButton>
    </div>
  </div>
</template>

<style scoped>
.editor {
  width: 560px;
  max-width: 92vw;
  padding: 10px 12px;
  display: grid;
  gap: 8px;
  font-size: 12.5px;
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
}
.words {
  flex: 1;
}
.limit {
  width: 84px;
}
.spring {
  flex: 1;
}
</style>

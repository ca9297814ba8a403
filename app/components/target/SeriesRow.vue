<script setup lang="ts">
/** One chosen series of a source, all of it in one row. */
import SeriesStrip from '../result/SeriesStrip.vue'
import {
  chosenBy,
  isChosenByName,
  kindsOf,
  SERIES_KIND_WORDS,
  STANDS_FOR,
  STANDS_FOR_WORDS,
  type SeriesChoice,
  type SeriesKind,
  type Source,
  type StandsFor,
} from '~~/core/target/source'
import { defined } from '~~/core/values/defined'
import { timeText, figureText } from '~~/core/values/said-figures'
import { takeNumber } from '~/format/numbers'

const { choice, source, labels, now, course, fault } = defineProps<{
  choice: SeriesChoice
  source: Source
  /** Names of labels it has, as far as that is known. */
  labels: readonly string[]
  /** What a try has just read. */
  now: string
  /** How it was in the last minutes, where that was read. */
  course?: readonly { agoS: number, value: number }[]
  fault?: string
}>()
const emit = defineEmits<{ change: [choice: SeriesChoice], remove: [] }>()
/** What is undefined is left out. */
function put(change: { [K in keyof SeriesChoice]?: SeriesChoice[K] | undefined }): void {
  // What it had is what it has, with one changed.
  emit('change', defined({ ...choice, ...change }) as SeriesChoice)
}
const kinds = computed(() => kindsOf(source))
/** What is chosen by its name is chosen by labels, too; a query and a pattern name them themselves. */
const hasLabels = computed(() => isChosenByName(source))
/** Values of a page of JSON have no labels at all. */
const isSplit = computed(() => source.kind !== 'json')
const splits = computed(() => [...new Set([...labels, ...(choice.by ? [choice.by] : [])])])
const labelText = computed(() => Object.entries(choice.labels ?? {}).map(([l, v]) => `${l}=${v}`).join(', '))
function setLabels(text: string): true | string {
  const pairs = text.split(',').map(t => t.trim()).filter(t => t !== '').map(t => /^([A-Za-z_][\w.-]*)\s*=\s*"?([^"]*)"?$/.exec(t))
  if (pairs.some(p => p === null)) return 'Write labels like run={{run}}, zone=a.'
  put({ labels: pairs.length > 0 ? Object.fromEntries(pairs.map(p => [p?.[1] ?? '', p?.[2] ?? ''])) : undefined })
  return true
}
const optional = (text: string, bounds: { min?: number }, field: 'factor' | 'limit'): true | string => {
  if (text.trim() !== '') return takeNumber(text, bounds, n => put({ [field]: n }))
  put({ [field]: undefined })
  return true
}
const name = (what: string) => `${what} of ${choice.name}`
</script>

<template>
  <div>
    <div class="row">
      <UInput
        size="sm"
        :model-value="choice.name"
        maxlength="40"
        aria-label="Name of the series"
        @update:model-value="put({ name: String($event) })"
      />
      <UInput
        size="sm"
        class="font-mono"
        :model-value="choice.of"
        :aria-label="name(chosenBy(source))"
        spellcheck="false"
        @update:model-value="put({ of: String($event) })"
      />
      <PickOne
        size="sm"
        :model-value="choice.kind"
        :aria-label="name('How values are taken')"
        :items="kinds.map(k => ({ value: k, label: SERIES_KIND_WORDS[k] }))"
        @update:model-value="put({ kind: $event as SeriesKind })"
      />
      <DraftInput
        v-if="hasLabels"
        size="sm"
        class="font-mono"
        :value="labelText"
        placeholder="all"
        :aria-label="name('Labels')"
        spellcheck="false"
        :accept="setLabels"
      />
      <PickOne
        size="sm"
        :model-value="choice.by ?? ''"
        :disabled="!isSplit"
        :aria-label="name('Split')"
        :items="[{ value: '', label: 'nothing' }, ...splits.map(l => ({ value: l, label: l }))]"
        @update:model-value="put({ by: $event || undefined })"
      />
      <UInput
        size="sm"
        :model-value="choice.unit ?? ''"
        maxlength="12"
        :aria-label="name('Unit')"
        @update:model-value="put({ unit: String($event).trim() || undefined })"
      />
      <DraftInput
        size="sm"
        inputmode="decimal"
        :value="choice.factor ?? ''"
        placeholder="1"
        :aria-label="name('Factor')"
        :accept="text => optional(text, { min: 1e-12 }, 'factor')"
      />
      <PickOne
        size="sm"
        :model-value="choice.standsFor ?? ''"
        :aria-label="name('Meaning')"
        :items="[{ value: '' as const, label: 'nothing known' }, ...STANDS_FOR.map(s => ({ value: s, label: STANDS_FOR_WORDS[s] }))]"
        @update:model-value="put({ standsFor: ($event || undefined) as StandsFor | undefined })"
      />
      <DraftInput
        size="sm"
        inputmode="decimal"
        :value="choice.limit ?? ''"
        placeholder="none"
        :aria-label="name('Limit')"
        :accept="text => optional(text, {}, 'limit')"
      />
      <b class="num s12">{{ now }}</b>
      <UButton size="sm" variant="link" :aria-label="`Remove ${choice.name}`" @click="emit('remove')">Remove</UButton>
    </div>
    <div v-if="course && course.length > 1" class="course s11 q">
      <SeriesStrip
        :at-s="course.map(c => -c.agoS)"
        :values="course.map(c => c.value)"
        :from-s="-course[0]!.agoS"
        :to-s="0"
        :load-s="0"
      />
      <span>the last {{ timeText(course[0]!.agoS * 1000) }}, up to {{ figureText(Math.max(...course.map(c => c.value)), choice.kind === 'count' ? undefined : choice.unit) }}</span>
    </div>
    <p v-if="fault" class="brick s12" role="alert">{{ fault }}</p>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: var(--series-columns);
  gap: 6px;
  align-items: center;
}
.course {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 2px 0 0 4px;
}
.num {
  text-align: right;
}
</style>

<script setup lang="ts">
/**
 * How one file of results is read: its form, which column holds what, and where its clock and its location are. The
 * first rows stand in a table of our own: a head says what its column is taken for, and files may have no heads.
 */
import {
  DURATION_UNITS,
  FIELD_WORDS,
  FORM_WORDS,
  RESULT_FIELDS,
  RESULT_FORMS,
  TIME_UNITS,
  type DurationUnit,
  type FileReading,
  type ResultField,
  type TimeUnit,
} from '~~/core/elsewhere/reading'
import type { Recognised } from '~~/core/elsewhere/recognise'
import type { ReadingTemplate, WantedFile } from '~~/core/elsewhere/results'

const { file, seen, templates } = defineProps<{
  file: WantedFile
  seen: Recognised
  templates: readonly ReadingTemplate[]
}>()
const emit = defineEmits<{
  change: [change: Partial<WantedFile>]
  keep: [name: string]
  forget: [template: ReadingTemplate]
}>()

const UNIT_WORDS: Record<TimeUnit, string> = { iso: 'date and time', s: 's', ms: 'ms', us: 'µs', ns: 'ns' }
const FORMS = RESULT_FORMS.map(value => ({ value, label: FORM_WORDS[value] }))
const TIMES = TIME_UNITS.map(value => ({ value, label: UNIT_WORDS[value] }))
const DURATIONS = DURATION_UNITS.map(value => ({ value, label: UNIT_WORDS[value] }))
const columns = computed(() => [{ value: '', label: 'not there' }, ...seen.columns.map(value => ({ value, label: value }))])
const hasColumns = computed(() => file.reading.form === 'csv' || file.reading.form === 'jsonLines')
const set = (change: Partial<FileReading>) => emit('change', { reading: { ...file.reading, ...change } })
function setColumn(field: ResultField, name: string): void {
  const { [field]: _, ...others } = file.reading.columns
  set({ columns: name === '' ? others : { ...others, [field]: name } })
}
/** What a column is taken for. */
const takenFor = (column: string) =>
  RESULT_FIELDS.filter(f => file.reading.columns[f] === column).map(f => FIELD_WORDS[f])
const template = ref('')
const used = ref('')
const choices = computed(() => [{ value: '', label: 'as recognised' }, ...templates.map(t => ({ value: t.name, label: t.name }))])
watch(used, (name) => {
  set(templates.find(t => t.name === name)?.reading ?? seen.reading)
})
const shift = computed({
  get: () => file.shiftMs / 1000,
  set: (s: number | undefined) => emit('change', { shiftMs: Math.round((s ?? 0) * 1000) }),
})
</script>

<template>
  <section class="panel pad" aria-labelledby="reading">
    <div class="top">
      <h2 id="reading" class="clip">{{ file.name }}</h2>
      <span class="spring" />
      <UFormField label="Read" orientation="horizontal"><PickOne v-model="used" size="sm" :items="choices" /></UFormField>
      <UButton v-if="used" size="xs" variant="link" @click="emit('forget', templates.find(t => t.name === used)!); used = ''">remove the template</UButton>
    </div>
    <div class="fields">
      <UFormField label="Form"><PickOne :model-value="file.reading.form" :items="FORMS" @update:model-value="form => set({ form })" /></UFormField>
      <UFormField label="Location, where rows say none"><UInput :model-value="file.place" maxlength="80" @update:model-value="place => emit('change', { place: String(place) })" /></UFormField>
      <UFormField label="Clock moved by, s"><NumberInput v-model="shift" /></UFormField>
      <template v-if="hasColumns">
        <UFormField v-for="f in RESULT_FIELDS" :key="f" :label="FIELD_WORDS[f]">
          <PickOne :model-value="file.reading.columns[f] ?? ''" :items="columns" @update:model-value="name => setColumn(f, name)" />
        </UFormField>
        <UFormField label="Time is in"><PickOne :model-value="file.reading.timeUnit ?? 'ms'" :items="TIMES" @update:model-value="timeUnit => set({ timeUnit })" /></UFormField>
        <UFormField label="Time is of"><PickOne :model-value="file.reading.timeIs ?? 'start'" :items="[{ value: 'start', label: 'the beginning' }, { value: 'end', label: 'the end' }]" @update:model-value="timeIs => set({ timeIs })" /></UFormField>
        <UFormField label="Duration is in"><PickOne :model-value="file.reading.durationUnit ?? 'ms'" :items="DURATIONS" @update:model-value="durationUnit => set({ durationUnit: durationUnit as DurationUnit })" /></UFormField>
        <UFormField v-if="file.reading.columns.ok" label="Written where it is right"><UInput :model-value="file.reading.right ?? ''" maxlength="200" placeholder="true, ok, yes, 1 …" @update:model-value="right => set({ right: String(right) === '' ? undefined : String(right) })" /></UFormField>
      </template>
      <UFormField v-if="file.reading.form === 'histogramLog'" label="Values are in"><PickOne :model-value="file.reading.durationUnit ?? 'us'" :items="DURATIONS.filter(d => d.value === 'us' || d.value === 'ms')" @update:model-value="durationUnit => set({ durationUnit })" /></UFormField>
    </div>
    <form v-if="hasColumns" class="keep" @submit.prevent="emit('keep', template.trim()); template = ''">
      <UInput v-model="template" size="sm" maxlength="80" placeholder="name of a template" aria-label="Name of a template" />
      <UButton size="sm" type="submit" :disabled="template.trim() === ''">Keep this way of reading</UButton>
    </form>
    <div class="preview" tabindex="0" aria-label="The first rows">
      <table class="table">
        <thead v-if="seen.columns.length">
          <tr><th v-for="c in seen.columns" :key="c"><span class="mono">{{ c }}</span><br><span :class="takenFor(c).length ? 'act' : 'q'">{{ takenFor(c).join(', ') || 'not taken' }}</span></th></tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in seen.rows" :key="i"><td v-for="(cell, n) in row" :key="n" class="mono cell">{{ cell }}</td></tr>
        </tbody>
      </table>
    </div>
  </section>
</template>

<style scoped>
.pad {
  padding: 6px 12px 10px;
  min-width: 0;
}
.top {
  display: flex;
  align-items: center;
  gap: 8px;
}
.spring {
  flex: 1;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 6px 10px;
  margin-top: 6px;
}
.keep {
  display: flex;
  gap: 8px;
  margin-top: 10px;
}
.preview {
  overflow-x: auto;
  margin-top: 10px;
}
.cell {
  max-width: 260px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
}
.act {
  color: var(--act);
}
</style>

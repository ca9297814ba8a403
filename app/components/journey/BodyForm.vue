<script setup lang="ts">
/** What is sent along: JSON, a form, a form in parts with files, or any text. */
import type { UploadedFile } from '~~/api/views'
import type { Body, MultipartPart, Pair } from '~~/core/journey/journey'
import type { JourneyProblem } from '~~/core/journey/problems'

const CodeText = ownPart(() => import('~/components/marks/CodeText.vue'))
const { problems } = defineProps<{ problems: JourneyProblem[] }>()
const store = useJourney()
const body = computed(() => store.part?.body)
const set = (next: Body | undefined) =>
  store.editPart((p) => {
    if (next) p.body = next
    else delete p.body
  })
const EMPTY: Record<Body['kind'], Body> = {
  json: { kind: 'json', text: '{}' },
  form: { kind: 'form', fields: [] },
  multipart: { kind: 'multipart', parts: [] },
  raw: { kind: 'raw', text: '', type: 'text/plain' },
}
// The list offers these kinds alone.
const choose = (kind: string) => set(kind === 'none' ? undefined : structuredClone(EMPTY[kind as Body['kind']]))
const setParts = (parts: MultipartPart[]) => set({ kind: 'multipart', parts })
function setTexts(pairs: Pair[]): void {
  if (body.value?.kind === 'multipart')
    setParts([...body.value.parts.filter(p => 'file' in p), ...pairs.map(([name, text]) => ({ name, text }))])
}
function addFile(file: UploadedFile): void {
  if (body.value?.kind === 'multipart')
    setParts([
      ...body.value.parts,
      { name: 'file', file: file.id, fileName: file.name, type: 'application/octet-stream' },
    ])
}
</script>

<template>
  <section>
    <div class="top">
      <h2>Body</h2>
      <PickOne
        :model-value="body?.kind ?? 'none'"
        aria-label="Kind of body"
        :items="[
          { value: 'none', label: 'none' },
          { value: 'json', label: 'JSON' },
          { value: 'form', label: 'form fields' },
          { value: 'multipart', label: 'form in parts, with files' },
          { value: 'raw', label: 'text' },
        ]"
        @update:model-value="value => choose(value)"
      />
      <UFormField
        v-if="body?.kind === 'raw'"
        label="type"
        orientation="horizontal"
      >
        <DraftInput
          :value="body.type"
          :accept="
            type => {
              set({ kind: 'raw', text: (body as { text: string }).text, type: type || 'text/plain' })
              return true
            }
          "
        />
      </UFormField>
    </div>
    <CodeText
      v-if="body?.kind === 'json' || body?.kind === 'raw'"
      :value="body.text"
      :language="body.kind === 'json' ? 'json' : 'text'"
      label="Body"
      class="code"
      @change="
        text =>
          set(
            body!.kind === 'json'
              ? { kind: 'json', text }
              : { kind: 'raw', text, type: (body as { type: string }).type },
          )
      "
    />
    <PairRows
      v-else-if="body?.kind === 'form'"
      title="Fields"
      :pairs="body.fields"
      @change="fields => set({ kind: 'form', fields })"
    />
    <template v-else-if="body?.kind === 'multipart'">
      <PairRows
        title="Fields"
        :pairs="body.parts.flatMap(p => ('text' in p ? [[p.name, p.text] as Pair] : []))"
        @change="setTexts"
      />
      <div v-for="p in body.parts.filter(p => 'file' in p)" :key="'file' in p ? p.file : ''" class="file s12">
        file <b>{{ 'fileName' in p ? p.fileName : '' }}</b> as
        <DraftInput
          :value="p.name"
          :accept="
            name => {
              setParts((body as { parts: MultipartPart[] }).parts.map(x => (x === p ? { ...x, name } : x)))
              return true
            }
          "
        /><UButton size="sm" variant="link" @click="setParts(body.parts.filter(x => x !== p))">Remove</UButton>
      </div>
      <FilePick
        label="Add a file"
        accept="*/*"
        @sent="addFile"
        @failed="
          p => {
            store.problem = p
          }
        "
      />
    </template>
    <p v-for="p in problems" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 26px;
}
.code {
  max-height: 180px;
}
.file {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>

<script setup lang="ts">
/** Values taken out of the answer for later texts, a row each. */
import type { Capture, CaptureSource } from '~~/core/journey/journey'

const { at } = defineProps<{ at: string }>()
const store = useJourney()
const rows = computed(() => store.part?.capture ?? [])
const SOURCES: Record<CaptureSource['kind'], [word: string, empty: CaptureSource]> = {
  json: ['JSON path', { kind: 'json', path: '$.' }],
  header: ['header', { kind: 'header', name: '' }],
  cookie: ['cookie', { kind: 'cookie', name: '' }],
  between: ['text between', { kind: 'between', left: '', right: '' }],
  expression: ['expression', { kind: 'expression', pattern: '' }],
}
const set = (i: number, more: Partial<Capture>) => {
  store.editPart((p) => {
    p.capture = rows.value.map((r, n) => (n === i ? { ...r, ...more } : r))
  })
  return true
}
const from = (i: number, more: Record<string, unknown>) =>
  // A source keeps its kind; what is changed are its own fields.
  set(i, { from: { ...rows.value[i]!.from, ...more } as CaptureSource })
const otherwise = (i: number, text: string) => {
  store.editPart((p) => {
    p.capture = rows.value.map((r, n) => {
      if (n !== i) return r
      const { otherwise: _, ...rest } = r
      return text === '' ? rest : { ...rest, otherwise: text }
    })
  })
  return true
}
const problemsAt = (i: number) => store.problems.filter(p => p.at === `${at}/capture/${i}`)
const caught = (name: string) =>
  store.tried?.records.findLast(r => r.step === store.part?.name)?.captured.find(c => c.name === name)
</script>

<template>
  <section>
    <div class="top">
      <h2>Keeps for later steps</h2>
      <span v-if="!rows.length" class="q s12">nothing</span><span class="spring" /><UButton
        size="sm"
        variant="link"
        @click="
          store.editPart(p => {
            p.capture = [...rows, { name: `value${rows.length + 1}`, from: { kind: 'json', path: '$.' } }]
          })
        "
      >
        Add a capture
      </UButton>
    </div>
    <div v-for="(c, i) in rows" :key="i">
      <div class="row">
        <DraftInput
          class="font-mono name"
          :value="c.name"
          :accept="name => set(i, { name: name.trim() })"
          aria-label="Name of the value"
          spellcheck="false"
        />
        <PickOne
          :model-value="c.from.kind"
          aria-label="Where it is"
          :items="Object.entries(SOURCES).map(([kind, w]) => ({ value: kind, label: w[0] }))"
          @update:model-value="value => set(i, { from: { ...SOURCES[value as CaptureSource['kind']][1] } })"
        />
        <DraftInput
          v-if="c.from.kind === 'json'"
          class="font-mono grow"
          :value="c.from.path"
          :accept="path => from(i, { path })"
          aria-label="Path, RFC 9535"
          spellcheck="false"
        />
        <DraftInput
          v-if="c.from.kind === 'header' || c.from.kind === 'cookie'"
          class="font-mono grow"
          :value="c.from.name"
          :accept="name => from(i, { name })"
          aria-label="Name"
          spellcheck="false"
        />
        <template v-if="c.from.kind === 'header' && c.from.left !== undefined">between
          <DraftInput
            class="font-mono"
            :value="c.from.left"
            :accept="left => from(i, left === '' ? { left: undefined, right: undefined } : { left })"
            aria-label="Text before"
            spellcheck="false"
          />
          and
          <DraftInput
            class="font-mono"
            :value="c.from.right ?? ''"
            :accept="right => from(i, { right })"
            aria-label="Text after"
            spellcheck="false"
          /></template>
        <UButton
          v-else-if="c.from.kind === 'header'"
          size="sm"
          variant="link"

          @click="from(i, { left: ' ', right: '' })"
        >
          a part of it
        </UButton>
        <template v-if="c.from.kind === 'between'"><DraftInput
          class="font-mono grow"
          :value="c.from.left"
          :accept="left => from(i, { left })"
          aria-label="Text before"
          spellcheck="false"
        /><DraftInput
          class="font-mono grow"
          :value="c.from.right"
          :accept="right => from(i, { right })"
          aria-label="Text after"
          spellcheck="false"
        /></template>
        <DraftInput
          v-if="c.from.kind === 'expression'"
          class="font-mono grow"
          :value="c.from.pattern"
          :accept="pattern => from(i, { pattern })"
          aria-label="Regular expression; the first group counts"
          spellcheck="false"
        />
        <UFormField label="else" orientation="horizontal">
          <DraftInput
            class="font-mono else"
            :value="c.otherwise ?? ''"
            :accept="text => otherwise(i, text)"
            placeholder="fails"
          />
        </UFormField>
        <UButton
          size="sm"
          variant="link"
          :aria-label="`Remove ${c.name}`"
          @click="
            store.editPart(p => {
              p.capture = rows.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </UButton>
      </div>
      <p v-if="caught(c.name)" class="s11 q saw">
        last try: <span class="mono">{{ caught(c.name)!.value ?? 'not found' }}</span>
      </p>
      <p v-for="p in problemsAt(i)" :key="p.sentence" class="brick s12">{{ p.sentence }} {{ p.remedy }}</p>
    </div>
  </section>
</template>

<style scoped>
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 26px;
}
.row {
  display: flex;
  gap: 4px;
  align-items: center;
  margin-bottom: 3px;
}
.name {
  width: 110px;
}
.grow {
  flex: 1;
  min-width: 40px;
}
.else {
  width: 60px;
}
.spring {
  flex: 1;
}
.saw {
  margin: -1px 0 3px 4px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>

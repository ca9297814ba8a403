<script setup lang="ts">
/**
 * What an answer must show to count as right, a row each: kind, what of it, how it is held against what, and whether a
 * miss fails the step.
 */
import { lengthText, takeLength } from '~/format/durations'
import { takeNumber } from '~/format/numbers'
import type { Expectation } from '~~/core/journey/journey'

const { at } = defineProps<{ at: string }>()
const store = useJourney()
const rows = computed(() => store.part?.expect ?? [])
const KINDS: Record<Expectation['kind'], [word: string, empty: Expectation]> = {
  status: ['status is', { kind: 'status', allow: '200' }],
  body: ['body', { kind: 'body', rule: 'contains', value: '' }],
  json: ['JSON value', { kind: 'json', path: '$.', rule: 'exists' }],
  header: ['header', { kind: 'header', name: '', rule: 'present' }],
  size: ['size, bytes', { kind: 'size', atMost: 1_000_000 }],
  duration: ['over within', { kind: 'duration', atMostMs: 2000 }],
}
const RULES = {
  body: ['contains', 'lacks', 'equals', 'matches'],
  header: ['present', 'contains', 'lacks', 'equals', 'matches'],
  json: ['exists', 'equals', 'differs', 'atLeast', 'atMost', 'contains', 'matches'],
} as const
const WORDS: Record<string, string> = {
  present: 'is there',
  exists: 'exists',
  equals: 'is',
  differs: 'is not',
  atLeast: 'at least',
  atMost: 'at most',
  contains: 'contains',
  lacks: 'lacks',
  matches: 'matches',
}

const set = (i: number, next: Expectation) =>
  store.editPart((p) => {
    p.expect = rows.value.map((r, n) => (n === i ? next : r))
  })
const change = (i: number, more: Record<string, unknown>) => {
  // A row keeps its kind; what is changed are its own fields.
  set(i, { ...rows.value[i]!, ...more } as Expectation)
  return true
}
const number = (i: number, field: 'atLeast' | 'atMost' | 'atMostMs', text: string) => {
  if (text.trim() === '' && field !== 'atMostMs') {
    // Any of its fields may be left out.
    const { [field]: _, ...rest } = rows.value[i] as Record<string, unknown>
    // What is left out may be left out.
    set(i, rest as Expectation)
    return true
  }
  return field === 'atMostMs'
    ? takeLength(text, {}, atMostMs => change(i, { atMostMs }))
    : takeNumber(text, { min: 0, whole: true }, n => change(i, { [field]: n }))
}
function add(kind: string): void {
  store.editPart((p) => {
    // The list offers these kinds alone.
    p.expect = [...rows.value, { ...KINDS[kind as Expectation['kind']][1] }]
  })
}
// As above.
const recast = (i: number, kind: string) => set(i, { ...KINDS[kind as Expectation['kind']][1] })
const problemsAt = (i: number) => store.problems.filter(p => p.at === `${at}/expect/${i}`)
/** What the last try saw. */
const saw = (i: number) => {
  const record = store.tried?.records.findLast(r => r.step === store.part?.name)
  const offset = record && rows.value.every(r => r.kind !== 'status') ? 1 : 0
  return record?.checks[i + offset]
}
</script>

<template>
  <section>
    <div class="top">
      <h2>Right when</h2>
      <span
        v-if="!rows.some(r => r.kind === 'status')"
        class="q s12"
      >the status is below 400<template v-if="rows.length">, and</template></span><span class="spring" />
      <UFormField label="Add" orientation="horizontal">
        <PickOne
          model-value=""
          aria-label="Add an expectation"
          :items="[
            { value: '', label: 'an expectation', disabled: true },
            ...Object.entries(KINDS).map(([kind, w]) => ({ value: kind, label: w[0] })),
          ]"
          @update:model-value="add"
        />
      </UFormField>
    </div>
    <div v-for="(e, i) in rows" :key="i">
      <div class="row">
        <PickOne
          :model-value="e.kind"
          :aria-label="`Expectation ${i + 1}`"
          :items="Object.entries(KINDS).map(([kind, w]) => ({ value: kind, label: w[0] }))"
          @update:model-value="value => recast(i, value)"
        />
        <DraftInput
          v-if="e.kind === 'status'"
          class="grow"
          :value="e.allow"
          :accept="allow => change(i, { allow })"
          aria-label="Statuses, like 200, 2xx or 200-299"
        />
        <template v-if="e.kind === 'header' || e.kind === 'json'"><DraftInput
          class="font-mono grow"
          :value="e.kind === 'header' ? e.name : e.path"
          :accept="text => change(i, e.kind === 'header' ? { name: text } : { path: text })"
          :aria-label="e.kind === 'header' ? 'Header' : 'Path, RFC 9535'"
          spellcheck="false"
        /></template>
        <template v-if="e.kind === 'header' || e.kind === 'json' || e.kind === 'body'">
          <PickOne
            :model-value="e.rule"
            aria-label="Rule"
            :items="RULES[e.kind].map(r => ({ value: r, label: WORDS[r] ?? r }))"
            @update:model-value="value => change(i, { rule: value })"
          />
          <DraftInput
            v-if="e.rule !== 'present' && e.rule !== 'exists'"
            class="font-mono grow"
            :value="e.value ?? ''"
            :accept="value => change(i, { value })"
            aria-label="Value"
            spellcheck="false"
          />
        </template>
        <template v-if="e.kind === 'size'"><UFormField label="at least" orientation="horizontal">
          <DraftInput
            class="few"
            :value="e.atLeast ?? ''"
            :accept="t => number(i, 'atLeast', t)"
          />
        </UFormField><UFormField label="at most" orientation="horizontal">
          <DraftInput
            class="few"
            :value="e.atMost ?? ''"
            :accept="t => number(i, 'atMost', t)"
          />
        </UFormField></template>
        <span v-if="e.kind === 'duration'" class="q"><DraftInput
          class="few"
          :value="lengthText(e.atMostMs)"
          :accept="t => number(i, 'atMostMs', t)"
          aria-label="Duration"
        /></span>
        <span class="spring" />
        <UCheckbox
          :model-value="e.onlyCount ?? false"
          label="only count"
          @update:model-value="change(i, { onlyCount: $event === true })"
        />
        <UButton
          size="sm"
          variant="link"
          :aria-label="`Remove expectation ${i + 1}`"
          @click="
            store.editPart(p => {
              p.expect = rows.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </UButton>
      </div>
      <p v-if="saw(i)" class="s11 saw" :class="saw(i)!.held ? 'moss' : 'brick'">
        <AGlyph
          :name="saw(i)!.held ? 'held' : 'broken'"
          :size="10"
        /> <span class="ink">last try saw {{ saw(i)!.saw }}</span>
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
  white-space: nowrap;
}
.row .field,
.top .field {
  height: 24px;
  padding: 0 4px;
}
.grow {
  flex: 1;
  min-width: 60px;
}
.few {
  width: 78px;
  text-align: right;
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
.ink {
  color: var(--quiet);
}
</style>

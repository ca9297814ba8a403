<script setup lang="ts">
/**
 * What an answer must show to count as right, a row each: kind, what of it, how it is held against what, and whether a
 * miss fails the step.
 */
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
  set(i, { ...rows.value[i]!, ...more } as Expectation)
  return true
}
const number = (i: number, field: 'atLeast' | 'atMost' | 'atMostMs', text: string) => {
  const n = Number(text.replace(',', '.'))
  if (text.trim() === '' && field !== 'atMostMs') {
    const { [field]: _, ...rest } = rows.value[i] as Record<string, unknown>
    set(i, rest as Expectation)
    return true
  }
  if (!Number.isFinite(n) || n < 0) return false
  return change(i, { [field]: field === 'atMostMs' ? Math.round(n * 1000) : Math.round(n) })
}
function add(select: HTMLSelectElement): void {
  store.editPart((p) => {
    p.expect = [...rows.value, { ...KINDS[select.value as Expectation['kind']][1] }]
  })
  select.value = ''
}
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
      <span v-if="!rows.some(r => r.kind === 'status')" class="q s12"
      >the status is below 400<template v-if="rows.length">, and</template></span
      ><span class="spring" />
      <label class="q s12"
      >Add
        <select
          class="field"
          value=""
          aria-label="Add an expectation"
          @change="add($event.target as HTMLSelectElement)"
        >
          <option value="" disabled>an expectation</option>
          <option v-for="(w, kind) in KINDS" :key="kind" :value="kind">{{ w[0] }}</option>
        </select></label
      >
    </div>
    <div v-for="(e, i) in rows" :key="i">
      <div class="row">
        <select
          class="field"
          :value="e.kind"
          :aria-label="`Expectation ${i + 1}`"
          @change="recast(i, ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="(w, kind) in KINDS" :key="kind" :value="kind">{{ w[0] }}</option>
        </select>
        <DraftInput
          v-if="e.kind === 'status'"
          class="field grow"
          :value="e.allow"
          :accept="allow => change(i, { allow })"
          aria-label="Statuses, like 200, 2xx or 200-299"
        />
        <template v-if="e.kind === 'header' || e.kind === 'json'"
        ><DraftInput
          class="field mono grow"
          :value="e.kind === 'header' ? e.name : e.path"
          :accept="text => change(i, e.kind === 'header' ? { name: text } : { path: text })"
          :aria-label="e.kind === 'header' ? 'Header' : 'Path, RFC 9535'"
          spellcheck="false"
        /></template>
        <template v-if="e.kind === 'header' || e.kind === 'json' || e.kind === 'body'">
          <select
            class="field"
            :value="e.rule"
            aria-label="Rule"
            @change="change(i, { rule: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="r in RULES[e.kind]" :key="r" :value="r">{{ WORDS[r] }}</option>
          </select>
          <DraftInput
            v-if="e.rule !== 'present' && e.rule !== 'exists'"
            class="field mono grow"
            :value="e.value ?? ''"
            :accept="value => change(i, { value })"
            aria-label="Value"
            spellcheck="false"
          />
        </template>
        <template v-if="e.kind === 'size'"
        ><label class="q"
        >at least
          <DraftInput class="field few" :value="e.atLeast ?? ''" :accept="t => number(i, 'atLeast', t)" /></label
        ><label class="q"
        >at most
          <DraftInput class="field few" :value="e.atMost ?? ''" :accept="t => number(i, 'atMost', t)" /></label
        ></template>
        <label v-if="e.kind === 'duration'" class="q"
        ><DraftInput
          class="field few"
          :value="e.atMostMs / 1000"
          :accept="t => number(i, 'atMostMs', t)"
          aria-label="Seconds"
        />
          s</label
        >
        <span class="spring" />
        <label class="q s12"
        ><input
          type="checkbox"
          :checked="e.onlyCount ?? false"
          @change="change(i, { onlyCount: ($event.target as HTMLInputElement).checked })"
        >
          only count</label
        >
        <button
          class="btn link sm"
          :aria-label="`Remove expectation ${i + 1}`"
          @click="
            store.editPart(p => {
              p.expect = rows.filter((_, n) => n !== i)
            })
          "
        >
          Remove
        </button>
      </div>
      <p v-if="saw(i)" class="s11 saw" :class="saw(i)!.held ? 'moss' : 'brick'">
        <AGlyph :name="saw(i)!.held ? 'held' : 'broken'" :size="10" /> <span class="ink">last try saw {{ saw(i)!.saw }}</span>
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

<script setup lang="ts">
/** Marks and events as they happen, the latest first. */
import type { RunView } from '~~/api/views'
import { clockTime, dayTime, runTime } from '~/format/moments'
import type { RunChange, RunState } from '~~/core/run/life'
import type { GlyphName } from '../marks/glyphs'

const { run } = defineProps<{ run: RunView }>()
const store = useRun()
const live = useLive()
const me = useMe()
const text = ref('')
const field = useTemplateRef<{ inputRef: HTMLInputElement | null }>('field')
const WORDS: Partial<Record<RunState, string>> = {
  rollCall: 'roll call',
  rehearsing: 'rehearsal',
  armed: 'armed',
  queued: 'waiting',
}
const GLYPH: Partial<Record<RunChange['event'], [GlyphName, string]>> = {
  generatorLost: ['lost', 'brick'],
  generatorAbsent: ['lost', 'brick'],
  generatorLate: ['inTheWay', 'brick'],
  generatorSilent: ['unknown', 'brick'],
  vornakAway: ['inTheWay', 'brick'],
  mergeBroken: ['inTheWay', 'brick'],
  setAside: ['inTheWay', 'brick'],
  trouble: ['inTheWay', 'brick'],
  objectiveBroken: ['broken', 'brick'],
  objectiveMended: ['held', 'moss'],
  mark: ['toKnow', 'q'],
}

const DAY_MS = 86_400_000
const events = computed(() =>
  [...run.changes].reverse().map((c) => {
    const [glyph, tone] =
      GLYPH[c.event] ??
      (c.to === 'failed'
        ? (['inTheWay', 'brick'] as const)
        : c.to === 'loading' && c.from !== c.to
          ? (['loading', ''] as const)
          : (['toKnow', 'q'] as const))
    const { startAt } = run.line
    const isInRun = startAt !== undefined && c.at >= startAt
    // What was read from a file ended long before anything happened here.
    const isLongAfter = isInRun && c.at > startAt + run.lengthS * 1000 + DAY_MS
    const when = isLongAfter
      ? dayTime(c.at, live.controllerNow)
      : isInRun ? runTime((c.at - startAt) / 1000) : clockTime(c.at)
    return {
      key: `${c.at} ${c.event}`,
      when,
      glyph,
      tone,
      title: c.from === c.to ? (c.event === 'mark' ? 'You' : '') : (WORDS[c.to] ?? c.to),
      text: c.reason,
    }
  }),
)
async function add(): Promise<void> {
  const words = text.value.trim()
  if (!words) return
  text.value = ''
  // The keys are the screen's again.
  field.value?.inputRef?.blur()
  await store.mark(words)
}
useActs([{ key: 'm', needs: 'operator', says: 'Mark this second', act: () => field.value?.inputRef?.focus() }])
</script>

<template>
  <aside class="events" aria-label="Marks and events">
    <form v-if="run.line.endedAt === undefined && me.may('operator')" class="mark" @submit.prevent="add">
      <UInput
        ref="field"
        v-model="text"
        class="grow"
        aria-label="Mark this second"
        maxlength="300"
        placeholder="Mark this second: what do you see?"
        @keydown.esc="field?.inputRef?.blur()"
      /><UKbd>m</UKbd>
    </form>
    <ol class="list" tabindex="0" aria-label="What happened, the latest first">
      <li v-for="e in events" :key="e.key">
        <span class="q when">{{ e.when }}</span><AGlyph :name="e.glyph" :class="e.tone" word="" /><span><b v-if="e.title">{{ e.title }}: </b>{{ e.text }}</span>
      </li>
    </ol>
  </aside>
</template>

<style scoped>
.events {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.mark {
  display: flex;
  gap: 6px;
  align-items: center;
  margin-bottom: 6px;
}
.list {
  overflow: auto;
  min-height: 0;
}
li {
  display: grid;
  grid-template-columns: 54px 14px 1fr;
  gap: 0 4px;
  padding: 5px 0;
  border-top: 1px solid var(--hair);
  font-size: 12.5px;
  line-height: 16px;
  overflow-wrap: anywhere;
}
li :deep(.glyph) {
  margin-top: 2px;
}
.when {
  font-size: 12px;
}
</style>

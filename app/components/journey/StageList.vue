<script setup lang="ts">
/**
 * Opening, round and closing as stretches of steps, with spans as brackets at the edge. Arrows choose, Alt with arrows
 * moves; steps can be dragged.
 */
import { VueDraggable } from 'vue-draggable-plus'
import { isBundle, STAGES, type Stage, type Step } from '~~/core/journey/journey'
import { pathText, thinkText } from '~/format/journeys'

const store = useJourney()
const WORDS: Record<Stage, [string, string]> = {
  opening: ['Opening', 'once, at the beginning'],
  round: ['Round', 'again and again'],
  closing: ['Closing', 'once, at the end'],
}
const said = computed<Record<Stage, string>>(() =>
  store.http?.identity === 'fresh'
    ? {
        opening: 'at the beginning of each pass: somebody new',
        round: 'once a pass',
        closing: 'at the end of each pass',
      }
    : { opening: WORDS.opening[1], round: WORDS.round[1], closing: WORDS.closing[1] },
)

function key(event: KeyboardEvent): void {
  const act: Record<string, () => void> = {
    ArrowUp: () => (event.altKey ? store.move(-1) : store.go(-1)),
    ArrowDown: () => (event.altKey ? store.move(1) : store.go(1)),
    d: () => store.duplicate(),
    o: () =>
      store.editStep((s) => {
        s.off = !s.off
      }),
    Delete: () => store.remove(),
    Backspace: () => store.remove(),
  }
  const does = act[event.key]
  if (!does || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  does()
  void nextTick(() => document.querySelector<HTMLElement>('.stages .row.here')?.focus())
}
/** What dragging made of a stage's order. */
function reorder(stage: Stage, steps: Step[]): void {
  store.edit((j) => {
    if (j.kind === 'http') j[stage] = steps
  })
}
function choose(stage: Stage, at: number): void {
  store.chosen = { stage, at, part: 0 }
}
const here = (stage: Stage, at: number) => store.chosen?.stage === stage && store.chosen.at === at
const faults = (stage: Stage, at: number) =>
  store.inTheWay.filter(p => p.at === `${stage}/${at}` || p.at.startsWith(`${stage}/${at}/`)).length
/** The piece of each span's bracket beside a step. */
function brackets(stage: Stage, at: number) {
  const steps = store.http?.[stage] ?? []
  return (store.http?.spans ?? []).map((span) => {
    const [from, to] = [steps.findIndex(s => s.name === span.from), steps.findIndex(s => s.name === span.to)]
    return {
      name: span.name,
      on: from >= 0 && to >= from && at >= from && at <= to,
      first: at === from,
      last: at === to,
    }
  })
}
const failed = (name: string) => store.tried?.records.find(r => r.step === name)?.failure !== undefined
const triedStep = (step: Step) =>
  store.tried && (isBundle(step) ? step.requests.map(r => r.name) : [step.name]).some(failed)
</script>

<template>
  <div class="stages" tabindex="-1" @keydown="key">
    <section v-for="stage in STAGES" :key="stage">
      <div class="top">
        <h2>{{ WORDS[stage][0] }}</h2>
        <span class="q s12">{{ said[stage] }}</span><span class="spring" /><UButton size="sm" variant="link" @click="store.addStep(stage)">Add a step</UButton><UButton size="sm" variant="link" @click="store.addStep(stage, 'bundle')">Add a bundle</UButton>
      </div>
      <VueDraggable
        :model-value="store.http?.[stage] ?? []"
        group="steps"
        handle=".grip"
        :animation="0"
        class="list"
        :role="store.http?.[stage].length ? 'listbox' : undefined"
        :aria-label="store.http?.[stage].length ? `Steps, ${WORDS[stage][0]}` : undefined"
        @update:model-value="reorder(stage, $event)"
      >
        <div
          v-for="(step, at) in store.http?.[stage] ?? []"
          :key="step.name"
          class="row"
          :class="{ here: here(stage, at), off: step.off }"
          role="option"
          :aria-selected="here(stage, at)"
          :tabindex="here(stage, at) ? 0 : -1"
          @click="choose(stage, at)"
          @focus="here(stage, at) || choose(stage, at)"
        >
          <span class="gutter"><i
            v-for="b in brackets(stage, at)"
            :key="b.name"
            :class="{ on: b.on, first: b.first, last: b.last }"
            :title="b.name"
          /></span>
          <span
            class="grip"
            title="Drag to move; Alt and arrows move it too"
            aria-hidden="true"
          ><svg width="8" height="14" viewBox="0 0 8 14">
            <path d="M1 2h2M5 2h2M1 7h2M5 7h2M1 12h2M5 12h2" stroke="currentColor" stroke-width="2" /></svg></span>
          <span class="clip"><b>{{ step.name }}</b><AGlyph
            v-if="faults(stage, at)"
            name="inTheWay"
            class="brick"
            :word="`${faults(stage, at)} faults`"
          /><AGlyph v-else-if="triedStep(step)" name="broken" class="brick" word="failed in the last try" /><br>
            <span
              v-if="isBundle(step)"
              class="q s12"
            >{{ step.requests.length }} requests, {{ step.parallel }} at once</span>
            <span v-else class="mono q">{{ step.method }} {{ pathText(step) }}</span></span>
          <span class="q s12 marks"><template v-if="!isBundle(step)"><span v-if="step.expect?.length">{{ step.expect.length }} expected</span><span v-if="step.capture?.length">takes {{ step.capture.map(c => c.name).join(', ') }}</span></template><span v-if="step.off">off</span></span>
          <span class="num s12">{{ thinkText(step.think) }}</span>
        </div>
      </VueDraggable>
      <p v-if="!store.http?.[stage].length" class="q s12 none">
        {{ stage === 'round' ? 'The round has no step yet.' : 'Nothing.' }}
      </p>
    </section>
    <p class="q s11 keys">
      <UKbd>↑</UKbd> <UKbd>↓</UKbd> choose · <UKbd>Alt</UKbd> moves · <UKbd>d</UKbd> duplicates · <UKbd>o</UKbd> on or off ·
      <UKbd>Del</UKbd> removes
    </p>
  </div>
</template>

<style scoped>
.top {
  display: flex;
  gap: 10px;
  align-items: center;
  height: 26px;
  border-bottom: 1px solid var(--ink);
}
section + section {
  margin-top: 10px;
}
.spring {
  flex: 1;
}
.list {
  min-height: 6px;
}
.row {
  display: grid;
  grid-template-columns: auto 12px minmax(0, 1fr) auto auto;
  gap: 0 8px;
  align-items: center;
  min-height: 40px;
  border-bottom: 1px solid var(--hair);
  cursor: default;
  padding-right: 6px;
}
.row.here {
  background: var(--sel);
  box-shadow: inset 2px 0 var(--act);
}
.row.off {
  color: var(--quiet);
}
.row.off b {
  text-decoration: line-through;
}
.row b {
  margin-right: 6px;
}
.gutter {
  display: flex;
  align-self: stretch;
  padding-left: 4px;
}
.gutter i {
  width: 7px;
  margin: 0 1px;
}
.gutter .on {
  border-left: 1.5px solid var(--ink);
}
.gutter .first {
  border-top: 1.5px solid var(--ink);
  margin-top: 8px;
}
.gutter .last {
  border-bottom: 1.5px solid var(--ink);
  margin-bottom: 8px;
}
.grip {
  color: var(--edge);
  cursor: grab;
}
.marks {
  text-align: right;
  display: grid;
  max-width: 150px;
}
.marks span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.none {
  padding: 8px 4px;
}
.keys {
  padding: 8px 0;
}
</style>

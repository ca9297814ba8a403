<script setup lang="ts">
/** The objectives as sentences one edits, each with what the last run measured. Emptying a sentence takes it out. */
import { judgeableNames } from '~~/core/journey/problems'
import { sayValue, type Answer } from '~~/core/objectives/judge'
import { readObjective } from '~~/core/objectives/read-objective'
import { nameOf, printObjective } from '~~/core/objectives/sentence'
import type { Objective } from '~~/core/plan/document'

const { objectives, last } = defineProps<{
  objectives: Objective[]
  last: { id: number, answer: Answer | undefined } | undefined
}>()
const store = usePlan()
const complaint = ref<string>()
const added = ref('')
const journeys = computed(() => store.view?.journeys ?? [])
const measured = (o: Objective) =>
  last?.answer?.judgements
    .filter(j => nameOf(j.objective, journeys.value) === nameOf(o, journeys.value) && j.measured !== undefined)
    .sort((a, b) => b.level.users - a.level.users)[0]
const names = computed(() =>
  judgeableNames((store.view?.journeys ?? []).filter(j => store.plan?.groups.some(g => g.journeyId === j.id))),
)
const codes = computed(() => store.plan?.locations.map(l => l.code) ?? [])
const walked = computed(() => journeys.value.filter(j => store.plan?.groups.some(g => g.journeyId === j.id)))
/** What the target tells of itself. */
const series = computed(() =>
  (store.view?.targets.find(t => t.id === store.plan?.targetId)?.sources ?? []).flatMap(s => s.series))
/** A step that several journeys have is named with its journey. */
const suggestions = computed(() =>
  [...names.value]
    .flatMap((n) => {
      const having = walked.value.filter(j => judgeableNames([j]).has(n))
      return having.length > 1
        ? having.map(j => `p95 of ${n} on ${j.name} at most 1 s in holds`)
        : [`p95 of ${n} at most 1 s in holds`]
    })
    .concat(
      'failures at most 0.5 % in holds',
      'throughput at least 20/s in every 10 s',
      ...series.value.map(s =>
        s.standsFor === 'connections'
          ? `target ${s.name} at least 95 % of users in holds`
          : `target ${s.name} at most ${s.limit ?? 80}${s.unit ? ` ${s.unit}` : ''} in holds`),
    ),
)

/** @param index place in the list; one past its end adds */
function write(index: number, text: string): true | string {
  if (text.trim() === '') {
    store.edit((p) => {
      p.objectives.splice(index, 1)
    })
    return true
  }
  const reading = readObjective(text, {
    names: names.value,
    journeys: walked.value,
    groups: store.plan?.groups ?? [],
    codes: codes.value,
    series: series.value.map(s => s.name),
  })
  if (!reading.ok) return `At character ${reading.at + 1}: ${reading.problem}.`
  store.edit((p) => {
    p.objectives[index] = reading.objective
  })
  return true
}

function add(): void {
  complaint.value = undefined
  if (added.value.trim() === '') return
  const taken = write(objectives.length, added.value)
  if (taken === true) added.value = ''
  else complaint.value = taken
}
</script>

<template>
  <section>
    <div class="top">
      <h2>Answered by</h2>
      <span class="q">{{ objectives.length }} {{ objectives.length === 1 ? 'objective' : 'objectives' }}</span>
    </div>
    <div class="list">
      <div v-for="(o, i) in objectives" :key="i + printObjective(o, journeys)" class="line">
        <DraftInput
          class="say"
          variant="ghost"
          size="sm"
          :aria-label="`Objective ${i + 1}`"
          :title="printObjective(o, journeys)"
          :value="printObjective(o, journeys)"
          :accept="text => write(i, text)"
        />
        <span
          v-if="measured(o)"
          class="q"
          :class="{ brick: !measured(o)!.held }"
        >run {{ last!.id }}: {{ sayValue(o, measured(o)!.measured!) }}</span>
      </div>
      <div class="line">
        <UInput
          v-model="added"
          class="say"
          variant="ghost"
          size="sm"
          aria-label="Add an objective"
          list="objective-sentences"
          :aria-invalid="complaint !== undefined"
          placeholder="Add: p95 of a step at most 1 s in holds"
          @change="add"
          @keydown.enter="add"
          @keydown.esc="
            added = '';
            complaint = undefined
          "
        />
        <datalist id="objective-sentences"><option v-for="s in suggestions" :key="s" :value="s" /></datalist>
      </div>
      <p v-if="complaint" class="brick s12" role="alert">{{ complaint }}</p>
      <p v-else-if="!objectives.length" class="q s12">No objective: the run will measure, and answer nothing.</p>
    </div>
  </section>
</template>

<style scoped>
section {
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.top {
  display: flex;
  gap: 14px;
  align-items: center;
  height: 24px;
  white-space: nowrap;
  flex: none;
}
.list {
  overflow: auto;
  min-height: 0;
}
.line {
  min-height: 28px;
  display: flex;
  align-items: center;
  gap: 6px;
  border-top: 1px solid var(--hair);
  white-space: nowrap;
  font-size: 12.5px;
}
.say {
  flex: 1;
  min-width: 0;
}
</style>

<script setup lang="ts">
/**
 * Exchanges kept whole, of the chosen window: by step, by latency band, failures alone; the chosen one as sent and
 * received.
 */
import type { ApiProblem, ExemplarsView, WindowView } from '~~/api/views'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { stepKey } from '~~/core/objectives/subject'
import type { RunDocument } from '~~/core/run/document'
import { count, timeText } from '~/format/figures'
import { runTime } from '~/format/moments'

const ExchangeView = defineAsyncComponent(() => import('../journey/ExchangeView.vue'))
const { runId, window: figures, document } = defineProps<{ runId: number, window: WindowView, document: RunDocument }>()
const say = useStepNames(
  () => figures,
  () => document,
)
const step = ref('')
const band = ref('all')
const found = ref<ExemplarsView>()
const problem = ref<ApiProblem>()
const at = ref(0)
/** Its key. */
const chosenStep = computed(() => requests.value.find(s => stepKey(s.journeyId, s.step) === step.value))
const requests = computed(() => figures.steps.filter(s => s.kind === 'request'))
const record = computed(() => found.value?.records[at.value])
/** Bands of the chosen step's distribution, ms. */
const bands = computed(() => {
  const f = chosenStep.value?.figures ?? figures.total
  return [
    { key: 'all', word: 'any duration', query: {} },
    { key: 'failed', word: 'failures', query: { failure: 'any' } },
    ...(f.p99Ms === undefined
      ? []
      : [
          { key: 'p99', word: `slowest 1 %: over ${timeText(f.p99Ms)}`, query: { fromMs: f.p99Ms } },
          {
            key: 'p95',
            word: `p95 to p99: ${timeText(f.p95Ms)} to ${timeText(f.p99Ms)}`,
            query: { fromMs: f.p95Ms!, toMs: f.p99Ms },
          },
          {
            key: 'p50',
            word: `p50 to p95: ${timeText(f.p50Ms)} to ${timeText(f.p95Ms)}`,
            query: { fromMs: f.p50Ms!, toMs: f.p95Ms! },
          },
          { key: 'fast', word: `faster half: up to ${timeText(f.p50Ms)}`, query: { toMs: f.p50Ms! } },
        ]),
  ]
})
async function load(): Promise<void> {
  const query = new URLSearchParams({
    fromS: String(figures.fromS),
    toS: String(figures.toS),
    most: '100',
    ...(chosenStep.value ? { step: chosenStep.value.step, journeyId: chosenStep.value.journeyId } : {}),
  })
  for (const [name, value] of Object.entries(bands.value.find(b => b.key === band.value)?.query ?? {}))
    query.set(name, String(value))
  try {
    found.value = await api<ExemplarsView>(`runs/${runId}/exemplars?${query.toString()}`)
    at.value = 0
    problem.value = undefined
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
watch([step, band, () => figures], load, { immediate: true })
function go(by: number): void {
  at.value = Math.max(0, Math.min((found.value?.records.length ?? 1) - 1, at.value + by))
}
</script>

<template>
  <section>
    <div class="bandh">
      <h2>Exchanges kept whole</h2>
      <select v-model="step" class="field" aria-label="Step">
        <option value="">every step</option>
        <option v-for="s in requests" :key="stepKey(s.journeyId, s.step)" :value="stepKey(s.journeyId, s.step)">
          {{ say(s) }}
        </option>
      </select>
      <select v-model="band" class="field" aria-label="Latency band">
        <option v-for="b in bands" :key="b.key" :value="b.key">{{ b.word }}</option>
      </select>
      <span v-if="found" class="q"
      >{{ count(found.total) }} kept<template v-if="found.total > found.records.length"
      >, the slowest {{ found.records.length }} shown</template
      ><template v-if="found.dropped">; {{ count(found.dropped) }} more than the bound allows</template></span
      >
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <div v-if="found?.records.length" class="two">
      <div
        class="list panel"
        role="listbox"
        aria-label="Exchanges"
        @keydown.up.prevent="go(-1)"
        @keydown.down.prevent="go(1)"
      >
        <button
          v-for="(r, i) in found.records"
          :key="r.id"
          class="row"
          role="option"
          :aria-selected="i === at"
          :class="{ here: i === at }"
          @click="at = i"
        >
          <AGlyph
            :name="r.failure === undefined ? 'held' : 'broken'"
            :class="r.failure === undefined ? 'moss' : 'brick'"
            :word="r.failure === undefined ? 'right' : 'failed'"
          />
          <span class="clip"
          ><b>{{ r.step }}</b> <span class="q">{{ runTime(r.endedAtMs / 1000) }}</span><br><span class="s12 q">{{
            r.failure
              ? FAILURE_WORDS[r.failure]
              : r.keptFor === 'slowest'
                ? 'slowest of its ten seconds'
                : 'one pass in many'
          }}</span></span
          >
          <span class="num">{{ timeText(r.timings.wholeMs) }}</span>
        </button>
      </div>
      <div v-if="record" class="panel one"><ExchangeView :record="record" /></div>
    </div>
    <p v-else-if="found" class="q s12">
      None was kept here. Generators keep some failures of each kind, the slowest of each step, and whole passes now and
      then.
    </p>
  </section>
</template>

<style scoped>
.bandh {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 30px;
  font-size: 12.5px;
}
.bandh .field {
  height: 24px;
  padding: 0 4px;
}
.two {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 10px;
}
.list {
  max-height: 420px;
  overflow: auto;
}
.row {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  width: 100%;
  text-align: left;
  padding: 4px 8px;
  border-bottom: 1px solid var(--hair);
  cursor: pointer;
}
.row.here {
  background: var(--sel);
  box-shadow: inset 2px 0 var(--act);
}
.one {
  padding: 8px 12px;
  max-height: 420px;
  overflow: auto;
  min-width: 0;
}
</style>

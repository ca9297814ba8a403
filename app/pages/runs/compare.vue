<script setup lang="ts">
/** Two to six runs beside each other: first what differed, then by how much, and whether repeats differ as much. */
import type { CompareView, RunLine } from '~~/api/views'
import { LEAST_REPEATS } from '~~/core/compare/difference'
import { MOST_COMPARED } from '~~/core/compare/rows'
import { comparedSentence, repeatsFor, rowName } from '~~/core/compare/words'
import { count } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'
import ComparedCourses from '~/components/compare/ComparedCourses.vue'
import ComparedRows from '~/components/compare/ComparedRows.vue'
import ShareDialog from '~/components/report/ShareDialog.vue'
import { LAID_OVER, type LaidOver } from '~/components/compare/laid-over'
import SetUpTable from '~/components/compare/SetUpTable.vue'

const live = useLive()
const runsTyped = useInAddress('runs')
const usersTyped = useInAddress('users')
const metricTyped = useInAddress('metric')
const inkTyped = useInAddress('ink')
const rowTyped = useInAddress('row')
const overTyped = useInAddress('over')
const showsAll = useOpenInAddress('setUp', 'all')
const ids = computed(() => [
  ...new Set((runsTyped.value ?? '').split(',').map(Number).filter(n => Number.isInteger(n) && n > 0)),
])
const put = (runs: readonly number[]) => {
  runsTyped.value = runs.join(',')
  // Another choice may not have held the level of the one before.
  usersTyped.value = undefined
}
const METRICS = ['p50', 'p90', 'p95', 'p99', 'mean'] as const
const metric = computed({
  get: () => METRICS.find(m => m === metricTyped.value) ?? 'p95',
  set: (m) => {
    metricTyped.value = m === 'p95' ? undefined : m
  },
})
const users = computed(() => (Number(usersTyped.value) > 0 ? Number(usersTyped.value) : undefined))

const { found, problem } = useNewestAnswer(
  () => ({ runs: ids.value, users: users.value, metric: metric.value }),
  async ({ runs, users, metric }, tell: (soFar: CompareView | undefined) => void) => {
    if (runs.length < 2) return undefined
    const wish = { runs: runs.join(','), metric, ...(users === undefined ? {} : { users }) }
    const first = await api('compare', { ...wish, first: true })
    if (first.coming === undefined) return first
    tell(first)
    return api('compare', wish)
  },
)
const view = computed(() => (ids.value.length < 2 ? undefined : found.value))
/** The run in ink, of those that are held against the first. */
const at = computed(() => {
  const found = view.value?.runs.findIndex(r => String(r.id) === inkTyped.value) ?? -1
  return found > 0 ? found - 1 : (view.value?.runs.length ?? 2) - 2
})
const ink = computed(() => view.value?.runs[at.value + 1]?.id ?? 0)
const repeats = computed(() => (view.value ? repeatsFor(view.value, at.value) : []))
const emphasise = (id: number) => {
  inkTyped.value = String(id)
}
const drawn = computed({
  get: () => view.value?.rows.find(r => r.key === rowTyped.value)?.key ?? view.value?.rows[0]?.key ?? '',
  set: (key) => {
    rowTyped.value = key
  },
})
const OVER_WORDS: Record<LaidOver, string> = { time: 'by time', levels: 'by level', users: 'by users' }
const over = computed({
  get: (): LaidOver => LAID_OVER.find(o => o === overTyped.value) ?? 'time',
  set: (o) => {
    overTyped.value = o === 'time' ? undefined : o
  },
})
const drawnRow = computed(() => view.value?.rows.find(r => r.key === drawn.value))
const level = computed({
  get: () => view.value?.users ?? 0,
  set: (n) => {
    usersTyped.value = n > 0 ? String(n) : undefined
  },
})

// Runs that can be added: of the same plan first.
const { found: all } = useGuarded().read('runs', {})
const offered = computed(() => {
  const [first] = view.value?.runs ?? (all.value ?? []).filter(r => r.id === ids.value[0])
  const own = (r: RunLine) => (r.planId === first?.planId ? 0 : 1)
  return (all.value ?? [])
    .filter(r => !r.calibrates && r.verdict !== undefined && !ids.value.includes(r.id))
    .sort((a, b) => own(a) - own(b) || b.id - a.id)
    .map(r => ({ value: r.id, label: `${r.id} · ${r.name || r.question}` }))
})
const added = computed({
  get: () => 0,
  set: (id) => {
    if (id > 0) put([...ids.value, id])
  },
})
const remove = (id: number) => put(ids.value.filter(i => i !== id))
/** The one in ink is held against no longer: the others are held against it. */
const asBaseline = (id: number) => put([id, ...ids.value.filter(i => i !== id)])
function step(by: number): void {
  const others = view.value?.runs.slice(1) ?? []
  const next = others[(at.value + by + others.length) % Math.max(1, others.length)]
  if (next) emphasise(next.id)
}
useActs([
  { key: 'd', says: 'Everything in the set-up, or what differed', act: () => (showsAll.value = !showsAll.value) },
  { key: 'h', says: 'Hold the others against this run', act: () => asBaseline(ink.value) },
  { key: 'k', says: 'The next run in ink', act: () => step(1) },
])
const asked = computed(() => ({ runs: ids.value.join(','), users: users.value, metric: metric.value }))
const isSharing = useOpenInAddress('open', 'share')
const FILES = [
  { operation: 'compareCsv', label: 'CSV' },
  { operation: 'compareMarkdown', label: 'Markdown' },
  { operation: 'compareHtml', label: 'One file (HTML)' },
  { operation: 'comparePdf', label: 'PDF' },
] as const
const unsound = computed(() => view.value?.runs.filter(r => r.soundness === 'unsound') ?? [])
const isOtherPlan = computed(() => new Set(view.value?.runs.map(r => r.planId)).size > 1)
useHead({ title: 'Compare · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q runs">
        <NuxtLink to="/runs" class="crumb">Runs</NuxtLink>
        <template v-if="view">
          <span v-for="(r, i) in view.runs" :key="r.id" class="chip" :class="{ base: i === 0, ink: r.id === ink }">
            <UButton
              size="xs"
              variant="link"
              :disabled="i === 0"
              :aria-pressed="r.id === ink"
              :title="r.question"
              @click="emphasise(r.id)"
            >
              <b>{{ r.id }}</b>&nbsp;<span class="q">{{ r.name || dayTime(r.createdAt, live.controllerNow) }}{{ i === 0 ? ', held against' : '' }}</span>
            </UButton>
            <UButton
              v-if="view.runs.length > 2"
              size="xs"
              variant="link"
              icon="i-lucide-x"
              :aria-label="`Leave run ${r.id} out`"
              @click="remove(r.id)"
            />
          </span>
        </template>
        <PickOne
          v-if="ids.length < MOST_COMPARED"
          v-model="added"
          size="sm"
          aria-label="Add a run"
          :items="[{ value: 0, label: ids.length < 2 ? 'with run …' : 'add a run' }, ...offered]"
        />
      </div>
      <h1>{{ view ? view.runs[0]!.question : 'Compare' }}</h1>
      <p v-if="view" class="says" role="status"><b>{{ comparedSentence(view, at) }}</b></p>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <UButton v-if="problem && users !== undefined" size="sm" @click="usersTyped = undefined">
        At the highest level they have in common
      </UButton>
      <p v-if="ids.length < 2" class="q">Choose a run to hold against {{ ids[0] === undefined ? 'another' : `run ${ids[0]}` }}, above.</p>
      <p v-else-if="!view && !problem" class="q" role="status">Adding up their seconds, and how far they may be off…</p>
      <div v-if="view" class="two">
        <div>
          <section class="panel pad" aria-labelledby="differed">
            <h2 id="differed">What differed</h2>
            <p v-if="isOtherPlan" class="plantx s12">They are of different plans: not the same question.</p>
            <p v-for="r in unsound" :key="r.id" class="brick s12">
              Run {{ r.id }} is unsound as evidence: it counts for no yardstick, and what it shows may be its generators’ own.
            </p>
            <SetUpTable v-model:all="showsAll" :view="view" />
          </section>
          <section v-if="drawnRow" class="panel pad below" aria-labelledby="laid">
            <h2 id="laid">{{ rowName(drawnRow) }}</h2>
            <p class="q s12">
              laid over each other
              <PickOne v-model="over" size="xs" aria-label="Laid over each other by" :items="LAID_OVER.map(o => ({ value: o, label: OVER_WORDS[o] }))" />
              run {{ ink }} in ink, run {{ view.runs[0]!.id }} {{ over === 'users' ? 'as rings' : 'double' }}
            </p>
            <ComparedCourses :view="view" :row="drawnRow" :emphasised="ink" :over="over" />
          </section>
        </div>
        <section class="panel pad" aria-labelledby="against">
          <div class="top">
            <h2 id="against">Run {{ ink }} against run {{ view.runs[0]!.id }}</h2>
            <PickOne
              v-if="view.levels.length > 0"
              v-model="level"
              size="sm"
              aria-label="At how many users"
              :items="view.levels.map(n => ({ value: n, label: `at ${count(n)} users, settled` }))"
            />
            <span v-else class="plantx s12">over the whole load: they have no level in common</span>
            <PickOne v-model="metric" size="sm" aria-label="Which figure of steps" :items="METRICS.map(m => ({ value: m, label: `${m} of steps` }))" />
          </div>
          <ComparedRows v-model="drawn" :view="view" :at="at" />
          <p class="q s12 note">
            <template v-if="repeats.length >= LEAST_REPEATS">
              <b>The rule is as wide as repeats lie apart</b>: runs {{ repeats.join(', ') }} had the set-up of run
              {{ view.runs[0]!.id }}; one more is expected within it in 95 of 100. A difference counts when its whole
              interval lies beyond, and chance over {{ view.rows.length }} rows is reckoned with (Holm).
            </template>
            <template v-else>
              <b>One run a side cannot tell</b> how far repeats lie apart: {{ LEAST_REPEATS - repeats.length }} more of run
              {{ view.runs[0]!.id }}, set up as it was, would.
              <NuxtLink :to="`/runs/${view.runs[0]!.id}`" class="u">Run it again</NuxtLink>.
            </template>
            Intervals are by the seconds of these runs alone (95 %, block bootstrap): they say nothing of other runs.
          </p>
        </section>
      </div>
    </div>
    <footer class="sill">
      <span class="q">{{ view ? `${view.runs.length} of at most ${MOST_COMPARED} runs` : '' }}</span>
      <span class="spring" />
      <template v-if="view">
        <UButton v-for="f in FILES" :key="f.operation" :href="hrefTo(f.operation, asked)" download external>
          {{ f.label }}
        </UButton>
      </template>
      <UButton v-if="view" v-needs="'operator'" @click="isSharing = true">Share</UButton>
      <UButton v-if="view && view.runs.length > 2" @click="step(1)">Next in ink <UKbd>k</UKbd></UButton>
      <UButton v-if="view" @click="asBaseline(ink)">Hold against run {{ ink }} <UKbd>h</UKbd></UButton>
    </footer>
    <ShareDialog v-if="isSharing" v-model:open="isSharing" :thing="{ kind: 'comparison', runs: ids, users, metric }" />
  </div>
</template>

<style scoped>
.runs {
  display: flex;
  gap: 4px 8px;
  align-items: center;
  flex-wrap: wrap;
}
.chip {
  display: inline-flex;
  align-items: center;
  border: 1px solid var(--edge);
  border-radius: 3px;
  background: var(--panel);
}
.chip.base {
  border: 3px double var(--ink);
}
.chip.ink {
  border: 2px solid var(--ink);
}
.says {
  margin: 2px 0 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 8.5fr);
  gap: 12px;
  align-items: start;
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
.pad {
  padding: 8px 14px 12px;
  overflow-x: auto;
}
.below {
  margin-top: 12px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: baseline;
  margin-bottom: 6px;
}
.note {
  margin-top: 8px;
}
</style>

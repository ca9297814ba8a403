<script setup lang="ts">
/**
 * Exchanges kept whole, of the chosen window: by step, by latency band, failures alone; the chosen one as sent and
 * received.
 */
import type { ApiProblem, ExemplarsView, FailureKind, RunView, WindowView } from '~~/api/views'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { stepKey } from '~~/core/objectives/subject'
import { count, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'

const ExchangeView = ownPart(() => import('../journey/ExchangeView.vue'))
const { run, window: figures } = defineProps<{ run: RunView, window: WindowView }>()
const locationOf = (generator: number) => run.generators[generator]?.location ?? ''
const say = useStepNames(
  () => figures,
  () => run.document,
)
/** Of the rehearsal: one user, once from each location. */
const UNLOADED = { key: 'unloaded', word: 'unloaded: the rehearsal', query: { rehearsal: true } }
/** Exchanges that are listed; the rest is counted. */
const MOST_SHOWN = 100
/** Key of the step; empty: of any. */
const step = defineModel<string>('step', { default: '' })
/**
 * A band of the distribution (`ms:` and one of one's own: over which, up to which), or `failed:` and a kind of failure,
 * of a wrong status also `:` and which.
 */
const band = defineModel<string>('band', { default: 'all' })
/** Of one pass alone. */
const pass = defineModel<{ group: string, user: number, pass: number } | undefined>('pass', { default: undefined })
const found = ref<ExemplarsView>()
const problem = ref<ApiProblem>()
const { chosen } = useSliceOnly()
const isNarrowed = computed(() => (['journey', 'network', 'client'] as const).some(d => chosen.value[d]?.length))
/** Groups, locations and machines that were chosen above, or the one pass. */
const narrowing = computed(() => {
  if (pass.value) return { groups: pass.value.group, user: pass.value.user, pass: pass.value.pass }
  const { group, location, machine } = chosen.value
  return {
    ...(group ? { groups: group.join(',') } : {}),
    ...(location ? { locations: location.join(',') } : {}),
    ...(machine ? { machines: machine.join(',') } : {}),
  }
})
const at = ref(0)
/** Its key. */
const chosenStep = computed(() => requests.value.find(s => stepKey(s.journeyId, s.step) === step.value))
const requests = computed(() => figures.steps.filter(s => s.kind === 'request'))
const record = computed(() => found.value?.records[at.value])
/** Kinds of failure there are in the window, wrong statuses also apart, and the one that was asked for. */
const kinds = computed(() => {
  const asked = band.value.startsWith('failed:') ? [band.value.slice('failed:'.length)] : []
  const there = Object.keys(figures.total.failures)
  const statuses = figures.total.answers.filter(a => a.failure === 'status').map(a => `status:${a.status}`)
  return [...new Set([...there, ...statuses, ...asked])].map((key) => {
    // Each is written so just above.
    const [kind, status] = key.split(':') as [FailureKind, string?]
    return {
      key: `failed:${key}`,
      word: `failed: ${FAILURE_WORDS[kind]}${status ? ` ${status}` : ''}`,
      query: { failure: kind, ...(status ? { status: Number(status) } : {}) },
    }
  })
})
/** A band of one's own that was asked for: right answers alone. */
const own = computed(() => {
  if (!band.value.startsWith('ms:')) return []
  const [fromMs, toMs] = band.value.split(':').slice(1).map(t => (t === '' ? undefined : Number(t)))
  const word = toMs === undefined ? `over ${timeText(fromMs)}` : `${timeText(fromMs)} to ${timeText(toMs)}`
  return [{
    key: band.value,
    word,
    query: { right: true, ...(fromMs ? { fromMs } : {}), ...(toMs === undefined ? {} : { toMs }) },
  }]
})
/** Bands of the chosen step's distribution, ms. */
const bands = computed(() => {
  const f = chosenStep.value?.figures ?? figures.total
  return [
    { key: 'all', word: 'any duration', query: {} },
    { key: 'failed', word: 'failures', query: { failure: 'any' } },
    ...(run.document.plan.rehearse ? [UNLOADED] : []),
    ...kinds.value,
    ...own.value,
    ...(f.p99Ms === undefined
      ? []
      : [
          { key: 'p99', word: `slowest 1 %: over ${timeText(f.p99Ms)}`, query: { fromMs: f.p99Ms } },
          {
            key: 'p95',
            word: `p95 to p99: ${timeText(f.p95Ms)} to ${timeText(f.p99Ms)}`,
            query: { fromMs: f.p95Ms ?? 0, toMs: f.p99Ms },
          },
          {
            key: 'p50',
            word: `p50 to p95: ${timeText(f.p50Ms)} to ${timeText(f.p95Ms)}`,
            query: { fromMs: f.p50Ms ?? 0, toMs: f.p95Ms ?? 0 },
          },
          { key: 'fast', word: `faster half: up to ${timeText(f.p50Ms)}`, query: { toMs: f.p50Ms ?? 0 } },
        ]),
  ]
})
const isUnloaded = computed(() => band.value === UNLOADED.key)
async function load(): Promise<void> {
  try {
    found.value = await api('exemplars', {
      run: run.line.id,
      most: MOST_SHOWN,
      // A pass is shown whole, wherever the window ends; the rehearsal was before it.
      ...(pass.value || isUnloaded.value ? {} : { fromS: figures.fromS, toS: figures.toS }),
      ...narrowing.value,
      ...(chosenStep.value ? { step: chosenStep.value.step, journeyId: chosenStep.value.journeyId } : {}),
      ...bands.value.find(b => b.key === band.value)?.query,
    })
    at.value = 0
    problem.value = undefined
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
watch([step, band, narrowing, () => figures], load, { immediate: true })
</script>

<template>
  <section data-part="exchanges">
    <div class="bandh">
      <h2 tabindex="-1">Exchanges kept whole</h2>
      <PickOne
        v-model="step"
        aria-label="Step"
        :items="[
          { value: '', label: 'every step' },
          ...requests.map(s => ({ value: stepKey(s.journeyId, s.step), label: say(s) })),
        ]"
      />
      <PickOne v-model="band" aria-label="Latency band" :items="bands.map(b => ({ value: b.key, label: b.word }))" />
      <UButton v-if="pass" size="sm" variant="link" @click="pass = undefined">
        of user {{ pass.group }} {{ pass.user }}, pass {{ pass.pass }} alone: show all
      </UButton>
      <span
        v-if="found"
        class="q"
      >{{ count(found.total) }} kept<template v-if="found.total > found.records.length">, the slowest {{ found.records.length }} shown</template><template v-if="found.dropped">; {{ count(found.dropped) }} more than the bound allows</template></span>
    </div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="isNarrowed" class="q s12">
      Of every journey, network and client, whatever is chosen above.
    </p>
    <div v-if="found?.records.length" class="two">
      <ExchangeRows v-model="at" :records="found.records" class="list panel">
        <template #about="{ record: r }">
          <span class="q">{{ isUnloaded ? locationOf(r.generator) : runTime(r.endedAtMs / 1000) }}</span><br><span class="s12 q">{{
            isUnloaded
              ? 'before the load'
              : r.failure
                ? FAILURE_WORDS[r.failure]
                : r.keptFor === 'slowest'
                  ? 'slowest of its ten seconds'
                  : 'one pass in many'
          }}</span>
        </template>
      </ExchangeRows>
      <div v-if="record" class="panel one"><ExchangeView :record="record" /></div>
    </div>
    <p v-else-if="found && isUnloaded" class="q s12">No exchange of the rehearsal was kept.</p>
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
.two {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 10px;
}
.list {
  max-height: 420px;
}
.one {
  padding: 8px 12px;
  max-height: 420px;
  overflow: auto;
  min-width: 0;
}
</style>

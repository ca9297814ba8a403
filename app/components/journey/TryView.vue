<script setup lang="ts">
/** The last try: each exchange in order, and the chosen one as sent and received. */
import { requestsOf, STAGES, stepsOf } from '~~/core/journey/journey'
import { rangeNamedIn } from '~~/core/journey/approved-address'
import type { Target } from '~~/core/journey/target'
import { timeText } from '~~/core/values/said-figures'
import { clockTime } from '~/format/moments'

const store = useJourney()
// It is drawn only where it was tried.
const tried = computed(() => store.tried!)
const at = ref(
  Math.max(
    0,
    tried.value.records.findIndex(r => r.failure !== undefined),
  ),
)
watch(tried, (t) => {
  at.value = Math.max(
    0,
    t.records.findIndex(r => r.failure !== undefined),
  )
})
const record = computed(() => tried.value.records[at.value])
const journey = computed(() => store.http)
const parts = computed(() => STAGES.flatMap(s => (journey.value ? stepsOf(journey.value, s) : [])).flatMap(requestsOf))
const seen = computed(() => parts.value.find(p => p.name === record.value?.step)?.seen)
const failed = computed(() => tried.value.records.filter(r => r.failure !== undefined).length)
/** Requests that were never sent, because a value was missing. */
const unsent = computed(() => parts.value.filter(p => !tried.value.records.some(r => r.step === p.name)))
/** What an approval would have to name for this exchange. */
const range = computed(() => rangeNamedIn(record.value?.problem ?? ''))
const approving = ref<Target>()
const isApproving = ref(false)
async function allow(): Promise<void> {
  try {
    approving.value = (await api('targets')).find(t => t.id === tried.value.targetId)
    isApproving.value = approving.value !== undefined
  }
  catch (error) {
    store.problem = problemOf(error)
  }
}
const targetName = computed(() => store.view?.targets.find(t => t.id === tried.value.targetId)?.name ?? '')
function openStep(): void {
  for (const stage of STAGES) {
    const i = journey.value?.[stage].findIndex(s => requestsOf(s).some(p => p.name === record.value?.step)) ?? -1
    const step = journey.value?.[stage][i]
    if (!step) continue
    store.chosen = {
      stage,
      at: i,
      part: Math.max(
        0,
        requestsOf(step).findIndex(p => p.name === record.value?.step),
      ),
    }
    void goTo({ query: {} })
  }
}
</script>

<template>
  <div class="try">
    <div class="said">
      <b v-if="tried.problem" class="brick"><AGlyph name="inTheWay" word="problem" /> {{ tried.problem }}</b>
      <b
        v-else-if="failed || unsent.length"
        class="brick"
      ><AGlyph name="broken" /> {{ failed }} of {{ tried.records.length }} exchanges failed<template
        v-if="unsent.length"
      >, {{ unsent.length }} could not be sent</template></b>
      <b v-else class="moss"><AGlyph name="held" /> Every answer was right</b>
      <span class="q">one user against {{ targetName }}, {{ clockTime(tried.at) }}, without pauses; values and secrets as in the
        load, secrets masked</span>
    </div>
    <ExchangeRows v-model="at" :records="tried.records" class="panel">
      <template #about="{ record: r }">
        <br><span class="mono q">{{ r.request.method }} {{ r.request.url.replace(/^https?:\/\/[^/]+/, '') }}</span>
      </template>
      <template #value="{ record: r }">
        {{ r.answer?.status ?? '–' }}<br><span class="q">{{ timeText(r.timings.wholeMs) }}</span>
      </template>
      <template #after>
        <div v-for="p in unsent" :key="p.name" class="unsent">
          <AGlyph name="none" word="not sent" /><span class="clip q"><b>{{ p.name }}</b><br>not sent: a value was missing, or an earlier step ended the pass</span>
        </div>
      </template>
    </ExchangeRows>
    <section v-if="record" class="one panel">
      <div class="top">
        <h2>{{ record.step }}</h2>
        <span class="spring" /><UButton size="sm" variant="link" @click="openStep">Open the step</UButton>
      </div>
      <ExchangeView :record="record" :seen="seen" />
      <p v-if="range" class="allow">
        <UButton variant="solid" @click="allow">Allow {{ range }}…</UButton>
        <span class="q s12">if the owner of {{ targetName }} agrees; then try again</span>
      </p>
    </section>
    <LazyApprovalDialog v-if="approving" v-model="isApproving" :target="approving" :range="range" />
  </div>
</template>

<style scoped>
.try {
  display: grid;
  grid-template-columns: 380px minmax(0, 1fr);
  grid-template-rows: 30px minmax(0, 1fr);
  gap: 0 12px;
  padding-bottom: 8px;
}
.said {
  grid-column: 1 / 3;
  display: flex;
  gap: 12px;
  align-items: center;
  white-space: nowrap;
  overflow: hidden;
}
.unsent {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr);
  gap: 8px;
  align-items: center;
  padding: 4px 10px;
  border-bottom: 1px solid var(--hair);
}
.one {
  overflow: auto;
  min-height: 0;
  padding: 6px 12px 12px;
}
.top {
  display: flex;
  align-items: center;
}
.allow {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
}
.spring {
  flex: 1;
}
</style>

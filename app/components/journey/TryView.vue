<script setup lang="ts">
/** The last try: each exchange in order, and the chosen one as sent and received. */
import { requestsOf, STAGES, stepsOf } from '~~/core/journey/journey'
import { timeText } from '~/format/figures'
import { clockTime } from '~/format/moments'

const store = useJourney()
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
const parts = computed(() => (store.http ? STAGES.flatMap(s => stepsOf(store.http!, s)).flatMap(requestsOf) : []))
const seen = computed(() => parts.value.find(p => p.name === record.value?.step)?.seen)
const failed = computed(() => tried.value.records.filter(r => r.failure !== undefined).length)
/** Requests that were never sent, because a value was missing. */
const unsent = computed(() => parts.value.filter(p => !tried.value.records.some(r => r.step === p.name)))
const targetName = computed(() => store.view?.targets.find(t => t.id === tried.value.targetId)?.name ?? '')
function go(by: number): void {
  at.value = Math.max(0, Math.min(tried.value.records.length - 1, at.value + by))
}
function openStep(): void {
  for (const stage of STAGES) {
    const i = store.http?.[stage].findIndex(s => requestsOf(s).some(p => p.name === record.value?.step)) ?? -1
    if (i < 0) continue
    store.chosen = {
      stage,
      at: i,
      part: Math.max(
        0,
        requestsOf(store.http![stage][i]!).findIndex(p => p.name === record.value!.step),
      ),
    }
    void navigateTo({ query: {} })
  }
}
</script>

<template>
  <div class="try">
    <div class="said">
      <b v-if="tried.problem" class="brick"><AGlyph name="inTheWay" word="problem" /> {{ tried.problem }}</b>
      <b v-else-if="failed || unsent.length" class="brick"
      ><AGlyph name="broken" /> {{ failed }} of {{ tried.records.length }} exchanges failed<template
        v-if="unsent.length"
      >, {{ unsent.length }} could not be sent</template
      ></b
      >
      <b v-else class="moss"><AGlyph name="held" /> Every answer was right</b>
      <span class="q"
      >one user against {{ targetName }}, {{ clockTime(tried.at) }}, without pauses; values and secrets as in the
        load, secrets masked</span
      >
    </div>
    <div
      class="list panel"
      role="listbox"
      aria-label="Exchanges"
      @keydown.up.prevent="go(-1)"
      @keydown.down.prevent="go(1)"
    >
      <button
        v-for="(r, i) in tried.records"
        :key="i"
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
        ><b>{{ r.step }}</b
        ><br><span class="mono q"
        >{{ r.request.method }} {{ r.request.url.replace(/^https?:\/\/[^/]+/, '') }}</span
        ></span
        >
        <span class="num s12"
        >{{ r.answer?.status ?? '–' }}<br><span class="q">{{ timeText(r.timings.wholeMs) }}</span></span
        >
      </button>
      <div v-for="p in unsent" :key="p.name" class="row unsent">
        <AGlyph name="none" word="not sent" /><span class="clip q"
        ><b>{{ p.name }}</b
        ><br>not sent: a value was missing, or an earlier step ended the pass</span
        ><span />
      </div>
    </div>
    <section v-if="record" class="one panel">
      <div class="top">
        <h2>{{ record.step }}</h2>
        <span class="spring" /><button class="btn link sm" @click="openStep">Open the step</button>
      </div>
      <ExchangeView :record="record" :seen="seen" />
    </section>
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
.list {
  overflow: auto;
  min-height: 0;
}
.row {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  width: 100%;
  text-align: left;
  padding: 4px 8px;
  min-height: 42px;
  border-bottom: 1px solid var(--hair);
  cursor: pointer;
}
.row.here {
  background: var(--sel);
  box-shadow: inset 2px 0 var(--act);
}
.unsent {
  cursor: default;
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
.spring {
  flex: 1;
}
</style>

<script setup lang="ts">
/** A run in large type, for a wall or a call: what it asks, how it stands, four figures. Nothing can be done here. */
import { RUN_WORDS } from '~~/core/run/life'
import { latestKnown } from '~~/core/merge/second-figures'
import { figureOf, timedObjective } from '~~/core/objectives/judge'
import { nameOf, sayLimit } from '~~/core/objectives/sentence'
import { count, rate, share, timeText } from '~~/core/values/said-figures'
import { clockTime, runTime } from '~/format/moments'
import { markOf, VERDICT_MARKS } from '~/format/runs'

definePageMeta({ layout: 'bare' })
const live = useLive()
onMounted(() => live.begin())
const route = useRoute()
const store = useOpenRun()
const soFar = useSoFar()
const run = computed(() => store.view)
const mark = computed(() => {
  if (!run.value) return undefined
  if (store.ended) return markOf(run.value.line)
  return soFar.value && VERDICT_MARKS[soFar.value.verdict]
})
const says = computed(() => {
  if (store.ended) return run.value!.line.sentence
  return soFar.value ? `${soFar.value.word} ${soFar.value.sentence}.` : `${RUN_WORDS[run.value!.line.state]}…`
})
const at = computed(() => {
  if (store.ended) return `${RUN_WORDS[run.value!.line.state]} at ${clockTime(run.value!.line.endedAt ?? live.controllerNow)}`
  return store.nowS === undefined ? clockTime(live.controllerNow) : runTime(store.nowS)
})

/** Of the newest second that is known; of a run that is over, of all of it. */
const latest = computed(() => latestKnown(store.seconds))
const judged = computed(() => run.value && timedObjective(run.value.document.plan.objectives))
const whole = computed(() => run.value?.summary?.whole)
const figures = computed((): { name: string, value: string, under: string, tone?: string }[] => {
  const view = run.value
  if (!view) return []
  const failed = store.seconds.reduce((sum, s) => sum + (s?.failed ?? 0), 0)
  const ended = store.seconds.reduce((sum, s) => sum + (s ? s.right + s.failed : 0), 0)
  return [
    store.ended
      ? { name: 'Users', value: count(view.line.peakUsers), under: 'planned at the peak' }
      : {
          name: 'Users',
          value: count(latest.value?.usersByLocation.reduce((a, b) => a + b, 0) ?? 0),
          under: `present of ${count(view.planned[latest.value?.second ?? 0] ?? 0)} planned`,
        },
    objectiveFigure(view.document.journeys),
    {
      name: 'Failed',
      value: share(ended > 0 ? failed / ended : undefined),
      under: `${count(failed)} of ${count(ended)}`,
      ...(failed > 0 ? { tone: 'brick' } : {}),
    },
    store.ended
      ? { name: 'Requests', value: count(whole.value?.started ?? 0), under: `in ${runTime(view.summary?.lengthS ?? 0)}` }
      : { name: 'Sent', value: `${rate(latest.value?.started ?? 0)} /s`, under: 'last settled second' },
  ]
})

/** The objective that is drawn elsewhere, too: the worst judged level of a run that is over. */
function objectiveFigure(journeys: NonNullable<typeof run.value>['document']['journeys']) {
  const of = judged.value
  if (!of) {
    const ms = store.ended ? whole.value?.p95Ms : store.recent?.total.p95Ms
    return { name: 'p95 of all requests', value: timeText(ms), under: store.ended ? 'the whole run' : 'last 10 s' }
  }
  const { objective, index } = of
  const judgements = run.value!.summary?.answer.judgements.filter(j => j.objective.step === objective.step
    && j.objective.metric === objective.metric && j.measured !== undefined) ?? []
  const ofRecent = store.recent?.objectives[index]?.figures
  const ms = store.ended
    ? judgements.reduce<number | undefined>((worst, j) => Math.max(worst ?? 0, j.measured!), undefined)
    : ofRecent && figureOf(objective, ofRecent)
  return {
    name: nameOf(objective, journeys),
    value: timeText(ms),
    under: `${sayLimit(objective)}${store.ended ? ', the worst level' : ', last 10 s'}`,
    ...(ms !== undefined && ms > objective.atMost ? { tone: 'brick' } : {}),
  }
}
useHead({ title: () => `Watching run ${route.params.id} · Vornak` })
</script>

<template>
  <div class="wall">
    <ProblemNote v-if="store.problem" :problem="store.problem" />
    <template v-if="run">
      <header>
        <p class="what">{{ run.line.name || run.line.planName }} · run {{ run.line.id }} · {{ run.line.target }}</p>
        <p class="clock">{{ at }}</p>
      </header>
      <h1>{{ run.line.question }}</h1>
      <p class="says" role="status">
        <AGlyph v-if="mark" :name="mark.glyph" :size="40" :class="mark.tone" :word="mark.word" />
        <b :class="mark?.tone">{{ says }}</b>
      </p>
      <section class="figures" aria-label="Figures">
        <div v-for="f in figures" :key="f.name">
          <p class="name">{{ f.name }}</p>
          <p class="value" :class="f.tone">{{ f.value }}</p>
          <p class="under">{{ f.under }}</p>
        </div>
      </section>
      <footer>
        <NuxtLink :to="`/runs/${run.line.id}`" class="u">All of run {{ run.line.id }}</NuxtLink>
        <span class="q">{{ store.underLoad ? `${RUN_WORDS[run.line.state]}, ${runTime(run.lengthS)} in all` : RUN_WORDS[run.line.state] }}</span>
      </footer>
    </template>
    <p v-else-if="!store.problem" class="q">Reading run {{ route.params.id }}…</p>
  </div>
</template>

<style scoped>
.wall {
  min-height: 100vh;
  padding: 3vmin 4vmin;
  display: grid;
  grid-template-rows: auto auto auto 1fr auto;
  gap: 2vmin;
  background: var(--bg);
}
header,
footer {
  display: flex;
  justify-content: space-between;
  gap: 2vmin;
  align-items: baseline;
}
.what,
.under {
  color: var(--quiet);
  font-size: 2.6vmin;
}
.clock {
  font-size: 6vmin;
  line-height: 1;
  font-weight: 620;
  font-stretch: 112%;
  white-space: nowrap;
}
h1 {
  font-size: 4.4vmin;
  line-height: 1.2;
  font-weight: 560;
}

.says :deep(svg) {
  vertical-align: -0.6vmin;
  margin-right: 1vmin;
}
.says {
  font-size: 5vmin;
  line-height: 1.2;
  min-height: 12vmin;
}
.figures {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 36vmin), 1fr));
  gap: 2vmin;
  align-content: center;
}
.figures > div {
  border-top: 2px solid var(--ink);
  padding-top: 1.4vmin;
}
.name {
  font-size: 2.8vmin;
}
.value {
  font-size: 8vmin;
  line-height: 1.15;
  font-weight: 620;
  font-stretch: 112%;
  white-space: nowrap;
}
</style>

<script setup lang="ts">
/** How a plan has gone: objectives and steps over all runs that were judged, and whether the newest is as expected. */
import { isOutside, pointOf } from '~~/core/compare/trend'
import { MOST_COMPARED } from '~~/core/compare/rows'
import { LEAST_REPEATS } from '~~/core/compare/difference'
import { count } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'
import { markOf } from '~/format/runs'
import TrendTable from '~/components/compare/TrendTable.vue'

const route = useRoute()
const live = useLive()
const plan = String(route.params.id)
const { problem, read } = useGuarded()
const { found: view } = read('trend', { plan })
const ids = computed(() => view.value?.runs.map(r => r.id) ?? [])
/** As many as can be beside each other; the oldest of them is what the others are held against. */
const latest = computed(() => ids.value.slice(-MOST_COMPARED))
const newest = computed(() => view.value?.runs.at(-1))
const baseline = computed(() => view.value?.runs.find(r => r.isBaseline))
const says = computed(() => {
  const lines = (view.value?.lines ?? []).filter(l => pointOf(l, newest.value?.id ?? 0))
  const told = lines.filter(l => l.expected)
  const head = `Run ${newest.value?.id ?? 0}`
  if (lines.length === 0) return `${head} measured none of them.`
  if (told.length === 0)
    return `${head}: where it was to be expected is not known; ${LEAST_REPEATS} runs before it with its own set-up would tell.`
  const outside = told.filter(l => isOutside(l, newest.value?.id ?? 0)).length
  return outside === 0
    ? `${head} is as its repeats let one expect, in all ${told.length} that can be told.`
    : `${head}: ${outside} of ${told.length} lie outside of where its repeats let one expect them. About one in twenty does by chance.`
})
useHead({ title: () => `${view.value?.planName ?? plan} over time · Vornak` })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q">
        <NuxtLink to="/plans" class="crumb">Plans</NuxtLink> · <NuxtLink :to="`/plans/${plan}`" class="crumb">{{ view?.planName ?? plan }}</NuxtLink>
      </div>
      <h1>{{ view ? `${view.planName}, over ${count(view.runs.length)} ${view.runs.length === 1 ? 'run' : 'runs'}` : 'Over time' }}</h1>
      <p v-if="view" role="status"><b>{{ says }}</b></p>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <p v-else-if="!view" class="q" role="status">Reading its runs…</p>
      <template v-if="view">
        <section class="panel pad" aria-labelledby="objectives">
          <h2 id="objectives">Objectives, run by run</h2>
          <TrendTable what="Objective" :lines="view.lines" :runs="ids" />
          <p class="q s12 note">
            A dot a run: solid where it held, brick where it was broken or the load was not all there, hollow where the run
            is unsound as evidence. The box beside the newest is where one more repeat was to be expected: by runs with
            nothing different in their set-up, from {{ LEAST_REPEATS }} on, unsound ones left out (Student’s t on
            logarithms, on shares for failures).
          </p>
        </section>
        <section v-if="view.steps?.lines.length" class="panel pad below" aria-labelledby="steps">
          <h2 id="steps">Steps and spans at {{ count(view.steps.users) }} users, run by run</h2>
          <TrendTable what="Step" :lines="view.steps.lines" :runs="ids" />
          <p class="q s12 note">
            In the seconds in which run {{ newest!.id }}’s highest level was judged; runs that did not hold it have no dot.
          </p>
        </section>
        <section class="panel pad below" aria-labelledby="runs">
          <h2 id="runs">Its runs</h2>
          <ul class="runs">
            <li v-for="r in [...view.runs].reverse()" :key="r.id">
              <AGlyph :name="markOf(r).glyph" :class="markOf(r).tone" :word="markOf(r).word" />
              <NuxtLink :to="`/runs/${r.id}`" class="u"><b>{{ r.id }}</b> {{ r.name }}</NuxtLink>
              <span class="q">{{ dayTime(r.createdAt, live.controllerNow) }}{{ r.build ? ` · build ${r.build}` : '' }}{{ r.isBaseline ? ' · baseline' : '' }}{{ r.soundness && r.soundness !== 'sound' ? ` · ${r.soundness}` : '' }}</span>
              <span>{{ r.sentence }}</span>
            </li>
          </ul>
        </section>
      </template>
    </div>
    <footer class="sill">
      <span class="q">{{ baseline ? `Baseline: run ${baseline.id}` : 'No baseline is chosen: a result has the button for it.' }}</span>
      <span class="spring" />
      <UButton v-if="latest.length > 1" :to="`/runs/compare?runs=${latest.join(',')}`">
        Compare the latest {{ latest.length }}
      </UButton>
      <UButton
        v-if="baseline && newest && baseline.id !== newest.id"
        :to="`/runs/compare?runs=${baseline.id},${newest.id}`"
      >The newest against the baseline</UButton>
    </footer>
  </div>
</template>

<style scoped>
.pad {
  padding: 8px 14px 12px;
  overflow-x: auto;
}
.below {
  margin-top: 12px;
}
.note {
  margin-top: 8px;
}
.runs {
  list-style: none;
  padding: 0;
  margin: 6px 0 0;
  display: grid;
  gap: 3px;
}
.runs li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}
</style>

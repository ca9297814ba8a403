<script setup lang="ts">
/** The board: what is out, what waits, what the last runs answered. */
import { count, euro } from '~~/core/values/said-figures'
import { duration } from '~/format/moments'

const live = useLive()
const { problem, read } = useGuarded()
const { found: board, load } = read('board')
live.onNews((news) => {
  if (news.kind === 'run' || news.kind === 'fleet') void load()
})

const underWay = computed(() => board.value?.runs.filter(r => r.endedAt === undefined) ?? [])
const answered = computed(() => board.value?.runs.filter(r => r.endedAt !== undefined) ?? [])
const outByRun = (id: number) => board.value?.out.filter(m => m.runId === id) ?? []
const kept = computed(() => board.value?.out.filter(m => !underWay.value.some(r => r.id === m.runId)) ?? [])
useHead({ title: 'Board · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><h1>Board</h1></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <template v-if="board">
        <section class="band">
          <h2>Under way</h2>
          <div class="panel">
            <NuxtLink v-for="r in underWay" :key="r.id" :to="`/runs/${r.id}`" class="line">
              <b>Run {{ r.id }}</b> <span>{{ r.question }}</span> <span class="plantx b">{{ r.sentence }}</span>
              <span class="spring" /><span class="q">{{ outByRun(r.id).length }} machines · {{ euro(outByRun(r.id).reduce((s, m) => s + m.cost, 0)) }} so
                far</span>
            </NuxtLink>
            <NuxtLink v-if="kept.length" to="/fleet" class="line">
              <b>{{ kept.length }} machines kept</b><span class="q">{{ euro(kept.reduce((s, m) => s + m.perHour, 0)) }}/h, the last lease ends in
                {{ duration(Math.max(...kept.map(m => m.leaseEndsAt)) - live.controllerNow) }}</span>
            </NuxtLink>
            <p v-if="!underWay.length && !kept.length" class="line q">
              Nothing is out and nothing waits. Open a question below and start it.
            </p>
          </div>
        </section>
        <section class="band">
          <h2>Questions ready to ask</h2>
          <div class="panel">
            <div v-for="p in board.plans" :key="p.id" class="line">
              <NuxtLink
                :to="`/plans/${p.id}`"
                class="question"
              ><b>{{ p.name }}</b> {{ p.question }}</NuxtLink>
              <span class="spring" />
              <span class="q">{{ count(p.peakUsers) }} users · {{ p.groups }} groups · {{ p.locations }} locations ·
                {{ p.target }}</span>
              <span v-if="p.problemsInTheWay" class="brick">{{ p.problemsInTheWay }} in the way</span>
              <UButton :to="`/plans/${p.id}`" size="sm">Open</UButton>
            </div>
            <p v-if="!board.plans.length" class="line q">
              No plan yet. Start Vornak with <span class="mono">npm run demo</span> to see one.
            </p>
          </div>
        </section>
        <section class="band">
          <h2>Answered</h2>
          <div class="panel">
            <RunSentence v-for="r in answered" :key="r.id" :run="r" />
            <p v-if="!answered.length" class="line q">No run has ended yet.</p>
          </div>
        </section>
      </template>
      <p v-else-if="!problem" class="q">Reading the board…</p>
    </div>
  </div>
</template>

<style scoped>
.band {
  margin-top: 12px;
}
.band h2 {
  margin-bottom: 6px;
}
.line {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 7px 10px;
  border-bottom: 1px solid var(--hair);
  min-height: 38px;
}
.line:last-child {
  border-bottom: 0;
}
.question:hover {
  text-decoration: underline;
}
.question b {
  margin-right: 8px;
}
.spring {
  flex: 1;
}
.b {
  font-weight: 620;
}
</style>

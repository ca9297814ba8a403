<script setup lang="ts">
/** All runs, the latest first. */
import type { ApiProblem, RunLine } from '~~/api/views'

const live = useLive()
const runs = ref<RunLine[]>()
const problem = ref<ApiProblem>()
async function load(): Promise<void> {
  try { runs.value = await api<RunLine[]>('runs') }
  catch (error) { problem.value = problemOf(error) }
}
onMounted(load)
live.onNews((news) => { if (news.kind === 'run') void load() })
useHead({ title: 'Runs · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><h1>Runs</h1></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="runs?.length" class="panel"><RunSentence v-for="r in runs" :key="r.id" :run="r" /></div>
      <p v-else-if="runs" class="q">No run yet. Open a plan and start it.</p>
      <p v-else-if="!problem" class="q">Reading the runs…</p>
    </div>
  </div>
</template>

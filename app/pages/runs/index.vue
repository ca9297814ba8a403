<script setup lang="ts">
/** All runs, the latest first. */
import type { RunLine } from '~~/api/views'

const live = useLive()
const { problem, read } = useGuarded()
const { found: runs, load } = read<RunLine[]>('runs')
live.onNews((news) => {
  if (news.kind === 'run') void load()
})
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

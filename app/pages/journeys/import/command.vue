<script setup lang="ts">
/** A new command journey, opened at once. */
import type { ApiProblem } from '~~/api/views'
import type { CommandJourney } from '~~/core/journey/journey'

const problem = ref<ApiProblem>()
onMounted(async () => {
  const journey: CommandJourney = {
    schema: 'vornak-journey/1',
    kind: 'command',
    id: 'new',
    name: 'New command',
    kit: '',
    runtimes: [],
    run: [],
    steps: ['sample'],
    bringBack: [],
  }
  try {
    const saved = await api('newJourney', {}, { journey })
    await goTo({ path: `/journeys/${saved.id}`, replace: true })
  }
  catch (error) {
    problem.value = problemOf(error)
  }
})
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <ProblemNote v-if="problem" :problem="problem" /><span v-else class="q">Making a command journey…</span>
    </div>
  </div>
</template>

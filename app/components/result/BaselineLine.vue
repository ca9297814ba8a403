<script setup lang="ts">
/** How a run stands to the baseline of its plan; or that it is that itself. */
import { comparedSentence } from '~~/core/compare/words'
import type { RunLine } from '~~/api/views'

const { run } = defineProps<{ run: RunLine }>()
const emit = defineEmits<{ changed: [] }>()
const { problem, guarded } = useGuarded()
const { found, problem: notCompared } = useNewestAnswer(
  () => (run.baseline === undefined ? undefined : [run.baseline, run.id]),
  runs => (runs ? api('compare', { runs: runs.join(',') }) : Promise.resolve(undefined)),
)
const says = computed(() => found.value && comparedSentence(found.value, 0))
async function endIt(): Promise<void> {
  if (await guarded(() => api('setBaseline', { run: run.id }, { isBaseline: false }))) emit('changed')
}
</script>

<template>
  <p v-if="run.isBaseline" class="line s12">
    <b>The baseline of its plan</b>: later runs are held against it, and it is kept for good.
    <UButton size="xs" variant="link" @click="endIt">No more</UButton>
  </p>
  <p v-else-if="run.baseline !== undefined" class="line s12" role="status">
    <span class="q">Against the baseline: </span>
    <template v-if="says">{{ says }} <NuxtLink class="link" :to="`/runs/compare?runs=${run.baseline},${run.id}`">Row by row</NuxtLink></template>
    <span v-else-if="notCompared" class="plantx"> {{ notCompared.sentence }}</span>
    <span v-else class="q"> adding up run {{ run.baseline }} and this one…</span>
  </p>
  <ProblemNote v-if="problem" :problem="problem" />
</template>

<style scoped>
.line {
  margin: 2px 0 0;
}
</style>

<script setup lang="ts">
/**
 * A run again: says what has changed since it was made, and lets one choose between the plan as it is now and exactly
 * the run's own document.
 */
import type { AgainView, ApiProblem, RunLine } from '~~/api/views'

const open = defineModel<boolean>('open', { required: true })
const { run } = defineProps<{ run: Pick<RunLine, 'id' | 'planId' | 'planName'> }>()
const view = ref<AgainView>()
const problem = ref<ApiProblem>()
const starting = ref(false)
/** Differences shown before the rest is counted. */
const SHOWN = 6
watch(
  open,
  async (is) => {
    if (!is) return
    view.value = undefined
    problem.value = undefined
    try {
      view.value = await api('again', { run: run.id })
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  },
  { immediate: true },
)
async function start(which: () => Promise<RunLine>): Promise<void> {
  if (starting.value) return
  starting.value = true
  try {
    const line = await which()
    open.value = false
    await goTo(`/runs/${line.id}`)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  finally {
    starting.value = false
  }
}
</script>

<template>
  <UModal v-model:open="open" :title="`Run ${run.id} again`" :description="`Of ${run.planName}.`">
    <template #body>
      <div class="again">
        <ProblemNote v-if="problem" :problem="problem" />
        <p v-if="!view && !problem" class="q">Comparing with the plan as it is now…</p>
        <template v-if="view">
          <p v-if="view.planVersionNow === undefined">
            The plan does not exist any more: only the run’s own document is left.
          </p>
          <p v-else-if="!view.differences.length">
            Nothing has changed since: plan, journeys, networks and target are as they were.
          </p>
          <template v-else>
            <p>
              <b>{{ view.differences.length }} {{ view.differences.length === 1 ? 'thing has' : 'things have' }} changed
                since.</b> <span class="q">The run was of version {{ view.planVersionThen }}; the plan is at version
                {{ view.planVersionNow }}.</span>
            </p>
            <ul>
              <li v-for="d in view.differences.slice(0, SHOWN)" :key="d">{{ d }}</li>
              <li v-if="view.differences.length > SHOWN" class="q">and {{ view.differences.length - SHOWN }} more</li>
            </ul>
          </template>
          <p v-if="view.exactlyInTheWay.length" class="brick">
            <AGlyph name="inTheWay" word="in the way" /> Exactly as it ran is not possible now:
            {{ view.exactlyInTheWay.join(' ') }}
          </p>
        </template>
      </div>
    </template>
    <template #footer>
      <span class="spring" />
      <UButton @click="open = false">Cancel</UButton>
      <UButton
        v-if="view && (view.differences.length || view.planVersionNow === undefined)"
        v-needs="'operator'"

        :aria-disabled="view.exactlyInTheWay.length > 0"
        @click="view.exactlyInTheWay.length === 0 && start(() => api('repeat', { run: run.id }))"
      >
        Exactly as it ran
      </UButton>
      <UButton
        v-if="view && view.planVersionNow !== undefined"
        v-needs="'operator'"
        variant="solid"
        @click="start(() => api('startPlan', { plan: run.planId }))"
      >
        {{ view.differences.length ? `The plan as it is now, version ${view.planVersionNow}` : 'Start' }}
      </UButton>
    </template>
  </UModal>
</template>

<style scoped>
.again {
  display: grid;
  gap: 8px;
}
ul {
  display: grid;
  gap: 2px;
  padding-left: 16px;
  list-style: square;
  font-size: 12.5px;
}
li {
  overflow-wrap: anywhere;
}
</style>

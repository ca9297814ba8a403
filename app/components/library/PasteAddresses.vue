<script setup lang="ts">
/** Pasted addresses become a journey, a target to be approved and a small plan. */
import type { ApiProblem } from '~~/api/views'

const open = defineModel<boolean>({ required: true })
const text = ref('')
const problem = ref<ApiProblem>()
const busy = ref(false)

async function begin(): Promise<void> {
  if (busy.value) return
  busy.value = true
  try {
    const made = await api<{ journeyId: string, targetId: string }>('imports/urls', 'POST', { text: text.value })
    open.value = false
    text.value = ''
    await navigateTo(`/journeys/${made.journeyId}?target=${made.targetId}`)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  busy.value = false
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="Paste addresses"
    description="One or several, one a line. They become the steps of a journey, with a target that waits for approval and a small plan."
  >
    <template #body>
      <form class="dialog-form" @submit.prevent="begin">
        <ProblemNote v-if="problem" :problem="problem" />
        <label
        >Addresses
          <textarea
            v-model="text"
            class="field tall mono"
            rows="6"
            placeholder="https://portal.example/timetable"
            autofocus
          />
        </label>
        <button class="btn act" type="submit" :aria-disabled="busy">{{ busy ? 'Making…' : 'Make the journey' }}</button>
      </form>
    </template>
  </UModal>
</template>

<style scoped>
.tall {
  height: auto;
  padding: 6px 8px;
}
</style>

<script setup lang="ts">
/** Records what a target's owner has agreed to. */
import type { ApiProblem } from '~~/api/views'
import type { Target } from '~~/core/journey/target'

const open = defineModel<boolean>({ required: true })
const { target } = defineProps<{ target: Target }>()
const emit = defineEmits<{ saved: [] }>()
const hosts = ref('')
const mostUsers = ref('')
const until = ref('')
const contact = ref('')
const problem = ref<ApiProblem>()

watch(open, (is) => {
  if (!is) return
  const a = target.approval
  hosts.value = (a?.hosts ?? [new URL(target.baseUrl).host]).join('\n')
  mostUsers.value = String(a?.mostUsers ?? '')
  until.value = a ? a.until.slice(0, 16) : ''
  contact.value = a?.contact ?? ''
  problem.value = undefined
})

async function save(): Promise<void> {
  try {
    await api(`targets/${encodeURIComponent(target.id)}/approval`, 'PUT', {
      approval: {
        hosts: hosts.value.split(/\s+/).filter(Boolean),
        mostUsers: Number(mostUsers.value),
        until: until.value ? new Date(until.value).toISOString() : '',
        contact: contact.value,
      },
    })
    open.value = false
    emit('saved')
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
</script>

<template>
  <UModal
    v-model:open="open"
    :title="`Approval of ${target.name}`"
    description="A load test is an attack on what has not agreed to it. Only these hosts are sent to, up to this load."
  >
    <template #body>
      <form class="dialog-form" @submit.prevent="save">
        <ProblemNote v-if="problem" :problem="problem" />
        <label>Hosts, one a line, with port <textarea v-model="hosts" class="field tall" rows="2" /></label>
        <label>Most users at once <input v-model="mostUsers" class="field" inputmode="numeric" required></label>
        <label>Until <input v-model="until" class="field" type="datetime-local" required></label>
        <label>Who agreed <input v-model="contact" class="field" required></label>
        <button class="btn act" type="submit">Record the approval</button>
      </form>
    </template>
  </UModal>
</template>

<style scoped>
.tall {
  height: auto;
}
</style>

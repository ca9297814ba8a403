<script setup lang="ts">
/** Records what a target's owner has agreed to. */
import type { ApiProblem } from '~~/api/views'
import { proposedApproval, type Approval, type Target } from '~~/core/journey/target'

const open = defineModel<boolean>({ required: true })
/** `range`: addresses that are to be among those its names may stand for. */
const { target, range } = defineProps<{ target: Target, range?: string }>()
const emit = defineEmits<{ saved: [] }>()
const approval = ref<Approval>({ hosts: [], mostUsers: 100, until: '', contact: '' })
const problem = ref<ApiProblem>()

watch(open, (is) => {
  if (!is) return
  approval.value = structuredClone(toRaw(target.approval)) ?? proposedApproval(target, Date.now())
  const { addressRanges = [] } = approval.value
  if (range && !addressRanges.includes(range)) approval.value.addressRanges = [...addressRanges, range]
  problem.value = undefined
}, { immediate: true })

async function save(): Promise<void> {
  try {
    await api('setApproval', { target: target.id }, { approval: approval.value })
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
      <FaultForm :problem="problem" class="dialog-form" @submit="save">
        <ApprovalFields v-model="approval" at="approval." />
        <UButton variant="solid" type="submit">Record the approval</UButton>
      </FaultForm>
    </template>
  </UModal>
</template>

<script setup lang="ts">
/** The report of a run by mail, at once: the answer in its subject, the PDF beside it. */
import { MOST_MAILED, readAddresses } from '~~/core/plan/mailed'

const open = defineModel<boolean>('open', { required: true })
const { runId } = defineProps<{ runId: number }>()
const { problem, guarded } = useGuarded()
const written = ref('')
const isSending = ref(false)
const fault = computed(() => {
  const read = readAddresses(written.value)
  if ('fault' in read) return `“${read.fault}” is no address of mail.`
  return read.addresses.length > MOST_MAILED ? `At most ${MOST_MAILED} at once.` : undefined
})
async function send(): Promise<void> {
  const read = readAddresses(written.value)
  if ('fault' in read || read.addresses.length === 0) return
  isSending.value = true
  const went = await guarded(() => api('mailReport', { run: runId }, { to: read.addresses }))
  isSending.value = false
  if (!went) return
  open.value = false
  useToast().add({ title: `On its way to ${read.addresses.join(', ')}. Mail and hooks, under People, tells when it was taken.` })
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="Mail the report"
    description="The answer stands in the subject; the PDF, made as it is chosen here, goes with it."
  >
    <template #body>
      <form id="mail" class="dialog-form" @submit.prevent="send">
        <ProblemNote v-if="problem" :problem="problem" />
        <UFormField label="To, with commas between" :error="fault">
          <UInput v-model="written" autofocus placeholder="ana@example.org" />
        </UFormField>
      </form>
    </template>
    <template #footer>
      <UButton @click="open = false">Cancel</UButton>
      <UButton
        v-needs="'operator'"
        type="submit"
        form="mail"
        variant="solid"
        :loading="isSending"
        :disabled="fault !== undefined || written.trim() === ''"
      >Send</UButton>
    </template>
  </UModal>
</template>

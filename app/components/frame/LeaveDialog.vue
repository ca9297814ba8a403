<script setup lang="ts">
/** Asked when a screen is left with what is not saved. */
const leaving = useLeavingQuestion()
const busy = ref(false)
const open = computed({
  get: () => leaving.value !== undefined,
  set: (is) => {
    if (!is) leaving.value?.answer(false)
  },
})
async function saveAndLeave(): Promise<void> {
  busy.value = true
  const saved = await leaving.value?.save()
  busy.value = false
  leaving.value?.answer(saved === true)
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="Not saved yet"
    :description="leaving?.draft
      ? `Your changes of ${leaving.what} stay in this browser, and are back when you return.`
      : `Your changes of ${leaving?.what} are lost if you leave now.`"
  >
    <template #footer>
      <UButton @click="leaving?.answer(false)">Stay</UButton>
      <UButton :color="leaving?.draft ? undefined : 'error'" @click="leaving?.answer(true)">
        {{ leaving?.draft ? 'Leave, keep the draft' : 'Leave, lose them' }}
      </UButton>
      <UButton variant="solid" :aria-disabled="busy" data-focus-first @click="saveAndLeave">
        {{ busy ? 'Saving…' : 'Save and leave' }}
      </UButton>
    </template>
  </UModal>
</template>

<script setup lang="ts">
/**
 * An input that keeps what is being typed to itself until it is done: the screen around it is drawn anew several times
 * a second and must not take it away. What cannot be taken stays, with the reason under it.
 */
const { value, accept } = defineProps<{
  value: string | number
  /** Takes what was typed; a sentence, or false, says that it cannot be. */
  accept: (text: string) => boolean | string | undefined
}>()
const draft = ref(String(value))
const fault = ref<string>()
watch(() => value, back)

function back(): void {
  draft.value = String(value)
  fault.value = undefined
}

function done(): void {
  if (draft.value === String(value)) return back()
  const taken = accept(draft.value)
  if (taken === false) fault.value = `“${draft.value}” cannot be used here. Esc brings back what was there.`
  else if (typeof taken === 'string') fault.value = taken
  // Written anew as it was understood.
  else void nextTick(back)
}
</script>

<template>
  <FaultInput v-model="draft" :fault="fault" @change="done" @keydown.esc="back" />
</template>

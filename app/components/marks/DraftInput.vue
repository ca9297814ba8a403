<script setup lang="ts">
/**
 * An input that keeps what is being typed to itself until it is done: the screen around it is drawn anew several times
 * a second and must not take it away.
 */
const {
  value,
  accept,
  keep = false,
} = defineProps<{
  value: string | number
  /** Takes what was typed; false gives the old value back. */
  accept: (text: string) => boolean | undefined
  /** What was not taken stays, to be corrected. */
  keep?: boolean
}>()
const draft = ref(String(value))
watch(
  () => value,
  (now) => {
    draft.value = String(now)
  },
)
function done(): void {
  if (draft.value !== String(value) && accept(draft.value) === false && !keep) draft.value = String(value)
}
</script>

<template>
  <input v-model="draft" @change="done" @keydown.esc="draft = String(value)">
</template>

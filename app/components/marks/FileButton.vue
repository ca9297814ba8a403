<script setup lang="ts">
/** A button that asks for a file of one's own; one can be dropped on it, too. */
const { label, accept, says } = defineProps<{
  label: string
  accept: string
  /** What screen readers are told of the field; without it, the label. */
  says?: string
}>()
const emit = defineEmits<{ chosen: [file: File] }>()
const file = ref<File | null>()
watch(file, (now) => {
  if (!now) return
  emit('chosen', now)
  // The same file may be chosen again once it has been corrected.
  file.value = null
})
</script>

<template>
  <UFileUpload v-slot="{ open }" v-model="file" :accept="accept" :aria-label="says ?? label" class="inline-flex">
    <UButton @click="open()">{{ label }}</UButton>
  </UFileUpload>
</template>

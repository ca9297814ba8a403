<script setup lang="ts">
/** What went wrong and what to do, where it happened. */
import type { ApiProblem } from '~~/api/views'

const { problem } = defineProps<{ problem: ApiProblem, closable?: boolean }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <UAlert
    role="alert"
    color="error"
    variant="subtle"
    :close="closable"
    @update:open="emit('close')"
  >
    <template #leading><AGlyph name="inTheWay" word="problem" class="brick" /></template>
    <template #title>{{ problem.sentence }}</template>
    <template #description>{{ problem.remedy }}</template>
  </UAlert>
</template>

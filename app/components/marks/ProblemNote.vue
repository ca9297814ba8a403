<script setup lang="ts">
/** What went wrong and what to do, where it happened. */
import type { ApiProblem } from '~~/api/views'

const { problem } = defineProps<{ problem: ApiProblem }>()
</script>

<template>
  <p class="note" role="alert">
    <AGlyph name="inTheWay" word="problem" class="brick" />
    <span
    ><b>{{ problem.sentence }}</b> <span class="q">{{ problem.remedy }}</span></span
    >
  </p>
</template>

<style scoped>
.note {
  display: flex;
  gap: 8px;
  align-items: baseline;
  background: var(--brickbg);
  border: 1px solid var(--brick);
  border-radius: 4px;
  padding: 6px 10px;
}
</style>

<script setup lang="ts">
/** Under a heading: what the dotted line is, where there is one. */
import { timeText } from '~~/core/values/said-figures'

defineProps<{ ms: number | undefined }>()
const SAYS = 'What it took with nobody else there: one user, once from each location, in the rehearsal; no network added.'
</script>

<template>
  <span v-if="ms !== undefined" class="legend" :title="SAYS"><i />unloaded<b>{{ timeText(ms) }}</b></span>
</template>

<style scoped>
.legend {
  display: flex;
  align-items: center;
  gap: 4px;
  color: var(--quiet);
  height: 14px;
  width: 104px;
  flex: none;
}
.legend i {
  width: 14px;
  flex: none;
  border-top: 2px dotted var(--quiet);
}
.legend b {
  margin-left: auto;
  color: var(--ink);
  font-weight: 620;
  white-space: nowrap;
}
</style>

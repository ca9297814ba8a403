<script setup lang="ts">
/** How many there were; the number opens the exchanges that were kept of them. */
import { count } from '~~/core/values/said-figures'

const { n, of, color } = defineProps<{
  n: number
  color?: 'error'
  /** What was counted, in words. */
  of: string
}>()
defineEmits<{ open: [] }>()
</script>

<template>
  <UButton
    v-if="n > 0"
    size="xs"
    variant="link"
    class="n"
    :color="color"
    :aria-label="`${n} ${of}: show exchanges`"
    @click="$emit('open')"
  >
    {{ count(n) }}
  </UButton>
  <span v-else class="q">–</span>
</template>

<style scoped>
.n {
  padding: 0;
  font-variant-numeric: tabular-nums;
}
</style>

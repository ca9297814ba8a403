<script setup lang="ts">
/** Of a long run not every second is drawn: which ones are. */
import type { SecondFigures } from '~~/api/views'

const { seconds, span } = defineProps<{
  seconds: readonly (SecondFigures | undefined)[]
  span: { fromS: number, toS: number }
}>()
const stretchS = computed(() => seconds[Math.max(0, Math.floor(span.fromS))]?.stretchS ?? 1)
</script>

<template>
  <p v-if="stretchS > 1" class="q s12">
    Drawn are the slowest of every {{ stretchS }} s, and of generators the worst of every minute: zoom in for every second.
  </p>
</template>

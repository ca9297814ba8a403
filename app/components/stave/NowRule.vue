<script setup lang="ts">
/** The present second, a rule over all staffs: it moves more often than what is drawn there. */
const { span, width, left } = defineProps<{
  /** Run seconds that are shown. */
  span: { fromS: number, toS: number }
  /** Room they have, and where it begins, px. */
  width: number
  left: number
}>()
const store = useRun()
const px = computed(() => {
  const { nowS } = store
  if (nowS === undefined || nowS < span.fromS || nowS > span.toS) return undefined
  return left + Math.round((width * (nowS - span.fromS)) / (span.toS - span.fromS))
})
</script>

<template>
  <div v-if="px !== undefined" class="now" :style="{ translate: `${px}px` }" />
</template>

<style scoped>
.now {
  position: absolute;
  left: 0;
  bottom: 0;
  border-left: 1.4px solid var(--ink);
  pointer-events: none;
}
</style>

<script setup lang="ts">
/** Counts over the time of a window, each strip to its own height. */
const { counts, word } = defineProps<{ counts: readonly number[], word: string }>()
const most = computed(() => Math.max(1, ...counts))
/** Height of the tallest, px. */
const PX = 16
</script>

<template>
  <svg class="strip" :viewBox="`0 0 ${counts.length} ${PX}`" preserveAspectRatio="none" role="img" :aria-label="word">
    <rect
      v-for="(n, i) in counts"
      :key="i"
      :x="i"
      :y="PX - (n / most) * PX"
      :height="(n / most) * PX"
      width="0.9"
    />
    <line x1="0" :x2="counts.length" :y1="PX" :y2="PX" />
  </svg>
</template>

<style scoped>
.strip {
  display: block;
  width: 130px;
  height: 16px;
  fill: var(--brick);
  stroke: none;
}
.strip line {
  stroke: var(--hair);
  vector-effect: non-scaling-stroke;
}
</style>

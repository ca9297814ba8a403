<script setup lang="ts">
/** One line of the target's own over all that was read, the load shaded: before it, under it, after it. */
import { stripPath } from '~/format/strip-path'

const { atS, values, fromS, toS, loadS, level } = defineProps<{
  atS: readonly number[]
  values: readonly (number | null)[]
  /** What is shown, run times. */
  fromS: number
  toS: number
  /** Length of the load. */
  loadS: number
  /** Drawn across: how it was at rest. */
  level?: number
}>()
const WIDTH = 260
const HEIGHT = 22
const x = (at: number) => ((at - fromS) / Math.max(1, toS - fromS)) * WIDTH
const most = computed(() => Math.max(level ?? 0, ...values.map(v => v ?? 0)) || 1)
const y = (v: number) => HEIGHT - 1 - (v / most.value) * (HEIGHT - 2)
const path = computed(() => stripPath(values, at => x(atS[at]!), y))
</script>

<template>
  <svg class="strip" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" aria-hidden="true">
    <rect class="load" :x="x(0)" y="0" :width="Math.max(0, x(loadS) - x(0))" :height="HEIGHT" />
    <line
      v-if="level !== undefined"
      class="rest"
      x1="0"
      :x2="WIDTH"
      :y1="y(level)"
      :y2="y(level)"
    />
    <path :d="path" />
  </svg>
</template>

<style scoped>
.strip {
  display: block;
  width: 260px;
  height: 22px;
}
.strip path {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.2;
}
.load {
  fill: var(--shade);
}
.rest {
  stroke: var(--plan);
  stroke-dasharray: 4 3;
}
</style>

<script setup lang="ts">
/**
 * An objective over the runs of its plan, the oldest at the left: a dot a run, solid where it held, brick where it was
 * broken, hollow where the run is unsound; the limit as a line, and beside the newest where it was to be expected.
 */
import type { TrendLine } from '~~/core/compare/trend'
import { sayValue } from '~~/core/objectives/judge'

const { line, runs } = defineProps<{
  line: TrendLine
  /** Numbers of the runs, the oldest first. */
  runs: readonly number[]
}>()
const WIDTH = 420
const HEIGHT = 46
const PAD = 8
const HALF_BAND = 5
const limit = computed(() => line.objective.atMost ?? line.objective.atLeast)
/** From nothing to a little over all that is drawn. */
const top = computed(() =>
  1.08 * Math.max(...line.points.map(p => p.measured), limit.value ?? 0, line.expected?.most ?? 0, Number.MIN_VALUE))
const y = (value: number) => HEIGHT - PAD / 2 - (value / top.value) * (HEIGHT - PAD)
const x = (run: number) => PAD + (runs.indexOf(run) / Math.max(1, runs.length - 1)) * (WIDTH - 2 * PAD)
const path = computed(() => line.points.map((p, i) => `${i === 0 ? 'M' : 'L'}${x(p.run)} ${y(p.measured)}`).join(''))
const band = computed(() => {
  const newest = line.points.at(-1)
  if (!line.expected || !newest) return undefined
  const { least, most } = line.expected
  return { x: x(newest.run) - HALF_BAND, y: y(most), height: Math.max(1, y(least) - y(most)) }
})
const says = computed(() =>
  line.points
    .map(p => `run ${p.run} ${sayValue(line.objective, p.measured)}${p.held ? '' : ', broken'}${p.counts ? '' : ', unsound'}`)
    .join('; '))
</script>

<template>
  <svg class="strip" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="says">
    <line class="ground" :x1="PAD / 2" :x2="WIDTH - PAD / 2" :y1="y(0)" :y2="y(0)" />
    <rect
      v-if="band"
      class="band"
      :x="band.x"
      :y="band.y"
      :width="2 * HALF_BAND"
      :height="band.height"
    />
    <line
      v-if="limit !== undefined"
      class="limit"
      :x1="PAD / 2"
      :x2="WIDTH - PAD / 2"
      :y1="y(limit)"
      :y2="y(limit)"
    />
    <path class="course" :d="path" />
    <circle
      v-for="p in line.points"
      :key="p.run"
      class="dot"
      :class="{ broken: !p.held, hollow: !p.counts }"
      :cx="x(p.run)"
      :cy="y(p.measured)"
      r="3.4"
    />
  </svg>
</template>

<style scoped>
.strip {
  display: block;
  width: 420px;
  height: 46px;
}
.ground {
  stroke: var(--hair);
}
.band {
  fill: var(--shade);
  stroke: var(--edge);
}
.limit {
  stroke: var(--brick);
}
.course {
  fill: none;
  stroke: var(--edge);
}
.dot {
  fill: var(--ink);
  stroke: var(--ink);
  stroke-width: 1.3;
}
.dot.broken {
  fill: var(--brick);
  stroke: var(--brick);
}
.dot.hollow {
  fill: var(--panel);
}
</style>

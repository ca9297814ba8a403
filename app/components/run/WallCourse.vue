<script setup lang="ts">
/** The course of a run, read from afar: users as planned and as they are, below them the time the question is about. */
import type { WallCourse } from '~~/core/result/wall-course'
import { count, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { stripPath } from '~/format/strip-path'

const { course } = defineProps<{ course: WallCourse }>()
/** What is drawn highest has a little air above it. */
const AIR = 1.1
const largest = (values: readonly (number | null)[]) => values.reduce<number>((most, v) => Math.max(most, v ?? 0), 0)
const steps = computed(() => Math.max(course.planned.length, course.users.length))
const mostUsers = computed(() => Math.max(1, largest(course.planned), largest(course.users)))
const slowest = computed(() => largest(course.ms))
const topMs = computed(() => AIR * Math.max(1, slowest.value, course.limitMs ?? 0))
/** In a box of 100 × 100: each value in the middle of its stretch. */
const y = (value: number, top: number) => 100 - (100 * value) / top
const path = (values: readonly (number | null)[], top: number) =>
  stripPath(values, at => (100 * (at + 0.5)) / steps.value, value => y(value, top))
const limitY = computed(() => (course.limitMs === undefined ? undefined : y(course.limitMs, topMs.value)))
const isOver = computed(() => course.limitMs !== undefined && slowest.value > course.limitMs)
</script>

<template>
  <figure class="course" :aria-label="`Users, and ${course.name}, from the beginning`">
    <p class="of">users, at most <b>{{ count(mostUsers) }}</b></p>
    <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
      <path class="planned-line" :d="path(course.planned, mostUsers * AIR)" />
      <path class="line" :d="path(course.users, mostUsers * AIR)" />
    </svg>
    <p class="of">
      {{ course.name }}, at most <b :class="{ brick: isOver }">{{ timeText(slowest) }}</b>
      <template v-if="course.limitMs !== undefined"><br>limit {{ timeText(course.limitMs) }}</template>
    </p>
    <svg viewBox="0 0 100 100" preserveAspectRatio="none" aria-hidden="true">
      <line
        v-if="limitY !== undefined"
        class="limit"
        x1="0"
        x2="100"
        :y1="limitY"
        :y2="limitY"
      />
      <path class="line" :d="path(course.ms, topMs)" />
    </svg>
    <p class="ends"><span>+0 s</span><span>{{ runTime(steps * course.stretchS) }}</span></p>
  </figure>
</template>

<style scoped>
.course {
  display: grid;
  grid-template-columns: minmax(30vmin, 0.2fr) minmax(0, 1fr);
  gap: 1vmin 2vmin;
  align-items: center;
}
.of,
.ends {
  color: var(--quiet);
  font-size: 2.2vmin;
  line-height: 1.25;
}
.of b {
  color: var(--ink);
  white-space: nowrap;
}
.of b.brick {
  color: var(--brick);
}
.ends {
  grid-column: 2;
  display: flex;
  justify-content: space-between;
}
svg {
  display: block;
  width: 100%;
  height: 14vmin;
  border-bottom: 1px solid var(--edge);
}
svg * {
  vector-effect: non-scaling-stroke;
  fill: none;
}
.line {
  stroke: var(--ink);
  stroke-width: 2;
}
.planned-line {
  stroke: var(--plan);
  stroke-width: 4;
  stroke-dasharray: 6 4;
}
.limit {
  stroke: var(--brick);
  stroke-width: 1.5;
}
</style>

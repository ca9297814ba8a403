<script setup lang="ts">
/**
 * How one row of a run differs from the baseline, on a rule as wide as repeats lie apart: a dot with its interval,
 * solid where it lies beyond; the repeats as strokes.
 */
import type { CompareView } from '~~/api/views'
import { differenceText, drawnDifference } from '~~/core/compare/words'

type Row = CompareView['rows'][number]
const { row, at, most } = defineProps<{
  row: Row
  /** Of the run among the others. */
  at: number
  /** Drawn so far to each side, in percent or points. */
  most: number
}>()
const WIDTH = 200
const HEIGHT = 22
const MIDDLE = HEIGHT / 2
const PAD = 8
/** It lies beyond what is drawn. */
const TO_THE_LEFT = `M2 ${MIDDLE}l8 -5v10z`
const TO_THE_RIGHT = `M${WIDTH - 2} ${MIDDLE}l-8 -5v10z`
const x = (by: number) => {
  const drawn = Math.max(-most, Math.min(most, drawnDifference(row.metric, by)))
  return WIDTH / 2 + (drawn / most) * (WIDTH / 2 - PAD)
}
const own = computed(() => row.others[at]!)
const ends = computed(() => own.value.difference?.interval?.map(x))
const isOff = computed(() => Math.abs(drawnDifference(row.metric, own.value.difference?.by ?? 0)) > most)
const yardstick = computed(() => own.value.yardstick)
const rule = computed(() => yardstick.value && { from: x(yardstick.value.least), to: x(yardstick.value.most) })
const isSolid = computed(() => own.value.standing === 'beyond')
const label = computed(() => {
  const { difference } = own.value
  if (!difference) return undefined
  const dot = x(difference.by)
  const [least, end] = ends.value ?? [dot, dot]
  const isLeft = dot < WIDTH / 2
  const at = isLeft ? Math.max(least ?? PAD, PAD) - 6 : (end ?? PAD) + 6
  return { text: differenceText(row.metric, difference.by), x: at, isLeft }
})
/** Too near the edge for its words: they stand on the other side. */
const isTurned = computed(() => label.value && (label.value.isLeft ? label.value.x < 46 : label.value.x > WIDTH - 46))
const turnedX = computed(() => {
  const dot = x(own.value.difference?.by ?? 0)
  return label.value?.isLeft ? (ends.value?.[1] ?? dot) + 8 : (ends.value?.[0] ?? dot) - 8
})
</script>

<template>
  <svg class="mark" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" aria-hidden="true">
    <rect
      v-if="rule"
      class="rule"
      :x="rule.from"
      y="3"
      :width="Math.max(1, rule.to - rule.from)"
      :height="HEIGHT - 6"
    />
    <line
      v-else
      class="norule"
      x1="8"
      :x2="WIDTH - 8"
      :y1="MIDDLE"
      :y2="MIDDLE"
    />
    <line
      v-for="(r, i) in yardstick?.repeats ?? []"
      :key="i"
      class="repeat"
      :x1="x(r)"
      :x2="x(r)"
      y1="3"
      y2="8"
    />
    <line class="zero" :x1="WIDTH / 2 - 1.5" :x2="WIDTH / 2 - 1.5" y1="0" :y2="HEIGHT" />
    <line class="zero" :x1="WIDTH / 2 + 1.5" :x2="WIDTH / 2 + 1.5" y1="0" :y2="HEIGHT" />
    <template v-if="own.difference">
      <line
        v-if="ends"
        class="interval"
        :x1="ends[0]"
        :x2="ends[1]"
        :y1="MIDDLE"
        :y2="MIDDLE"
      />
      <path v-if="isOff" class="dot solid" :d="own.difference.by < 0 ? TO_THE_LEFT : TO_THE_RIGHT" />
      <circle
        v-else
        class="dot"
        :class="{ solid: isSolid }"
        :cx="x(own.difference.by)"
        :cy="MIDDLE"
        r="4.5"
      />
      <text
        v-if="label"
        :x="isTurned ? turnedX : label.x"
        :y="MIDDLE + 3.5"
        :text-anchor="label.isLeft === !isTurned ? 'end' : 'start'"
      >{{ label.text }}</text>
    </template>
  </svg>
</template>

<style scoped>
.mark {
  display: block;
  width: 200px;
  height: 22px;
}
.rule {
  fill: var(--shade);
  stroke: var(--edge);
}
.norule {
  stroke: var(--edge);
  stroke-dasharray: 1 4;
}
.repeat,
.zero {
  stroke: var(--quiet);
}
.interval {
  stroke: var(--ink);
  stroke-width: 1.6;
}
.dot {
  fill: var(--panel);
  stroke: var(--ink);
  stroke-width: 1.4;
}
.dot.solid {
  fill: var(--ink);
}
text {
  font-size: 11px;
  font-weight: 600;
  fill: var(--ink);
}
</style>

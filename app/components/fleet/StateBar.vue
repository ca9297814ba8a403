<script setup lang="ts">
/** A machine's state as texture: more ink, more in hand. Troubled states are brick. */
import { TROUBLED, type MachineState } from '~~/core/run/machine-life'

const { state, width } = defineProps<{ state: MachineState, width: number }>()
const id = useId()
const H = 10
/** Texture of each state: a pattern tile, or a plain shape across the bar. */
const tile = computed(
  () =>
    (
      ({
        booting: { w: 6, d: 'M2 6h2v3H2z' },
        installing: { w: 5, d: 'M2 4.5h2V9H2z' },
        enrolled: { w: 4, d: 'M1 3h2v6H1z' },
        draining: { w: 8, d: 'M0 6V0l8 6v4H0z' },
        lost: { w: 14, d: 'M0 0h10l-3 3.4 3 3.2L7 10h-10l3-3.4-3-3.2z' },
      }) as Record<string, { w: number, d: string } | undefined>
    )[state],
)
const framed = computed(() =>
  [
    'allocated',
    'booting',
    'installing',
    'enrolled',
    'ready',
    'failed',
    'unfit',
    'releasing',
    'releaseUnconfirmed',
  ].includes(state),
)
const dashed = computed(() => ['asked', 'refused'].includes(state))
const w = computed(() => Math.max(1, width))
</script>

<template>
  <svg :width="w" :height="H" :class="{ brick: TROUBLED.includes(state) }" class="bar" aria-hidden="true">
    <defs>
      <pattern v-if="tile" :id="id" :width="tile.w" :height="H" patternUnits="userSpaceOnUse">
        <path :d="tile.d" fill="currentColor" />
      </pattern>
      <pattern
        v-if="state === 'failed' || state === 'unfit'"
        :id="id"
        width="12"
        :height="H"
        patternUnits="userSpaceOnUse"
      >
        <path
          :d="state === 'failed' ? 'M3 2.5l5 5m0-5l-5 5' : 'M3 7.5l5-5'"
          stroke="currentColor"
          stroke-width="1.4"
          fill="none"
        />
      </pattern>
    </defs>
    <rect
      v-if="framed || dashed"
      x=".5"
      y=".5"
      :width="Math.max(0, w - 1)"
      :height="H - 1"
      fill="none"
      stroke="currentColor"
      :stroke-dasharray="dashed ? '2 2' : undefined"
    />
    <rect v-if="tile || state === 'failed' || state === 'unfit'" :width="w" :height="H" :fill="`url(#${id})`" />
    <rect
      v-if="state === 'ready'"
      x="2.5"
      y="3"
      :width="Math.max(0, w - 5)"
      height="4"
      fill="currentColor"
    />
    <rect
      v-if="state === 'loading' || state === 'reclaimed'"
      :width="w"
      :height="state === 'loading' ? H : 5"
      fill="currentColor"
    />
    <rect
      v-if="state === 'releasing' || state === 'released' || state === 'releaseUnconfirmed'"
      y="9"
      :width="w"
      height="1"
      fill="currentColor"
    />
    <rect v-if="state === 'refused'" y="4" :width="w" height="2" fill="currentColor" />
  </svg>
</template>

<style scoped>
.bar {
  display: block;
  color: var(--ink);
}
.bar.brick {
  color: var(--brick);
}
</style>

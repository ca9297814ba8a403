<script setup lang="ts">
/**
 * A fetch over a new connection on one profile, as time: connected, first byte, 100 kB, 1 MB. All profiles on the same
 * logarithmic axis.
 */
import { connectMs, feltRttMs, fetchMs } from '~~/core/network/expected'
import type { NetworkProfile } from '~~/core/network/profile'
import { timeText } from '~~/core/values/said-figures'

const { profile, realRttMs, secure } = defineProps<{ profile: NetworkProfile, realRttMs: number, secure: boolean }>()
const LEAST_MS = 1
const MOST_MS = 100_000
const x = (ms: number) =>
  Math.min(1, Math.max(0, Math.log10(Math.max(LEAST_MS, ms) / LEAST_MS) / Math.log10(MOST_MS / LEAST_MS))) * 100
const moments = computed(() => {
  const connected = connectMs(profile, realRttMs, secure)
  return {
    connected,
    first: connected + feltRttMs(profile, realRttMs),
    small: fetchMs(profile, realRttMs, 100_000, secure),
    large: fetchMs(profile, realRttMs, 1_000_000, secure),
  }
})
const TICKS = [1, 10, 100, 1000, 10_000, 100_000]
</script>

<template>
  <svg
    class="fetch"
    viewBox="0 0 100 22"
    preserveAspectRatio="none"
    role="img"
    :aria-label="`Connected after ${timeText(moments.connected)}, first byte after ${timeText(moments.first)}, 100 kB after ${timeText(moments.small)}, 1 MB after ${timeText(moments.large)}`"
  >
    <line
      v-for="t in TICKS"
      :key="t"
      :x1="x(t)"
      :x2="x(t)"
      y1="0"
      y2="22"
      class="tick"
    />
    <line :x1="0" :x2="x(moments.connected)" y1="11" y2="11" class="connect" />
    <rect
      :x="x(moments.connected)"
      y="8"
      :width="Math.max(0.4, x(moments.first) - x(moments.connected))"
      height="6"
      class="wait"
    />
    <rect
      :x="x(moments.first)"
      y="6"
      :width="Math.max(0.4, x(moments.small) - x(moments.first))"
      height="10"
      class="small"
    />
    <rect
      :x="x(moments.small)"
      y="4"
      :width="Math.max(0.4, x(moments.large) - x(moments.small))"
      height="14"
      class="large"
    />
  </svg>
</template>

<style scoped>
.fetch {
  width: 100%;
  height: 26px;
  display: block;
}
.fetch * {
  vector-effect: non-scaling-stroke;
}
.tick {
  stroke: var(--hair);
}
.connect {
  stroke: var(--edge);
  stroke-dasharray: 2 2;
}
.wait {
  fill: var(--edge);
}
.small {
  fill: var(--ink);
}
.large {
  fill: none;
  stroke: var(--ink);
}
</style>

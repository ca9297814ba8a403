<script setup lang="ts">
/** Exchanges of a pass on a time axis: connecting hatched, waiting full, bodies lighter, pauses as a thin line. */
import type { DrawnExchange } from '~~/core/result/waterfall'

const { exchanges, fromMs, toMs, baseline } = defineProps<{
  exchanges: readonly DrawnExchange[]
  /** What the width stands for; moments as those of the exchanges. */
  fromMs: number
  toMs: number
  /** From where to where the pass was under way: a line under it. */
  baseline?: { fromMs: number, toMs: number }
}>()
/** Nothing is narrower: a short exchange is seen, too, shares of the width. */
const LEAST = 0.004
const share = (ms: number) => (ms - fromMs) / Math.max(1, toMs - fromMs)
const box = (a: number, b: number) => {
  const [from, to] = [Math.max(0, share(a)), Math.min(1, share(b))]
  return { left: `${from * 100}%`, width: `${Math.max(LEAST, to - from) * 100}%` }
}
const isSeen = (a: number, b: number) => share(b) >= 0 && share(a) <= 1
const drawn = computed(() =>
  exchanges.flatMap(({ exchange, spells }, i) =>
    (spells.length > 0 ? spells : [{ kind: 'wait' as const, fromMs: exchanges[i]!.fromMs, toMs: exchanges[i]!.toMs }])
      .filter(s => isSeen(s.fromMs, s.toMs))
      .map((s, k) => ({ key: `${i} ${k}`, kind: s.kind, failed: exchange.failure !== undefined, style: box(s.fromMs, s.toMs) })),
  ))
</script>

<template>
  <span class="drawing" aria-hidden="true">
    <i v-if="baseline && isSeen(baseline.fromMs, baseline.toMs)" class="line" :style="box(baseline.fromMs, baseline.toMs)" />
    <i v-for="d in drawn" :key="d.key" :class="[d.kind, { failed: d.failed }]" :style="d.style" />
  </span>
</template>

<style scoped>
.drawing {
  position: relative;
  display: block;
  height: 14px;
  overflow: hidden;
}
i {
  position: absolute;
  top: 2px;
  bottom: 2px;
}
.line {
  top: auto;
  bottom: 2px;
  height: 1.4px;
  background: var(--quiet);
}
.lookup,
.connect,
.tls {
  background: repeating-linear-gradient(135deg, var(--quiet) 0 1.2px, transparent 1.2px 4px);
  outline: 1px solid var(--quiet);
  outline-offset: -1px;
}
.wait {
  background: var(--ink);
}
.body {
  background: var(--quiet);
}
.failed.wait,
.failed.body {
  background: var(--brick);
}
</style>

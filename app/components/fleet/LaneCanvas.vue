<script setup lang="ts">
/**
 * A lane of many machines: one thin line each, as much ink as it is in hand, drawn on one canvas so that hundreds stay
 * fluid.
 */
import { useElementSize } from '@vueuse/core'
import type { MachineLine } from '~~/api/views'
import { TROUBLED } from '~~/core/run/machine-life'
import { stretchesOf } from '~/format/fleet'

const { machines, now, pastMs, aheadMs } = defineProps<{
  machines: readonly MachineLine[]
  now: number
  pastMs: number
  aheadMs: number
}>()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const frame = useTemplateRef<HTMLElement>('frame')
const { width } = useElementSize(frame)
const colour = useColorMode()
/** Ink of each state, 0–1. */
const INK: Record<string, number> = {
  asked: 0.12,
  allocated: 0.22,
  booting: 0.32,
  installing: 0.42,
  enrolled: 0.55,
  ready: 0.72,
  loading: 1,
  draining: 0.85,
  releasing: 0.3,
  released: 0.15,
  reclaimed: 0.5,
}
/** Height of a machine's line: thinner the more there are, px. */
const row = computed(() => Math.max(2, Math.min(6, Math.floor(220 / Math.max(1, machines.length)))))
const height = computed(() => Math.max(40, row.value * machines.length))
/** Once a second is enough for a line of minutes. */
const second = computed(() => Math.floor(now / 1000))

watch([second, width, height, () => machines, () => colour.value], draw, { flush: 'post' })
onMounted(draw)

function draw(): void {
  const element = canvas.value
  const context = element?.getContext('2d')
  if (!element || !context || width.value === 0) return
  const ratio = window.devicePixelRatio || 1
  element.width = Math.round(width.value * ratio)
  element.height = Math.round(height.value * ratio)
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  const style = getComputedStyle(element)
  const [ink, brick, plan] = ['--ink', '--brick', '--plan'].map(name => style.getPropertyValue(name).trim())
  const scale = width.value / (pastMs + aheadMs)
  const x = (at: number) => (at - (now - pastMs)) * scale
  const bar = Math.max(1, row.value - 1)
  machines.forEach((m, i) => {
    const y = i * row.value
    for (const { state, from, to } of stretchesOf(m, now)) {
      const left = Math.max(0, x(from))
      const right = x(to)
      if (right <= left) continue
      const troubled = TROUBLED.includes(state)
      context.globalAlpha = troubled ? 1 : (INK[state] ?? 0.3)
      // There are as many colours as were asked for.
      context.fillStyle = troubled ? brick! : ink!
      context.fillRect(left, y, right - left, bar)
    }
    if (m.goneAt === undefined && m.leaseEndsAt < now + aheadMs) {
      context.globalAlpha = 1
      // As above.
      context.fillStyle = plan!
      context.fillRect(x(m.leaseEndsAt), y, 2, bar)
    }
  })
  context.globalAlpha = 1
}
</script>

<template>
  <div ref="frame" class="frame">
    <canvas
      ref="canvas"
      :style="{ width: '100%', height: `${height}px` }"
      role="img"
      :aria-label="`${machines.length} machines over time`"
    />
  </div>
</template>

<style scoped>
.frame {
  min-width: 0;
}
canvas {
  display: block;
}
</style>

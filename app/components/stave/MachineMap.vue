<script setup lang="ts">
/**
 * The machine map: a row per generator on the stave's own time axis; bar height is the worst signal ÷ its limit, brick
 * over it.
 */
import { useElementSize } from '@vueuse/core'
import type { RunView, SecondFigures } from '~~/api/views'
import { SIGNAL_LIMITS, SIGNAL_ORDER, SIGNAL_WORDS, saySignal } from '~~/core/capacity/signals'
import { saySizedBy } from '~~/core/fleet/sized-by'
import { orderOfPlace } from '~~/core/fleet/order'
import { runTime } from '~/format/moments'
import { LEFT, RIGHT } from './stave-geometry'
import { TROUBLED, type MachineState } from '~~/core/run/machine-life'

const { run, seconds, span } = defineProps<{
  run: RunView
  seconds: (SecondFigures | undefined)[]
  span: { fromS: number, toS: number }
}>()
const ROW = 14
const colours = useColours()
const frame = useTemplateRef<HTMLElement>('frame')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(frame)
const inner = computed(() => Math.max(1, Math.floor(width.value - LEFT - RIGHT)))

const rows = computed(() =>
  run.generators.map((g, number) => {
    const machine = run.machines.find(m => m.id === g.machineId)
    const latest = seconds
      .findLast(s => s?.generators.some(x => x[0] === number))
      ?.generators.find(x => x[0] === number)
    const signal = latest && SIGNAL_ORDER[latest[2]]!
    const place = run.generators.slice(0, number).filter(o => o.location === g.location).length
    const shift = orderOfPlace(run.document.fleet, g.location, place)?.shift
    return {
      ...g,
      shift,
      state: machine?.state ?? 'asked',
      over: (latest?.[1] ?? 0) > 1,
      text:
        g.silentSince !== undefined
          ? 'unknown'
          : latest && signal
            ? `${SIGNAL_WORDS[signal]} ${saySignal(signal, latest[1] * SIGNAL_LIMITS[signal])}`
            : !shift
                ? ''
                : machine?.goneAt !== undefined
                  ? 'stays away'
                  : `from ${runTime(shift.fromMs / 1000)}`,
    }
  }),
)

function draw(): void {
  const c = colours.value
  const context = canvas.value?.getContext('2d')
  if (!c || !context || !canvas.value) return
  const scale = window.devicePixelRatio || 1
  canvas.value.width = inner.value * scale
  canvas.value.height = rows.value.length * ROW * scale
  context.scale(scale, scale)
  context.fillStyle = c.panel
  context.fillRect(0, 0, inner.value, rows.value.length * ROW)
  const px = inner.value / (span.toS - span.fromS)
  // Before and after the peak its machines have nobody.
  context.fillStyle = c.shade
  rows.value.forEach(({ shift }, i) => {
    if (!shift) return
    const from = Math.max(0, (shift.fromMs / 1000 - span.fromS) * px)
    const to = Math.max(0, (shift.toMs / 1000 - span.fromS) * px)
    context.fillRect(0, i * ROW, from, ROW)
    context.fillRect(to, i * ROW, inner.value, ROW)
  })
  for (const s of seconds) {
    if (!s || s.second < span.fromS || s.second >= span.toS) continue
    const x = (s.second - span.fromS) * px
    const w = Math.max(1, Math.ceil(px - (px > 3 ? 0.5 : 0)))
    for (const [number, ratio] of s.generators) {
      const over = ratio > 1
      const h = over ? ROW - 2 : Math.max(1, Math.round((ROW - 3) * ratio))
      context.fillStyle = over ? c.brick : c.ink
      context.globalAlpha = (over ? 1 : ratio > 0.85 ? 0.85 : 0.38) * (s.final ? 1 : 0.45)
      context.fillRect(x, (number + 1) * ROW - 1 - h, w, h)
    }
  }
  context.globalAlpha = 1
  // Of whom nothing is heard nobody knows anything: hatched until now.
  const now = seconds.findLast(s => s !== undefined)?.second ?? 0
  rows.value.forEach(({ silentSince }, i) => {
    if (silentSince === undefined || run.line.startAt === undefined) return
    const from = Math.max(0, ((silentSince - run.line.startAt) / 1000 - span.fromS) * px)
    const to = Math.max(from + 3, (now + 1 - span.fromS) * px)
    context.save()
    context.beginPath()
    context.rect(from, i * ROW, to - from, ROW - 1)
    context.clip()
    context.strokeStyle = c.brick
    context.beginPath()
    for (let x = from - ROW; x < to; x += 5) {
      context.moveTo(x, (i + 1) * ROW - 1)
      context.lineTo(x + ROW, i * ROW)
    }
    context.stroke()
    context.restore()
  })
  context.fillStyle = c.hair
  rows.value.forEach((_, i) => context.fillRect(0, (i + 1) * ROW - 1, inner.value, 1))
}
watchEffect(draw, { flush: 'post' })
const SHOWN_AS_THEY_ARE: readonly MachineState[] = ['ready', 'loading', 'draining', 'releasing', 'released']
const glyph = (state: MachineState) =>
  TROUBLED.includes(state) || SHOWN_AS_THEY_ARE.includes(state) ? state : 'booting'
</script>

<template>
  <div ref="frame" class="map">
    <div class="head">
      <h2>Generators</h2>
      <span class="q">height: worst signal ÷ its limit · dark: over 85 % · brick, full: over the limit<template
        v-if="rows.some(r => r.silentSince !== undefined)"
      >
        · hatched: not heard</template></span>
    </div>
    <div class="rows">
      <div
        v-for="r in rows"
        :key="r.name"
        class="row"
        :class="{ brick: r.over || r.silentSince !== undefined || TROUBLED.includes(r.state) }"
        :title="`${r.name}. ${saySizedBy(run.document, r.location)}`"
      >
        <AGlyph
          :name="r.silentSince === undefined ? glyph(r.state) : 'unknown'"
          :size="10"
          :word="r.silentSince === undefined ? r.state : 'unknown'"
        /><b>{{ r.name }}</b><span class="text">{{ TROUBLED.includes(r.state) ? r.state : r.text }}</span>
      </div>
      <canvas
        ref="canvas"
        class="canvas"
        :style="{ left: `${LEFT}px`, width: `${inner}px`, height: `${rows.length * ROW}px` }"
        role="img"
        aria-label="Worst signal of each generator over time"
      />
    </div>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  height: 22px;
  align-items: center;
  white-space: nowrap;
  overflow: hidden;
  font-size: 11.5px;
}
.head h2 {
  width: 140px;
  flex: none;
}
.rows {
  position: relative;
}
.row {
  height: 14px;
  width: 134px;
  display: flex;
  align-items: center;
  gap: 5px;
  font-size: 11px;
  line-height: 14px;
}
.row b {
  letter-spacing: 0.03em;
  white-space: nowrap;
}
.row > * {
  flex: none;
}
.text {
  margin-left: auto;
  color: var(--quiet);
  white-space: nowrap;
  font-stretch: 86%;
}
.brick .text {
  color: var(--brick);
  font-weight: 620;
}
.canvas {
  position: absolute;
  top: 0;
  outline: 1px solid var(--hair);
}
</style>

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
import { MachineStrips, ROW, type StripFrame } from './machine-strips'
import { LEFT, RIGHT } from './stave-geometry'
import { TROUBLED, type MachineState } from '~~/core/run/machine-life'

const { run, seconds, span } = defineProps<{
  run: RunView
  seconds: (SecondFigures | undefined)[]
  span: { fromS: number, toS: number }
}>()
const colours = useColours()
const frame = useTemplateRef<HTMLElement>('frame')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const { width } = useElementSize(frame)
const inner = computed(() => Math.max(1, Math.floor(width.value - LEFT - RIGHT)))

// Parts of a run that is asked for again are the same objects, as long as they are as they were.
const generators = computed(() => run.generators)
const machines = computed(() => run.machines)
const runDocument = computed(() => run.document)
const startAt = computed(() => run.line.startAt)
/** What stands still from second to second. */
const calm = computed(() => {
  const byId = new Map(machines.value.map(m => [m.id, m]))
  const there = new Map<string, number>()
  return generators.value.map((g) => {
    const place = there.get(g.location) ?? 0
    there.set(g.location, place + 1)
    const machine = byId.get(g.machineId)
    return {
      name: g.name,
      says: `${g.name}. ${saySizedBy(runDocument.value, g.location)}`,
      shift: orderOfPlace(runDocument.value.fleet, g.location, place)?.shift,
      state: machine?.state ?? ('asked' as const),
      isGone: machine?.goneAt !== undefined,
      isSilent: g.silentSince !== undefined,
      silentFromS:
        g.silentSince === undefined || startAt.value === undefined ? undefined : (g.silentSince - startAt.value) / 1000,
    }
  })
})
const rows = computed(() => {
  const latest = latestOf(seconds, calm.value.length)
  return calm.value.map((machine, number) => {
    const [ratio, signal] = latest[number] ?? []
    return {
      ...machine,
      isOver: (ratio ?? 0) > 1,
      text: machine.isSilent ? 'unknown' : signalText(ratio, signal) ?? shiftText(machine),
    }
  })
})
/** What was heard last of each machine: its worst signal ÷ that signal's limit, and which it is. */
function latestOf(all: typeof seconds, machines: number): [ratio: number, signal: number][] {
  const latest: [number, number][] = []
  let found = 0
  for (let i = all.length - 1; i >= 0 && found < machines; i--)
    for (const [number, ratio, signal] of all[i]?.generators ?? [])
      if (latest[number] === undefined) {
        latest[number] = [ratio, signal]
        found++
      }
  return latest
}
function signalText(ratio: number | undefined, of: number | undefined): string | undefined {
  const signal = of === undefined ? undefined : SIGNAL_ORDER[of]
  return signal && `${SIGNAL_WORDS[signal]} ${saySignal(signal, (ratio ?? 0) * SIGNAL_LIMITS[signal])}`
}
function shiftText({ shift, isGone }: (typeof calm.value)[number]): string {
  if (!shift) return ''
  return isGone ? 'stays away' : `from ${runTime(shift.fromMs / 1000)}`
}

const bounds = computed<StripFrame['machines']>(before =>
  keepingUnchanged(before, calm.value.map(({ shift, silentFromS }) => ({ shift, silentFromS }))))
/** What has to be another for all of it to be drawn anew. */
const drawnOn = computed(() => {
  const frame = colours.value && {
    colours: colours.value,
    width: inner.value,
    span,
    machines: bounds.value,
  }
  return frame && { frame, canvas: canvas.value }
})
let strips: MachineStrips | undefined
function drawAll(): void {
  strips = undefined
  const { frame, canvas } = drawnOn.value ?? {}
  const context = canvas?.getContext('2d')
  if (!frame || !canvas || !context) return
  const scale = window.devicePixelRatio || 1
  canvas.width = frame.width * scale
  canvas.height = frame.machines.length * ROW * scale
  context.scale(scale, scale)
  strips = new MachineStrips(context, frame)
  strips.take(seconds)
}
watch(drawnOn, drawAll, { flush: 'post', immediate: true })
watch(() => seconds, () => strips?.take(seconds), { flush: 'post' })
const SHOWN_AS_THEY_ARE: readonly MachineState[] = ['ready', 'loading', 'draining', 'releasing', 'released']
const glyph = (state: MachineState) =>
  TROUBLED.includes(state) || SHOWN_AS_THEY_ARE.includes(state) ? state : 'booting'
</script>

<template>
  <div ref="frame" class="map">
    <div class="head">
      <h2>Generators</h2>
      <span class="q">height: worst signal ÷ its limit · dark: over 85 % · brick, full: over the limit<template
        v-if="calm.some(m => m.isSilent)"
      >
        · hatched: not heard</template></span>
    </div>
    <div class="rows">
      <div
        v-for="r in rows"
        :key="r.name"
        v-memo="[r.says, r.state, r.isSilent, r.isOver, r.text]"
        class="row"
        :class="{ brick: r.isOver || r.isSilent || TROUBLED.includes(r.state) }"
        :title="r.says"
      >
        <AGlyph
          :name="r.isSilent ? 'unknown' : glyph(r.state)"
          :size="10"
          :word="r.isSilent ? 'unknown' : r.state"
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

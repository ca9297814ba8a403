<script setup lang="ts">
/**
 * The lines of the stave: a chart of the library, one instance for all staffs, and over it what has come since that was
 * drawn.
 */
import { useThrottleFn } from '@vueuse/core'
import { use } from 'echarts/core'
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkAreaComponent, MarkLineComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'
import type { SecondFigures } from '~~/api/views'
import { plannedUntil, staveOption, staveTick, type StaveFrame } from './stave-chart'
import { LEFT, RIGHT, type GridKey } from './stave-geometry'
import { KeptPoints, type DrawnLine, type Ranges, type StaveLine } from './stave-lines'
import { areAs, beginAs, drawAfter, linesUpTo, rangesAfter } from './stave-news'

use([BarChart, LineChart, GridComponent, MarkAreaComponent, MarkLineComponent, CanvasRenderer])
const { frame, house, besides, seconds, isLive, width, height } = defineProps<{
  /** What stands still while the run goes on. */
  frame: StaveFrame
  /** Lines of the house's staffs, and of those besides. */
  house: readonly StaveLine[]
  besides: readonly DrawnLine[]
  seconds: readonly (SecondFigures | undefined)[]
  isLive: boolean
  /** Of the stave, px. */
  width: number
  height: number
}>()

type Chart = InstanceType<typeof VChart>
const chart = useTemplateRef<Chart>('chart')
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
/** The chart that shows its frame; the house's points; what it shows, up to which run second. */
let drawn: { on: Chart, kept: KeptPoints, ids: string, lines: readonly DrawnLine[], toS: number } | undefined

const idsOf = (lines: readonly DrawnLine[]) => lines.map(l => `${l.line.id} ${l.line.ink}`).join('\n')
/** Up to here nothing changes any more: the chart has all of a run that is over. */
const sureS = () => (isLive ? (seconds.findLast(s => s?.final)?.second ?? -1) + 1 : Number.POSITIVE_INFINITY)
const linesNow = (kept: KeptPoints) => [...kept.all(), ...besides]

/** Drawn anew when its frame changes. */
async function draw(): Promise<void> {
  drawn = undefined
  // A chart that has just been put there takes nothing before it has measured itself.
  await nextTick()
  const on = chart.value
  if (!on) return
  const kept = new KeptPoints(house, frame.span)
  kept.take(seconds)
  const now = linesNow(kept)
  const toS = sureS()
  const lines = linesUpTo(now, toS)
  on.resize()
  on.setOption(staveOption(frame, lines, rangesAfter(now, lines)), { notMerge: true })
  drawn = { on, kept, ids: idsOf(besides), lines, toS }
  drawNews(now)
}

/** So long what is new is drawn over the chart, s. */
const REDRAWN_S = 10
/** News come in bursts, and are drawn together, ms. */
const TICK_MS = 250
const tick = useThrottleFn(() => {
  if (!drawn || drawn.on !== chart.value) return
  drawn.kept.take(seconds)
  const now = linesNow(drawn.kept)
  const toS = sureS()
  const isShown = isLive
    ? toS - drawn.toS <= REDRAWN_S && beginAs(drawn.lines, now) && areInSight(rangesAfter(now, drawn.lines))
    : areAs(drawn.lines, now)
  if (!isShown) {
    drawn.lines = linesUpTo(now, toS)
    drawn.toS = toS
    drawn.on.setOption(staveTick(frame, drawn.lines, rangesAfter(now, drawn.lines)))
  }
  drawNews(now)
}, TICK_MS, true)

const gridOf = (key: GridKey) => frame.places.findIndex(p => p.key === key)
/** Whether axes reach so far. */
function areInSight(ranges: Ranges): boolean {
  return Array.from(ranges).every(([key, [least, most]]) => {
    const place = frame.places[gridOf(key)]
    if (!place) return true
    const [, top] = valueAt(place.top)
    const [, bottom] = valueAt(place.top + place.height)
    return most <= top && (least >= bottom || (frame.isLog && least <= 0))

    function valueAt(y: number): [second: number, value: number] {
      // It is asked of what was drawn; of two numbers it makes two.
      return drawn!.on.convertFromPixel({ gridIndex: gridOf(key) }, [LEFT, y]) as [number, number]
    }
  })
}

function drawNews(lines: readonly DrawnLine[]): void {
  const context = canvas.value?.getContext('2d')
  if (!context || !canvas.value || !drawn) return
  const { on, lines: before, toS } = drawn
  const scale = window.devicePixelRatio || 1
  canvas.value.width = width * scale
  canvas.value.height = height * scale
  if (!isLive) return
  const { fromS, toS: endS } = frame.span
  const inner = width - LEFT - RIGHT
  context.scale(scale, scale)
  context.beginPath()
  context.rect(LEFT, 0, inner, height)
  context.clip()
  const plan = [plannedUntil(frame, seconds.length)]
  drawAfter(context, [...lines, ...plan], [...before, ...linesUpTo(plan, toS)], {
    pxEach: inner / (endS - fromS),
    colours: frame.colours,
    xAt: second => LEFT + (inner * (second - fromS)) / (endS - fromS),
    yAt: (grid, value) => {
      const gridIndex = gridOf(grid)
      // Its staff is not shown.
      if (gridIndex < 0) return Number.NaN
      // As above.
      return (on.convertToPixel({ gridIndex }, [fromS, value]) as [number, number])[1]
    },
  })
}

watch([() => frame, () => house, chart, () => isLive, () => width], draw, { flush: 'post' })
watch([() => seconds, () => besides], () => {
  // What somebody chose is there at once.
  if (drawn && drawn.ids !== idsOf(besides)) void draw()
  else void tick()
}, { flush: 'post' })
</script>

<template>
  <div class="canvas" aria-hidden="true">
    <VChart ref="chart" manual-update autoresize />
    <canvas ref="canvas" class="news" :style="{ width: `${width}px`, height: `${height}px` }" />
  </div>
</template>

<style scoped>
.canvas,
.news {
  position: absolute;
  inset: 0;
}
.news {
  pointer-events: none;
}
</style>

<script setup lang="ts">
/** A chart, and its menu: kept as a picture, or as the numbers it is drawn from. */
import type { DropdownMenuItem } from '@nuxt/ui'
import type { EChartsCoreOption } from 'echarts/core'
import VChart from 'vue-echarts'
import { csvOf } from '~~/core/formats/csv'
import { chartSvg } from './chart-files'

const { option, name, says, rows } = defineProps<{
  option: EChartsCoreOption
  /** Of the file, without its end. */
  name: string
  /** What it shows, for anyone who does not see it; left out: it is told beside it. */
  says?: string
  /** Numbers it is drawn from; the first row names them. */
  rows: () => (string | number | null | undefined)[][]
}>()
const colours = useColours()
const chart = useTemplateRef<InstanceType<typeof VChart>>('chart')
/** What is kept is looked at elsewhere, on whatever ground: it brings its own. */
const ground = computed(() => colours.value?.panel ?? '#fff')
/** Dots of a picture for one of the screen. */
const FINENESS = 2

async function keepSvg(): Promise<void> {
  // It is drawn where somebody keeps it; its root is an element.
  const { clientWidth: width, clientHeight: height } = chart.value!.$el as HTMLElement
  keepFile(`${name}.svg`, await chartSvg({ ...option, backgroundColor: ground.value }, { width, height }), 'image/svg+xml')
}
async function keepPng(): Promise<void> {
  // As above.
  const uri = chart.value!.getDataURL({ type: 'png', pixelRatio: FINENESS, backgroundColor: ground.value })
  const bytes = Uint8Array.from(atob(uri.slice(uri.indexOf(',') + 1)), letter => letter.charCodeAt(0))
  keepFile(`${name}.png`, new Blob([bytes], { type: 'image/png' }))
}
const items: DropdownMenuItem[] = [
  { label: 'Picture (SVG)', onSelect: () => void keepSvg() },
  { label: 'Picture (PNG)', onSelect: () => void keepPng() },
  { label: 'Numbers (CSV)', onSelect: () => keepFile(`${name}.csv`, csvOf(rows()), 'text/csv') },
]
</script>

<template>
  <div class="chart-frame">
    <div class="drawn" :role="says ? 'img' : undefined" :aria-label="says" :aria-hidden="says ? undefined : true">
      <VChart ref="chart" :option="option" :update-options="{ notMerge: true }" autoresize />
    </div>
    <UDropdownMenu :items="items" :content="{ align: 'end' }">
      <UButton class="menu" size="xs" variant="link" icon="i-lucide-download" :aria-label="`Keep this chart: ${name}`" />
    </UDropdownMenu>
  </div>
</template>

<style scoped>
.chart-frame {
  position: relative;
  width: 100%;
}
.drawn {
  width: 100%;
  height: 100%;
}
.menu {
  position: absolute;
  top: 0;
  right: 0;
}
</style>

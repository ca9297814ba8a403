<script setup lang="ts">
/** What the target said of itself: before the load, under it, and when it was as before; and how its count agrees. */
import { STANDS_FOR_WORDS } from '~~/core/target/source'
import type { RunView, TargetView } from '~~/api/views'
import { clockText } from '~/format/target-clock'
import { duration, runTime } from '~/format/moments'
import { count, euro, figureText } from '~~/core/values/said-figures'
import type { ListColumn } from '../marks/list-table'

const { run, loadS, window } = defineProps<{
  run: RunView
  /** Length of the load. */
  loadS: number
  window: { fromS: number, toS: number }
}>()
const { view, problem } = useTargetAccount(() => run.line.id, () => undefined, () => run.line.endedAt === undefined)

interface Row {
  key: string
  series: TargetView['series'][number]
  line: TargetView['series'][number]['lines'][number]
  /** Over the chosen window. */
  mean: number | undefined
  most: number | undefined
  mostAt: number | undefined
}
const rows = computed((): Row[] =>
  (view.value?.series ?? []).flatMap(series =>
    series.lines.map((line) => {
      const inside = line.values.flatMap((v, i) =>
        v !== null && line.atS[i]! >= window.fromS && line.atS[i]! <= window.toS ? [{ v, at: line.atS[i]! }] : [])
      const top = inside.length > 0 ? inside.reduce((a, b) => (b.v > a.v ? b : a)) : undefined
      return {
        key: `${series.name} ${line.split}`,
        series,
        line,
        mean: inside.length > 0 ? inside.reduce((sum, p) => sum + p.v, 0) / inside.length : undefined,
        most: top?.v,
        mostAt: top?.at,
      }
    })))
const span = computed(() => {
  const all = rows.value.flatMap(r => [r.line.atS[0] ?? 0, r.line.atS[r.line.atS.length - 1] ?? 0])
  return { fromS: Math.min(0, ...all), toS: Math.max(loadS, ...all) }
})
const rest = (r: Row) => r.line.recovery?.value
/** Since when it is as before. */
function recovered(r: Row): string {
  const { recovery } = r.line
  if (!recovery) return ''
  if (recovery.atS !== undefined) {
    const after = recovery.atS - loadS
    return after < 1 ? 'at once' : `${duration(after * 1000)} after the load`
  }
  return view.value?.isReading ? 'not yet' : 'not while it was read'
}
const COLUMNS: ListColumn<Row>[] = [
  { id: 'name', head: 'Series', value: r => `${r.series.name} ${r.line.split}`.trim() },
  { id: 'course', head: 'Before, under and after the load', value: () => undefined },
  { id: 'before', head: 'before', num: true, value: rest },
  { id: 'mean', head: 'mean in window', num: true, value: r => r.mean },
  { id: 'most', head: 'most', num: true, value: r => r.most },
  { id: 'mostAt', head: 'at', num: true, value: r => r.mostAt },
  { id: 'recovered', head: 'as before', value: recovered },
]
const AMOUNTS = {
  replicas: (n: number) => `${figureText(n)} replica-hours more than at rest`,
  calls: (n: number) => `${count(n)} calls`,
  memory: (n: number) => `${figureText(n)} GB·s of memory more than at rest`,
  told: () => 'by its own cost per hour, above that at rest',
} as const
/** What the run cost the target itself, in words. */
const costs = computed(() => {
  const parts = view.value?.cost
  if (!parts) return undefined
  const whole = parts.reduce((sum, p) => sum + p.cost, 0)
  const said = parts.map(p => `${AMOUNTS[p.of](p.amount)} (${euro(p.cost)})`).join(', ')
  return `The target itself cost ${euro(whole)} more for this run: ${said}.`
})
const sources = computed(() => view.value?.sources ?? [])
</script>

<template>
  <div>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="!view && !problem" class="q">Asking what the target said…</p>
    <template v-if="view">
      <p v-for="s in sources" :key="s.name" class="source">
        <b>{{ s.name }}</b> read {{ count(s.readings) }} times, each {{ s.everyS }} s<template v-if="s.failures">,
          <b class="plantx">{{ count(s.failures) }} times in vain</b></template><template v-if="s.offsetMs !== undefined">;
          its clock is {{ clockText(s.offsetMs, s.offsetUncertaintyMs!) }}</template>.
        <span v-if="s.trouble" class="brick">{{ s.trouble }}</span>
        <span v-if="view.isReading" class="q">Still read, until all is as before or five minutes have passed.</span>
      </p>
      <p v-for="s in view.steps" :key="`${s.series} ${s.split} ${s.atS}`" class="source">
        <b>{{ s.from }} → {{ s.to }} {{ s.series }}</b><template v-if="s.split"> of {{ s.split }}</template>,
        {{ runTime(Math.round(s.atS)) }}
      </p>
      <p v-if="costs" class="source">{{ costs }}</p>
      <ListTable name="target-series" :rows="rows" :columns="COLUMNS" :row-key="r => r.key">
        <template #name="{ row }">
          <b>{{ row.series.name }}</b> {{ row.line.split }}
          <span
            v-if="row.series.standsFor && !row.line.split && STANDS_FOR_WORDS[row.series.standsFor] !== row.series.name"
            class="q"
          >{{ STANDS_FOR_WORDS[row.series.standsFor] }}</span>
        </template>
        <template #course="{ row }">
          <SeriesStrip
            :at-s="row.line.atS"
            :values="row.line.values"
            :from-s="span.fromS"
            :to-s="span.toS"
            :load-s="loadS"
            :level="rest(row)"
          />
        </template>
        <template #before="{ row }">{{ figureText(rest(row), row.series.unit) }}</template>
        <template #mean="{ row }">{{ figureText(row.mean, row.series.unit) }}</template>
        <template #most="{ row }">
          <span :class="{ brick: row.series.limit !== undefined && (row.most ?? 0) > row.series.limit }">{{
            figureText(row.most, row.series.unit)
          }}</span>
        </template>
        <template #mostAt="{ row }">{{ row.mostAt === undefined ? '–' : runTime(Math.round(row.mostAt)) }}</template>
        <template #recovered="{ row }">
          <span :class="row.line.recovery?.atS === undefined ? 'plantx' : 'q'">{{ recovered(row) }}</span>
        </template>
      </ListTable>
    </template>
    <ThreeWayTable :run="run" />
  </div>
</template>

<style scoped>
.source {
  font-size: 12.5px;
}
</style>

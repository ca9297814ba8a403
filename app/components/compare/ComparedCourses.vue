<script setup lang="ts">
/** One figure of all compared runs, laid over each other. */
import { use } from 'echarts/core'
import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent } from 'echarts/components'
import { LabelLayout } from 'echarts/features'
import { CanvasRenderer } from 'echarts/renderers'
import type { CompareView } from '~~/api/views'
import { inAxisUnit } from '../stave/own-lines'
import { compareOption } from './compare-chart'
import { laidCourse, staffOfRow, type LaidOver } from './laid-over'

use([LineChart, ScatterChart, GridComponent, LabelLayout, CanvasRenderer])
const { view, row, emphasised, over } = defineProps<{
  view: CompareView
  row: CompareView['rows'][number]
  /** Number of the run in ink. */
  emphasised: number
  over: LaidOver
}>()
const colours = useColours()
const staff = computed(() => staffOfRow(row))
const { found, problem } = useNewestAnswer(
  () => ({
    runs: view.runs.map(({ id, lengthS, holds }) => ({ id, lengthS, holds })),
    row: { subject: row.subject, steps: row.steps, metric: row.metric, target: row.target },
    over,
  }),
  async ({ runs, row, over }) => ({ over, courses: await Promise.all(runs.map(run => laidCourse(run, row, over))) }),
)
const UNITS: Partial<Record<string, string>> = { failures: '%', throughput: '/s' }
const unit = computed(() => row.target ? (row.target.unit ?? '') : (UNITS[row.metric] ?? 's'))
const option = computed(() =>
  colours.value && found.value
    ? compareOption(found.value.courses, emphasised, {
        over: found.value.over,
        limit: row.limit === undefined ? undefined : inAxisUnit(staff.value, row.limit),
        unit: unit.value,
        colours: colours.value,
      })
    : undefined)
const rows = () => [
  ['run', over === 'time' ? 'at_s' : 'users', 'value'],
  ...(found.value?.courses ?? []).flatMap(({ id, at, values }) => values.map((v, i) => [id, at[i], v])),
]
</script>

<template>
  <ProblemNote v-if="problem" :problem="problem" />
  <ChartFrame v-if="option" class="chart" :option="option" :name="`runs-${view.runs.map(r => r.id).join('-')}`" :rows="rows" />
  <p v-if="row.withFailures && option" class="q s12">Drawn of right answers alone; the limit is of failures, too.</p>
  <p v-else-if="!problem && !option" class="q">Reading their seconds…</p>
</template>

<style scoped>
.chart {
  width: 100%;
  height: 230px;
}
</style>

<script setup lang="ts">
/** One figure of all compared runs, laid over each other by time. */
import { use } from 'echarts/core'
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent } from 'echarts/components'
import { LabelLayout } from 'echarts/features'
import { CanvasRenderer } from 'echarts/renderers'
import type { CompareView } from '~~/api/views'
import { stepKey } from '~~/core/objectives/subject'
import type { StaffWish } from '~~/core/result/staff'
import { inAxisUnit } from '../stave/own-lines'
import { compareOption, courseLine, type ComparedCourse } from './compare-chart'

use([LineChart, GridComponent, MarkLineComponent, LabelLayout, CanvasRenderer])
const { view, row, emphasised } = defineProps<{
  view: CompareView
  row: CompareView['rows'][number]
  /** Number of the run in ink. */
  emphasised: number
}>()
const colours = useColours()
/** Bins drawn of a run, about. */
const MOST_BINS = 300
const staff = computed((): StaffWish => {
  const { step, journeyId, group, location } = row.subject
  const only = {
    ...(step !== undefined && journeyId !== undefined ? { step: [stepKey(journeyId, step)] } : {}),
    ...(step === undefined && journeyId !== undefined ? { journey: [journeyId] } : {}),
    ...(group === undefined ? {} : { group: [group] }),
    ...(location === undefined ? {} : { location: [location] }),
  }
  const what: StaffWish =
    row.metric === 'failures'
      ? { statistics: ['share'], measure: 'failed' }
      : row.metric === 'throughput'
        ? { statistics: ['perSecond'], measure: 'right' }
        : { statistics: [row.metric], measure: 'answered' }
  return { ...what, ...(Object.keys(only).length > 0 ? { only } : {}) }
})
/** One line of what the target said of itself, while the load was on. */
async function ofTarget(
  { series, split }: NonNullable<typeof row.target>,
  id: number,
  lengthS: number,
): Promise<ComparedCourse> {
  const told = await api('targetAccount', { run: id, series })
  const line = told.series[0]?.lines.find(l => l.split === split)
  const read = (line?.atS ?? []).map((at, i) => ({ at, value: line!.values[i]! }))
  const inside = read.filter(p => p.at >= 0 && p.at <= lengthS)
  return { id, atS: inside.map(p => p.at), values: inside.map(p => p.value) }
}
const { found, problem } = useNewestAnswer(
  () => ({ runs: view.runs.map(({ id, lengthS }) => ({ id, lengthS })), staff: staff.value, target: row.target }),
  ({ runs, staff, target }) =>
    Promise.all(
      runs.map(async ({ id, lengthS }) => {
        if (target) return ofTarget(target, id, lengthS)
        const binS = Math.max(1, Math.ceil(lengthS / MOST_BINS))
        const told = await api('courses', { run: id }, { fromS: 0, toS: lengthS, binS, staffs: [staff] })
        const own = courseLine(id, told.courses[0]!, told.fromS, told.binS)
        return { ...own, values: own.values.map(v => (v === null ? null : inAxisUnit(staff, v))) }
      }),
    ),
)
const unit = computed(() => row.target ? (row.target.unit ?? '') : ({ failures: '%', throughput: '/s' } as Partial<Record<string, string>>)[row.metric] ?? 's')
const option = computed(() =>
  colours.value && found.value
    ? compareOption(found.value, emphasised, {
        limit: row.limit === undefined ? undefined : inAxisUnit(staff.value, row.limit),
        unit: unit.value,
        colours: colours.value,
      })
    : undefined)
const rows = () => [
  ['run', 'at_s', 'value'],
  ...(found.value ?? []).flatMap(({ id, atS, values }) => values.map((v, i) => [id, atS[i], v])),
]
</script>

<template>
  <ProblemNote v-if="problem" :problem="problem" />
  <ChartFrame v-if="option" class="chart" :option="option" :name="`runs-${view.runs.map(r => r.id).join('-')}`" :rows="rows" />
  <p v-else-if="!problem" class="q">Reading their seconds…</p>
</template>

<style scoped>
.chart {
  width: 100%;
  height: 230px;
}
</style>

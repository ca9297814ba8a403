<script setup lang="ts">
/** What a statistic was at how many users: held levels with their intervals, every other second as a dot. */
import { use } from 'echarts/core'
import { LineChart, ScatterChart } from 'echarts/charts'
import { GridComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import { BLOCK_S, dotsOf, LEAST_BLOCKS, pointOf, type UsersPoint } from '~~/core/result/against-users'
import {
  isTimedMeasure,
  MEASURE_WORDS,
  MEASURES,
  STATISTIC_WORDS,
  statisticsOf,
  usualStatistic,
  type StaffMeasure,
  type StaffStatistic,
} from '~~/core/result/staff'
import { levelsOf } from '~~/core/objectives/windows'
import { timedObjective } from '~~/core/objectives/judge'
import { planInUsers } from '~~/core/plan/expected'
import type { RunView } from '~~/api/views'
import { count } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { inAxisUnit, ownValueText } from '../stave/own-lines'
import { staffOf } from '../stave/stave-staffs'
import type { ListColumn } from '../marks/list-table'
import { usersOption } from './users-chart'

use([LineChart, ScatterChart, GridComponent, CanvasRenderer])
const { run, lengthS } = defineProps<{ run: RunView, lengthS: number }>()
const emit = defineEmits<{ choose: [window: { fromS: number, toS: number }] }>()
const colours = useColours()
const { chosen } = useSliceOnly()
/** Shorter levels are none, ms. */
const LEAST_LEVEL_MS = 5000
const MOST_DOTS = 3600

// What is drawn: at first what the plan's timed objective judges.
const first = computed(() => {
  const timed = timedObjective(run.document.plan.objectives)
  return timed && staffOf(timed.objective, run.document)
})
const statisticTyped = useInAddress('usersStatistic')
const measureTyped = useInAddress('usersMeasure')
const measure = computed({
  get: (): StaffMeasure => MEASURES.find(m => m === measureTyped.value) ?? first.value?.measure ?? 'answered',
  set: (m) => {
    measureTyped.value = m
    statisticTyped.value = undefined
  },
})
const statistic = computed({
  get: (): StaffStatistic => {
    const can = statisticsOf(measure.value)
    return can.find(s => s === statisticTyped.value)
      ?? can.find(s => measureTyped.value === undefined && s === first.value?.statistics[0])
      ?? usualStatistic(measure.value)
  },
  set: (s) => {
    statisticTyped.value = s
  },
})
const isFirst = computed(() =>
  measureTyped.value === undefined && statisticTyped.value === undefined && Object.keys(chosen.value).length === 0)
const only = computed(() => (isFirst.value ? first.value?.only : chosen.value) ?? {})
const staff = computed(() => ({
  statistics: [statistic.value],
  measure: measure.value,
  ...(Object.keys(only.value).length > 0 ? { only: only.value } : {}),
}))
/** Users are told apart by less than what they do. */
const users = computed(() => {
  const { group, journey, location } = only.value
  return {
    statistics: ['present' as const],
    measure: 'users' as const,
    only: { ...(group ? { group } : {}), ...(journey ? { journey } : {}), ...(location ? { location } : {}) },
  }
})
const limit = computed(() => (isFirst.value ? first.value?.limit : undefined))
/** As they were judged, after they had settled; where nothing was judged so, as they were planned. */
const levels = computed(() => {
  const { answer } = run.summary ?? {}
  const judged = new Map(answer?.settled ? answer.judgements.map(j => [j.level.fromS, j.level]) : [])
  if (judged.size > 0) return [...judged.values()].sort((a, b) => a.fromS - b.fromS)
  return levelsOf(planInUsers(run.document.plan, run.document.journeys), LEAST_LEVEL_MS)
    .map(l => ({ ...l, fromS: Math.ceil(l.fromS), toS: Math.floor(l.toS) }))
    .filter(l => l.toS <= lengthS && l.fromS < l.toS)
})

const { found, problem } = useNewestAnswer(
  () => ({ run: run.line.id, toS: lengthS, staffs: [users.value, staff.value], levels: levels.value }),
  async ({ run, toS, staffs, levels }) => {
    const ask = ({ fromS, toS }: { fromS: number, toS: number }, binS: number) =>
      api('courses', { run }, { fromS, toS, binS, staffs }).then(({ courses }) => courses.map(c => c.lines[0]!.values))
    const binS = Math.max(1, Math.ceil(toS / MOST_DOTS))
    const [[usersThere, values], ...held] = await Promise.all([
      ask({ fromS: 0, toS }, binS),
      ...levels.map(async (level) => {
        const [[users = [], value = []], [, blocks = []]] = await Promise.all([
          ask(level, level.toS - level.fromS),
          ask(level, BLOCK_S),
        ])
        // A last block that is shorter than the others says less than they do.
        const whole = Math.floor((level.toS - level.fromS) / BLOCK_S)
        return { level, users: users[0], value: value[0], blocks: blocks.slice(0, whole) }
      }),
    ] as const)
    const isOutside = (bin: number) => !levels.some(l => bin * binS >= l.fromS && bin * binS < l.toS)
    return {
      dots: dotsOf(usersThere ?? [], values ?? [], isOutside),
      points: held.flatMap(({ level, users, value, blocks }) =>
        users === null || users === undefined || value === null || value === undefined
          ? []
          : [pointOf(level, users, value, blocks)]),
    }
  },
)
const option = computed(() => {
  if (!found.value || !colours.value) return undefined
  const toAxis = (v: number) => inAxisUnit(staff.value, v)
  return usersOption({
    dots: found.value.dots.map(d => ({ ...d, value: toAxis(d.value) })),
    points: found.value.points.map(p => ({
      ...p,
      value: toAxis(p.value),
      ...(p.halfWidth === undefined ? {} : { halfWidth: toAxis(p.halfWidth) }),
    })),
    limit: limit.value === undefined ? undefined : toAxis(limit.value),
    unit: isTimedMeasure(measure.value) ? 's' : statistic.value === 'share' ? '%' : 'per s',
    colours: colours.value,
  })
})
/** Points of levels, then dots. */
const rows = () => {
  const inUnit = (v: number | undefined) => (v === undefined ? undefined : inAxisUnit(staff.value, v))
  return [
    ['from_s', 'to_s', 'users', 'value', 'plus_minus'],
    ...(found.value?.points ?? []).map(p => [p.fromS, p.toS, p.users, inUnit(p.value), inUnit(p.halfWidth)]),
    ...(found.value?.dots ?? []).map(d => [undefined, undefined, d.users, inUnit(d.value)]),
  ]
}
const isOver = (value: number) => limit.value !== undefined && value > limit.value
const text = (value: number) => ownValueText(staff.value, value)
const columns: ListColumn<UsersPoint>[] = [
  { id: 'users', head: 'Users', num: true, value: p => p.users },
  { id: 'when', head: 'held', value: p => p.fromS },
  { id: 'value', head: 'value', num: true, value: p => p.value },
  { id: 'interval', head: '± 95 %', num: true, value: p => p.halfWidth },
]
</script>

<template>
  <div>
    <AskLine>
      <PickOne
        v-model="statistic"
        size="sm"
        aria-label="Statistic against users"
        :items="statisticsOf(measure).map(s => ({ value: s, label: STATISTIC_WORDS[s] }))"
      />
      <span class="q">of</span>
      <PickOne
        v-model="measure"
        size="sm"
        aria-label="Measure against users"
        :items="MEASURES.filter(m => m !== 'users').map(m => ({ value: m, label: MEASURE_WORDS[m] }))"
      />
      <span class="q">
        of {{ isFirst && first?.only ? 'what the plan judges' : 'what is chosen under Figures' }}; every second that is
        in no held level is a dot
      </span>
    </AskLine>
    <ProblemNote v-if="problem" :problem="problem" />
    <div class="two">
      <ChartFrame v-if="option" class="chart" :option="option" :name="`run-${run.line.id}-against-users`" :rows="rows" />
      <ListTable
        v-if="found"
        name="held levels"
        plain
        :rows="found.points"
        :columns="columns"
        :row-key="p => p.fromS"
        empty="No level was held."
      >
        <template #users="{ row }">{{ count(row.users) }}</template>
        <template #when="{ row }">
          <UButton size="xs" variant="link" class="when" @click="emit('choose', { fromS: row.fromS, toS: row.toS })">
            {{ runTime(row.fromS) }} to {{ runTime(row.toS) }}
          </UButton>
        </template>
        <template #value="{ row }"><b :class="{ brick: isOver(row.value) }">{{ text(row.value) }}</b></template>
        <template #interval="{ row }">
          <span class="q" :title="`By the spread of its blocks of ${BLOCK_S} s; from ${LEAST_BLOCKS} on.`">{{ row.halfWidth === undefined ? 'too short' : `± ${text(row.halfWidth)}` }}</span>
        </template>
      </ListTable>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(280px, 2fr);
  gap: 14px;
  align-items: start;
}
.chart {
  height: 260px;
}
.when {
  padding: 0;
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>

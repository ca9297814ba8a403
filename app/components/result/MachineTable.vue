<script setup lang="ts">
/** The machines of a run that is over: when each came and left, what it carried and cost, and its signals over time. */
import { use } from 'echarts/core'
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TitleComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import { SIGNAL_LIMITS, SIGNAL_PHRASES, type Signal } from '~~/core/capacity/signals'
import type { MachineRecord, RunView } from '~~/api/views'
import { signalValue } from '~/format/capacity'
import { count, euro } from '~~/core/values/said-figures'
import { clockTime, runTime } from '~/format/moments'
import type { ListColumn } from '../marks/list-table'
import { machineChartPx, machineOption, shownSignals } from './machine-chart'
import { present } from '~~/core/values/present'

use([LineChart, GridComponent, MarkLineComponent, TitleComponent, CanvasRenderer])
const { run, window } = defineProps<{ run: RunView, window: { fromS: number, toS: number } }>()
/** Signals drawn: those nearest to their limits. */
const MOST_SIGNALS = 4
const colours = useColours()

const { found: records, problem } = useNewestAnswer(
  () => ({ run: run.line.id }),
  ({ run }) => api('machineRecords', { run }),
)
interface Line {
  number: number
  name: string
  location: string
  machine: RunView['machines'][number] | undefined
  record: MachineRecord | undefined
  sent: number | undefined
}
const lines = computed((): Line[] =>
  run.generators.map(({ machineId, name, location }, number) => ({
    number,
    name,
    location,
    machine: run.machines.find(m => m.id === machineId),
    record: records.value?.find(r => r.generator === number),
    sent: run.summary?.ledger.accounts.find(a => a.generator === name)?.merged.started,
  })),
)
// The server names signals alone.
const nearness = (r: MachineRecord | undefined) => (r ? r.worst.value / SIGNAL_LIMITS[r.worst.signal as Signal] : 0)
const worstText = ({ worst: { signal, value } }: MachineRecord) => `${SIGNAL_PHRASES[signal]} ${signalValue(signal, value)}`
const columns: ListColumn<Line>[] = [
  { id: 'name', head: 'Machine', value: l => l.name },
  { id: 'type', head: 'kind', value: l => l.machine?.type },
  { id: 'came', head: 'came', num: true, value: l => l.machine?.allocatedAt },
  { id: 'left', head: 'left', num: true, value: l => l.machine?.goneAt },
  { id: 'users', head: 'users at most', num: true, value: l => l.record?.usersAtMost },
  { id: 'sent', head: 'sent', num: true, value: l => l.sent },
  { id: 'told', head: 'told of', num: true, value: l => l.record?.lastS },
  { id: 'worst', head: 'nearest its limit', num: true, value: l => nearness(l.record) },
  { id: 'over', head: 'over a limit', num: true, unit: 's', value: l => l.record?.overS },
  { id: 'cost', head: 'cost', num: true, unit: '€', value: l => l.machine?.cost },
]

/** Whose signals are drawn: the one chosen, else the one that was furthest past a limit. */
const asked = useInAddress('signals')
const drawn = computed(() => {
  const chosen = lines.value.find(l => l.name === asked.value)
  return chosen ?? [...lines.value].sort((a, b) => nearness(b.record) - nearness(a.record))[0]
})
const { found: course, problem: courseProblem } = useNewestAnswer(
  () => ({ run: run.line.id, generator: drawn.value?.number, from: window.fromS, to: window.toS }),
  async ({ generator, ...of }) => (generator === undefined ? undefined : api('machineCourse', { ...of, generator })),
)
const signals = computed(() => (course.value ? shownSignals(course.value, MOST_SIGNALS) : []))
const option = computed(() =>
  course.value && colours.value ? machineOption(course.value, signals.value, colours.value) : undefined)
const rows = () => {
  const { fromS, binS, users, signals: values } = present(course.value, 'the course that is drawn')
  return [
    ['from_s', 'users', ...signals.value],
    ...users.map((n, bin) => [fromS + bin * binS, n, ...signals.value.map(s => values[s][bin])]),
  ]
}
const moment = (at: number | undefined) => (at === undefined ? '–' : clockTime(at))
</script>

<template>
  <div>
    <ProblemNote v-if="problem ?? courseProblem" :problem="(problem ?? courseProblem)!" />
    <ListTable name="machines" :rows="lines" :columns="columns" :row-key="l => l.number">
      <template #name="{ row }">
        <LocationCode :code="row.location" /> <UButton
          size="xs"
          variant="link"
          class="name"
          :aria-pressed="row === drawn"
          :aria-label="`Signals of ${row.name}`"
          @click="asked = row.name"
        >
          {{ row.name }}
        </UButton>
      </template>
      <template #came="{ row }">
        {{ moment(row.machine?.allocatedAt) }}
      </template>
      <template #left="{ row }">
        {{ row.machine && row.machine.goneAt === undefined ? 'still out' : moment(row.machine?.goneAt) }}
      </template>
      <template #users="{ row }">{{ row.record ? count(row.record.usersAtMost) : '–' }}</template>
      <template #sent="{ row }">{{ row.sent === undefined ? '–' : count(row.sent) }}</template>
      <template #told="{ row }">
        {{ row.record ? `${runTime(row.record.firstS)} to ${runTime(row.record.lastS + 1)}` : 'nothing' }}
      </template>
      <template #worst="{ row }">
        <template v-if="row.record">
          <span :class="{ brick: nearness(row.record) > 1 }">{{ worstText(row.record) }}</span>&ensp;<span class="q">at {{ runTime(row.record.worst.second) }}</span>
        </template>
      </template>
      <template #over="{ row }">{{ row.record ? `${count(row.record.overS)} s` : '–' }}</template>
      <template #cost="{ row }">{{ row.machine ? euro(row.machine.cost) : '–' }}</template>
    </ListTable>
    <template v-if="option && drawn">
      <p class="s12 about">
        <b>{{ drawn.name }}</b> <span class="q">over the chosen window<template v-if="course!.binS > 1">, the largest of each {{ course!.binS }} s</template>; its limits in brick</span>
      </p>
      <ChartFrame
        :option="option"
        :name="`run-${run.line.id}-${drawn.name}`"
        :says="`Users and signals of ${drawn.name} over time`"
        :rows="rows"
        :style="{ height: `${machineChartPx(signals.length + 1)}px` }"
      />
    </template>
  </div>
</template>

<style scoped>
.name {
  padding: 0;
  font-weight: 620;
}
.about {
  padding: 8px 0 0 8px;
}
</style>

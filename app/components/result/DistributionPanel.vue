<script setup lang="ts">
/**
 * How response times of what is chosen are spread over the window, with bands by limits of one's own; another slice may
 * be laid over it, and a band opens its exchanges.
 */
import { use } from 'echarts/core'
import { LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent } from 'echarts/components'
import { CanvasRenderer } from 'echarts/renderers'
import { DIMENSIONS, type SliceOver } from '~~/core/result/slices'
import { isTimed } from '~~/core/objectives/sentence'
import type { RunDocument } from '~~/core/run/document'
import type { Distribution } from '~~/api/views'
import { lengthText, readLength } from '~/format/durations'
import { count, share, timeText } from '~~/core/values/said-figures'
import type { ListColumn } from '../marks/list-table'
import { distributionOption } from './distribution-chart'
import { choicesOf, DIMENSION_WORDS } from './slice-names'

use([LineChart, GridComponent, MarkLineComponent, CanvasRenderer])
const { runId, window, whole, document, machines } = defineProps<{
  runId: number
  window: { fromS: number, toS: number }
  whole: { fromS: number, toS: number }
  document: RunDocument
  /** Names of its generators. */
  machines: readonly string[]
}>()
const emit = defineEmits<{
  /** Exchanges of a band are wanted, ms; undefined: the failures. */
  examples: [band: { fromMs: number, toMs?: number } | undefined, step: string]
}>()

interface Line {
  key: string
  name: string
  /** Undefined: failures. */
  band: { fromMs: number, toMs?: number } | undefined
  count: number
  share: number
  otherCount: number | undefined
  otherShare: number | undefined
}

const MOST_LIMITS = 10
const LIMIT_BOUNDS = { unit: 'ms', min: 1, max: 3_600_000 } as const
/** Where the plan limits no time, ms. */
const USUAL_LIMITS_MS = [300, 1000]
const colours = useColours()
const { chosen } = useSliceOnly()
const choices = computed(() => choicesOf(document, machines))

// Limits of bands, in the address as they are typed.
const typed = useInAddress('limits')
const usual = computed(() => {
  const own = document.plan.objectives.flatMap(o => (isTimed(o.metric) && o.atMost !== undefined ? [o.atMost] : []))
  return own.length > 0 ? inOrder(own) : USUAL_LIMITS_MS
})
const limits = computed(() => {
  const own = readLimits(typed.value ?? '')
  return typeof own === 'string' ? usual.value : own
})
const limitsText = computed(() => limits.value.map(lengthText).join(', '))
function inOrder(limitsMs: readonly number[]): number[] {
  return [...new Set(limitsMs)].sort((a, b) => a - b).slice(0, MOST_LIMITS)
}
/** A comma without a blank behind it is that of a decimal. @returns ms, or what is wrong */
function readLimits(text: string): number[] | string {
  const all = text.split(/,\s+|;/).filter(t => t.trim() !== '').map(t => readLength(t, LIMIT_BOUNDS))
  const wrong = all.find(ms => typeof ms === 'string')
  if (wrong !== undefined) return wrong
  const times = all.filter(ms => typeof ms === 'number')
  return times.length > 0 ? inOrder(times) : 'Times with commas between, such as 300 ms, 1 s.'
}
function setLimits(text: string): true | string {
  const own = text.trim() === '' ? undefined : readLimits(text)
  if (typeof own === 'string') return own
  typed.value = own && text.trim()
  return true
}

// What is laid over it: the whole run, everything, or another value of a dimension.
const over = useInAddress('over')
const overs = computed(() => [
  { value: '', label: 'nothing' },
  ...(window.fromS !== whole.fromS || window.toS !== whole.toS ? [{ value: 'run', label: 'the same over the whole run' }] : []),
  ...(Object.keys(chosen.value).length > 0 ? [{ value: 'all', label: 'everything' }] : []),
  ...DIMENSIONS.filter(d => choices.value[d].length > 1).flatMap(d =>
    choices.value[d].map(c => ({ value: `${d}:${c.value}`, label: `${DIMENSION_WORDS[d].one} ${c.label}` })),
  ),
])
const besideIt = computed((): SliceOver | undefined => {
  const [kind = '', ...rest] = (over.value ?? '').split(':')
  if (kind === 'run') return { ...whole, only: chosen.value }
  if (kind === 'all') return { ...window, only: {} }
  if (DIMENSIONS.some(d => d === kind)) return { ...window, only: { ...chosen.value, [kind]: [rest.join(':')] } }
  return undefined
})
const besideName = computed(() => overs.value.find(o => o.value === over.value)?.label ?? 'laid over')

const { found, problem } = useNewestAnswer(
  () => ({
    run: runId,
    limitsMs: limits.value,
    of: [{ ...window, only: chosen.value }, ...(besideIt.value ? [besideIt.value] : [])],
  }),
  ({ run, ...wish }) => api('distributions', { run }, wish),
)
const shown = computed(() => found.value?.[0])
const beside = computed(() => found.value?.[1])
const option = computed(() =>
  shown.value && colours.value && shown.value.bins.length > 0
    ? distributionOption({ shown: shown.value, beside: beside.value, limitsMs: limits.value, colours: colours.value })
    : undefined)

const ended = (d: Distribution) => Math.max(1, d.right + d.failed)
const lines = computed((): Line[] => {
  const of = shown.value
  const other = beside.value
  if (!of) return []
  const line = (name: string, band: Line['band'], n: number, otherN: number | undefined): Line => ({
    key: name,
    name,
    band,
    count: n,
    share: n / ended(of),
    otherCount: otherN,
    otherShare: otherN === undefined || !other ? undefined : otherN / ended(other),
  })
  return [
    ...of.bands.map((band, i) => line(bandName(band), band, band.count, other?.bands[i]?.count)),
    line('failed', undefined, of.failed, other?.failed),
  ]
})
function bandName({ fromMs, toMs }: { fromMs: number, toMs?: number }): string {
  if (toMs === undefined) return fromMs > 0 ? `over ${timeText(fromMs)}` : 'right'
  return fromMs > 0 ? `over ${timeText(fromMs)} to ${timeText(toMs)}` : `up to ${timeText(toMs)}`
}
const binRows = () => [
  ['of', 'from_ms', 'to_ms', 'right', 'failed'],
  ...[shown.value, beside.value].flatMap((d, i) =>
    (d?.bins ?? []).map(b => [i === 0 ? 'chosen' : besideName.value, b.fromMs, b.toMs, b.right, b.failed])),
]
const columns = computed((): ListColumn<Line>[] => [
  { id: 'name', head: 'Right answers', value: l => l.name },
  { id: 'count', head: 'how many', num: true, value: l => l.count },
  { id: 'share', head: 'share', num: true, unit: '%', value: l => l.share * 100 },
  ...(beside.value
    ? [
        { id: 'otherCount', head: besideName.value, num: true, value: (l: Line) => l.otherCount },
        { id: 'otherShare', head: 'its share', num: true, unit: '%', value: (l: Line) => (l.otherShare ?? 0) * 100 },
      ]
    : []),
  { id: 'strip', head: '', wide: true },
])
/** A step that alone is chosen. */
const onlyStep = computed(() => (chosen.value.step?.length === 1 ? chosen.value.step[0]! : ''))
const spoken = computed(() =>
  shown.value?.percentiles.map(p => `p${Number((p.share * 100).toFixed(1))} ${timeText(p.ms)}`).join(', '))
</script>

<template>
  <div>
    <AskLine>
      <label>limits <DraftInput
        class="limits"
        size="sm"
        aria-label="Limits of bands"
        :value="limitsText"
        :accept="setLimits"
      /></label>
      <UButton v-if="typed !== undefined" size="sm" variant="link" @click="typed = undefined">
        those of the objectives
      </UButton>
      <label>laid over <PickOne
        size="sm"
        aria-label="Laid over"
        :model-value="over ?? ''"
        :items="overs"
        @update:model-value="v => (over = v || undefined)"
      /></label>
      <span v-if="beside" class="key"><i class="ink" /> chosen <i class="act" /> {{ besideName }}</span>
      <span class="q">{{ spoken }}</span>
    </AskLine>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-else-if="!found" class="q s12">Adding up the window…</p>
    <p v-else-if="!option" class="q s12">Nothing ended here.</p>
    <template v-else>
      <ChartFrame
        class="chart"
        :option="option"
        :name="`run-${runId}-distribution`"
        :says="`Distribution of response times: ${spoken}`"
        :rows="binRows"
      />
      <ListTable name="bands" plain :rows="lines" :columns="columns" :row-key="l => l.key">
        <template #name="{ row }">
          <b :class="{ brick: !row.band && row.count > 0 }">{{ row.name }}</b>
        </template>
        <template #count="{ row }">
          <CountLink :n="row.count" :of="row.name" @open="emit('examples', row.band, onlyStep)" />
        </template>
        <template #share="{ row }">{{ share(row.share) }}</template>
        <template #otherCount="{ row }">{{ count(row.otherCount ?? 0) }}</template>
        <template #otherShare="{ row }">{{ share(row.otherShare) }}</template>
        <template #strip="{ row }">
          <span class="strip" aria-hidden="true"><i :class="row.band ? 'ink' : 'brick'" :style="{ width: `${row.share * 100}%` }" /><i
            v-if="row.otherShare !== undefined"
            class="act"
            :style="{ width: `${row.otherShare * 100}%` }"
          /></span>
        </template>
      </ListTable>
    </template>
  </div>
</template>

<style scoped>
.limits {
  width: 190px;
}
.chart {
  height: 210px;
}
.key i {
  display: inline-block;
  width: 18px;
  height: 3px;
  vertical-align: middle;
}
.strip {
  display: flex;
  flex-direction: column;
  gap: 1px;
  min-width: 160px;
}
.strip i {
  height: 6px;
}
i.ink {
  background: var(--quiet);
}
i.act {
  background: var(--act);
}
i.brick {
  background: var(--brick);
}
</style>

<script setup lang="ts">
/** Exact figures of the chosen window: by step, and each step by location. Can be copied as CSV. */
import type { Figures, WindowView } from '~~/api/views'
import { bytes, count, share, timeText } from '~/format/figures'
import { csvOf } from '~~/core/formats/csv'
import { stepKey } from '~~/core/objectives/subject'
import type { RunDocument } from '~~/core/run/document'

const {
  window: figures,
  split,
  document,
} = defineProps<{ window: WindowView, split: 'step' | 'location', document: RunDocument }>()
const say = useStepNames(
  () => figures,
  () => document,
)
const COLUMNS = [
  'sent',
  'right',
  'failed',
  'failures',
  'p50',
  'p95',
  'p99',
  'largest',
  'mean',
  'p95 from its due time',
  'p95 first byte',
  'p95 connect',
  'received',
] as const
const row = (f: Figures) => [
  count(f.started),
  count(f.right),
  count(f.failed),
  share(f.failureShare),
  timeText(f.p50Ms),
  timeText(f.p95Ms),
  timeText(f.p99Ms),
  timeText(f.maxMs),
  timeText(f.meanMs),
  timeText(f.intendedP95Ms),
  timeText(f.firstByteP95Ms),
  timeText(f.connectP95Ms),
  f.bytes > 0 ? bytes(f.bytes) : '–',
]
const open = ref(new Set<string>())
const lines = computed(() =>
  split === 'step'
    ? figures.steps.flatMap(s => [
        {
          key: stepKey(s.journeyId, s.step),
          name: say(s),
          kind: s.kind,
          code: undefined,
          figures: s.figures,
          inner: false,
          parts: Object.keys(s.byLocation).length,
        },
        ...(open.value.has(stepKey(s.journeyId, s.step))
          ? Object.entries(s.byLocation).map(([code, f]) => ({
              key: `${stepKey(s.journeyId, s.step)} ${code}`,
              name: '',
              kind: s.kind,
              code,
              figures: f,
              inner: true,
              parts: 0,
            }))
          : []),
      ])
    : figures.locations.map(l => ({
        key: l.code,
        name: '',
        kind: 'request' as const,
        code: l.code,
        figures: l.figures,
        inner: false,
        parts: 0,
      })),
)
const journeyOf = (s: { journeyId: string }) => document.journeys.find(j => j.id === s.journeyId)?.name ?? s.journeyId
const toClipboard = useCopy()
async function copy(): Promise<void> {
  const f = (x: Figures) => [
    x.started,
    x.right,
    x.failed,
    x.failureShare,
    x.p50Ms,
    x.p95Ms,
    x.p99Ms,
    x.maxMs,
    x.meanMs,
    x.intendedP95Ms,
    x.firstByteP95Ms,
    x.connectP95Ms,
    x.bytes,
  ]
  const rows = [
    ...figures.steps.flatMap(s => [
      [journeyOf(s), s.step, 'all', ...f(s.figures)],
      ...Object.entries(s.byLocation).map(([code, x]) => [journeyOf(s), s.step, code, ...f(x)]),
    ]),
    ['all', 'all', 'all', ...f(figures.total)],
  ]
  await toClipboard(
    csvOf([
      [
        'journey',
        'step',
        'location',
        'sent',
        'right',
        'failed',
        'failure share',
        'p50 ms',
        'p95 ms',
        'p99 ms',
        'largest ms',
        'mean ms',
        'p95 from intended start ms',
        'p95 first byte ms',
        'p95 connect ms',
        'bytes',
      ],
      ...rows,
    ]),
    'the figures as CSV',
  )
}
function toggle(step: string): void {
  if (!open.value.delete(step)) open.value.add(step)
}
</script>

<template>
  <div>
    <table class="table">
      <thead>
        <tr>
          <th>{{ split === 'step' ? 'Step' : 'Location' }}</th>
          <th v-for="c in COLUMNS" :key="c" class="num">{{ c }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in lines" :key="l.key" :class="{ inner: l.inner }">
          <td>
            <button
              v-if="l.parts > 1"
              class="fold"
              :aria-expanded="open.has(l.key)"
              :aria-label="`${l.name} by location`"
              @click="toggle(l.key)"
            >
              {{ open.has(l.key) ? '–' : '+' }}
            </button>
            <LocationCode v-if="l.code" :code="l.code" /><template v-else><b>{{ l.name }}</b> <span
              v-if="l.kind === 'span' || l.kind === 'bundle'"
              class="q"
            >{{ l.kind }}</span></template>
          </td>
          <td
            v-for="(text, i) in row(l.figures)"
            :key="i"
            class="num"
            :class="{ brick: (i === 2 || i === 3) && l.figures.failed > 0, b: i === 5 }"
          >
            {{ text }}
          </td>
        </tr>
        <tr class="total">
          <td>all</td>
          <td v-for="(text, i) in row(figures.total)" :key="i" class="num">{{ text }}</td>
        </tr>
      </tbody>
    </table>
    <UButton size="sm" variant="link" @click="copy">Copy as CSV</UButton>
  </div>
</template>

<style scoped>
.fold {
  width: 16px;
  height: 16px;
  border: 1px solid var(--edge);
  border-radius: 3px;
  line-height: 12px;
  margin-right: 6px;
  cursor: pointer;
}
.inner td:first-child {
  padding-left: 24px;
}
.b {
  font-weight: 620;
}
.table th {
  padding-right: 8px;
}
.table td {
  padding-right: 8px;
}
</style>

<script setup lang="ts">
/**
 * Per step what went out, came back and failed: over the last ten settled seconds, and since the start. An instrument
 * of our own: every second all of it is another, and a table of a library builds each row and cell anew for that.
 */
import type { FailureKind, Figures, MeasureKind, RunView, WindowView } from '~~/api/views'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { stepKey } from '~~/core/objectives/subject'
import { count, rate, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { entriesIn } from '~~/core/values/written-out'

const { run, recent } = defineProps<{ run: RunView, recent: WindowView | undefined }>()
const store = useRun()
/**
 * Sums since the start are asked for so often, s, or each time the run is longer by so much: they are added up where
 * frames are merged, and the longer the run the longer that takes.
 */
const EVERY_S = 3
const EVERY_SHARE = 0.02
const untilS = ref(1)
watchEffect(() => {
  const now = store.secondNow
  if (now >= untilS.value + Math.max(EVERY_S, untilS.value * EVERY_SHARE)) untilS.value = now
})

const name = useStepNames(
  () => recent ?? { steps: [] },
  () => run.document,
)
const { found: sinceStart } = useNewestAnswer(
  () => ({ run: run.line.id, toS: untilS.value }),
  async ({ run, toS }) => ({ toS, ...await api('slices', { run }, { fromS: 0, toS, rows: ['step'] }) }),
)
const lengthS = computed(() => Math.max(1, (recent?.toS ?? 1) - (recent?.fromS ?? 0)))
/** What a row says; it is drawn anew where one of these is another. */
interface Line {
  key: string
  name: string
  under: string
  isBroken: boolean
  failsNow: boolean
  /** What the heads name: of late, and since the start. */
  cells: [now: string, whole: string][]
}
const lines = computed((): Line[] => {
  if (!recent) return []
  const totals = new Map(sinceStart.value?.rows.map(row => [row.value, row.figures]))
  const untilText = `last 10 s; below, to ${runTime(sinceStart.value?.toS ?? 0)}`
  return [
    lineOf('', 'All requests', untilText, recent.total, sinceStart.value?.whole ?? recent.total),
    ...recent.steps.map(({ figures, ...step }): Line => {
      const key = stepKey(step.journeyId, step.step)
      return lineOf(key, name(step), KINDS[step.kind], figures, totals.get(key) ?? figures)
    }),
  ]
})
const HEADS = ['out', 'back', 'p95', 'failed']
function lineOf(key: string, name: string, under: string, now: Figures, whole: Figures): Line {
  const perSecond = (n: number) => `${rate(n / lengthS.value)}/s`
  const isBroken = whole.failed > 0
  return {
    key,
    name,
    under: isBroken ? kindsOf(whole.failures) : under,
    isBroken,
    failsNow: now.failed > 0,
    cells: [
      [perSecond(now.started), count(whole.started)],
      [perSecond(now.right), count(whole.right)],
      [timeText(now.p95Ms), timeText(whole.p95Ms)],
      [count(now.failed), count(whole.failed)],
    ],
  }
}
/** What is no request is said. */
const KINDS: Record<MeasureKind, string> = { request: '', bundle: 'bundle', span: 'span', round: 'round' }
const kindsOf = (failures: Partial<Record<FailureKind, number>>) =>
  entriesIn(failures)
    .sort((a, b) => b[1] - a[1])
    .map(([kind, n]) => `${FAILURE_WORDS[kind]} ${count(n)}`)
    .join(', ')
</script>

<template>
  <p v-if="lines.length === 0" class="q s12">Nothing has come back yet.</p>
  <table v-else class="steps" aria-label="Steps now">
    <thead>
      <tr><th scope="col">Step</th><th v-for="head in HEADS" :key="head" scope="col" class="num">{{ head }}</th></tr>
    </thead>
    <tbody>
      <tr v-for="l in lines" :key="l.key" v-memo="[l.name, l.under, l.isBroken, l.failsNow, String(l.cells)]">
        <th scope="row">
          <b>{{ l.name }}</b><br><span class="s11" :class="l.isBroken ? 'brick' : 'q'">{{ l.under }}</span>
        </th>
        <td v-for="(cell, i) in l.cells" :key="i" class="num">
          <span :class="{ brick: HEADS[i] === 'failed' && l.failsNow }">{{ cell[0] }}</span><br><span class="s11 q">{{ cell[1] }}</span>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.steps {
  width: 100%;
  border-collapse: collapse;
  font-size: 12px;
  line-height: 15px;
}
th {
  font-weight: 400;
  text-align: left;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--bg);
  color: var(--quiet);
}
td,
th {
  padding: 3px 4px;
  border-bottom: 1px solid var(--hair);
  vertical-align: top;
  white-space: nowrap;
}
tbody th {
  width: 55%;
  max-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.num {
  text-align: right;
}
</style>

<script setup lang="ts">
/** Five figures of a run under load, each over the last ten settled seconds or as they stand. */
import type { FailureKind, RunView, SecondFigures, WindowView } from '~~/api/views'
import { figureOf, timedObjective } from '~~/core/objectives/judge'
import { sliceOf } from '~~/core/objectives/sentence'
import type { Metric } from '~~/core/plan/document'
import type { RunRemark } from '~~/core/run/life'
import { reasonsSoFar } from '~~/core/soundness/so-far'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { latestKnown } from '~~/core/merge/second-figures'
import { count, rate, share, time, timeText } from '~~/core/values/said-figures'
import { entriesIn } from '~~/core/values/written-out'

/** Metrics that are shown as figures of their own. */
const SHOWN: readonly Metric[] = ['p50', 'p95', 'p99']

const { run, seconds, recent } = defineProps<{
  run: RunView
  seconds: (SecondFigures | undefined)[]
  recent: WindowView | undefined
}>()
const latest = computed(() => latestKnown(seconds))
const present = computed(() => latest.value?.usersByLocation.reduce((a, b) => a + b, 0) ?? 0)
const planned = computed(() => run.planned[latest.value?.second ?? 0] ?? 0)
const open = computed(() => run.byPlan.groups.length < run.document.plan.groups.length)
const behind = computed(
  () =>
    (run.byPlan.planned[latest.value?.second ?? 0] ?? 0) -
    run.byPlan.groups.reduce((sum, g) => sum + (latest.value?.usersByGroup[g] ?? 0), 0),
)
const arriving = computed(() => run.document.plan.groups.some(g => g.drive?.kind === 'arrivals'))
/** Passes that were due and not started, so far. */
const notStarted = computed(() => seconds.reduce((sum, s) => sum + (s?.notStarted ?? 0), 0))
const standing = computed(() => {
  if (run.document.claimed) return 'as told'
  if (notStarted.value > 0) return `${count(notStarted.value)} passes not started`
  if (open.value && run.byPlan.groups.length === 0)
    return lost.value.length > 0
      ? `after the loss of ${lost.value.join(', ')}`
      : arriving.value
        ? 'every pass due was started'
        : 'as many as the rate asks for'
  return Math.abs(behind.value) <= 1
    ? 'on plan'
    : behind.value > 0
      ? `${count(behind.value)} behind`
      : `${count(-behind.value)} ahead`
})
/** The objective that is drawn: its own slice, and its own metric against its own limit. */
const judged = computed(() => timedObjective(run.document.plan.objectives))
const figures = computed(() => (judged.value ? recent?.objectives[judged.value.index]?.figures : recent?.total))
const value = computed(() => judged.value && figures.value && figureOf(judged.value.objective, figures.value))
const over = computed(() => judged.value !== undefined && (value.value ?? 0) > judged.value.objective.atMost)
const overAt = (metric: Metric) => over.value && judged.value?.objective.metric === metric
/** A mean or p90 has no place of its own among the three. */
const besides = computed(() =>
  judged.value && !SHOWN.includes(judged.value.objective.metric)
    ? `${judged.value.objective.metric} ${timeText(value.value)} of ${timeText(judged.value.objective.atMost)} allowed`
    : '',
)
const unknown = computed(() => latestAny.value?.unknownByLocation?.reduce((a, b) => a + b, 0) ?? 0)
const latestAny = computed(() => seconds.findLast(s => s !== undefined))
const silent = computed(() => run.generators.filter(g => g.silentSince !== undefined))
const totals = computed(() => {
  let ended = 0
  const kinds: Partial<Record<FailureKind, number>> = {}
  for (const s of seconds) {
    if (!s) continue
    ended += s.right + s.failed
    for (const [kind, n] of entriesIn(s.failures)) kinds[kind] = (kinds[kind] ?? 0) + n
  }
  const failed = Object.values(kinds).reduce((a, b) => a + b, 0)
  return {
    failed,
    share: ended > 0 ? failed / ended : undefined,
    words: Object.entries(kinds)
      .sort((a, b) => b[1] - a[1])
      .slice(0, 2)
      // Its keys are kinds of failures.
      .map(([k, n]) => `${FAILURE_WORDS[k as FailureKind]} ${count(n)}`)
      .join(', '),
  }
})
/** Generators over a limit in each of the last five settled seconds. */
const stressed = computed(() => {
  const last = seconds.filter(s => s?.final).slice(-5)
  return run.generators
    .filter((_, n) => last.length === 5 && last.every(s => (s?.generators.find(g => g[0] === n)?.[1] ?? 0) > 1))
    .map(g => g.name)
})
/** Who events of a kind are about. A boot that failed and was replaced is nobody's loss. */
const namedBy = (event: RunRemark) =>
  run.changes.flatMap(c => (c.event === event && c.about !== undefined ? [c.about] : []))
const lost = computed(() => namedBy('generatorLost'))
/** What weighs against it by now. */
const reasons = computed(() => {
  const last = latest.value?.second ?? -1
  const present = Array.from({ length: last + 1 }, (_, s) =>
    seconds[s]?.final
      ? run.byPlan.groups.reduce((sum, g) => sum + (seconds[s]!.usersByGroup[g] ?? 0), 0)
      : (run.byPlan.planned[s] ?? 0),
  )
  return reasonsSoFar({
    document: run.document,
    lost: lost.value,
    silent: silent.value.map(g => g.name),
    absent: namedBy('generatorAbsent'),
    stressed: stressed.value,
    planned: run.byPlan.planned,
    present,
    passes: seconds.reduce((sum, s) => sum + (s?.passes ?? 0), 0),
    notStarted: notStarted.value,
    notReached: run.changes.some(c => c.event === 'rateNotReached'),
  })
})
</script>

<template>
  <section class="figs panel" aria-label="Figures">
    <div class="fig">
      <div class="l">
        Users <span class="q">present<template v-if="!run.document.claimed"> of {{ open ? 'expected' : 'planned' }}</template></span>
      </div>
      <div class="v">
        {{ count(present) }}
        <small v-if="!run.document.claimed">of <span class="planned">{{ count(planned) }}</span></small>
      </div>
      <div v-if="unknown" class="e brick clip">
        {{ count(unknown) }} unknown: {{ silent.map(g => g.name).join(', ') || 'a generator' }} not heard
      </div>
      <div v-else class="e" :class="{ plantx: Math.abs(behind) > 1 || notStarted > 0 }">{{ standing }}</div>
    </div>
    <div class="fig">
      <div class="l">Sent per second</div>
      <div class="v">{{ latest ? rate(latest.started) : '–' }} <small>/s</small></div>
      <div class="e">{{ unknown ? 'by those who are heard' : 'last settled second' }}</div>
    </div>
    <div class="fig">
      <div class="l">
        {{ judged ? sliceOf(judged.objective, run.document.journeys) : 'All requests' }}: half, 95 %, 99 % answered
        within
      </div>
      <div class="v three">
        <span :class="{ brick: overAt('p50') }">{{ time(figures?.p50Ms)[0] }} <small>{{ time(figures?.p50Ms)[1] }}</small></span><span :class="{ brick: overAt('p95') }">{{ time(figures?.p95Ms)[0] }} <small>{{ time(figures?.p95Ms)[1] }}</small></span><span :class="{ brick: overAt('p99') }">{{ time(figures?.p99Ms)[0] }} <small>{{ time(figures?.p99Ms)[1] }}</small></span>
      </div>
      <div v-if="besides" class="e clip" :class="{ brick: over }">
        {{ over ? `${besides}: over its limit` : besides }}
      </div>
      <div v-else class="e three">
        <span :class="{ brick: overAt('p50') }">p50{{ overAt('p50') ? ' over its limit' : '' }}</span><span :class="{ brick: overAt('p95') }">p95{{ overAt('p95') ? ' over its limit' : '' }}</span><span :class="{ brick: overAt('p99') }">{{
          overAt('p99') ? 'p99 over its limit' : 'p99, last 10 s merged'
        }}</span>
      </div>
    </div>
    <div class="fig">
      <div class="l">Failures</div>
      <div class="v">
        {{ share(totals.share).replace(' %', '') }} <small>% · {{ count(totals.failed) }} in all</small>
      </div>
      <div class="e clip">{{ totals.words || 'none so far' }}</div>
    </div>
    <div class="fig">
      <div class="l">Soundness as it stands</div>
      <div v-if="reasons.length" class="v">
        <AGlyph name="costsSoundness" :size="16" class="plantx" word="qualified" /> qualified
      </div>
      <div v-else class="v">sound</div>
      <div class="e clip" :title="reasons.join(' · ')">{{ reasons.join(' · ') || 'nothing against it so far' }}</div>
    </div>
  </section>
</template>

<style scoped>
.figs {
  display: grid;
  grid-template-columns: minmax(150px, 1.2fr) minmax(110px, 0.8fr) minmax(290px, 2fr) minmax(150px, 1.1fr) minmax(
      180px,
      1.4fr
    );
}
.fig {
  padding: 5px 12px 5px;
  border-right: 1px solid var(--hair);
  white-space: nowrap;
  overflow: hidden;
}
.fig:last-child {
  border: 0;
}
.l {
  font-size: 12px;
  line-height: 15px;
  color: var(--quiet);
  overflow: hidden;
  text-overflow: ellipsis;
}
.v {
  font-weight: 600;
  font-size: 22px;
  line-height: 26px;
  font-stretch: 112%;
}
.v small {
  font-size: 13px;
  font-weight: 450;
  font-stretch: 100%;
  color: var(--quiet);
}
.v .brick small {
  color: inherit;
}
.e {
  font-size: 11.5px;
  line-height: 14px;
  color: var(--quiet);
}
.e.plantx {
  color: var(--plantx);
  font-weight: 620;
}
.three {
  display: grid;
  grid-template-columns: 1fr 1.1fr 1.3fr;
}
</style>

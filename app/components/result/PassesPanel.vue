<script setup lang="ts">
/**
 * Passes kept whole: those under way at one moment, or all, the longest first; one of them drawn out exchange by
 * exchange, beside the medians of its steps. A table of our own: all exchanges are drawn on one axis, which is its
 * head.
 */
import { useElementSize } from '@vueuse/core'
import { stepKey } from '~~/core/objectives/subject'
import { drawnPass, sharesOf } from '~~/core/result/waterfall'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { DIRECT } from '~~/core/network/profile'
import type { PassesView, RunView, SecondFigures } from '~~/api/views'
import { count, share, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'
import { readRunTime } from '../stave/stave-cursor'

type Pass = PassesView['passes'][number]
const { run, seconds, moment } = defineProps<{
  run: RunView
  seconds: readonly (SecondFigures | undefined)[]
  /** At which one looks first, run time, s. */
  moment: number
}>()
const emit = defineEmits<{ exchanges: [of: { group: string, user: number, pass: number }] }>()

/** Passes that are listed; the rest is counted. */
const MOST = 60
/** Lanes reach no further from the moment, ms. */
const REACH_MS = 120_000
const KEPT_FOR = { failure: 'something failed', slowest: 'slowest of its ten seconds', pass: 'one pass in many' } as const

const { chosen } = useSliceOnly()
const typed = useInAddress('moment')
const at = computed(() => readRunTime(typed.value ?? '') ?? moment)
const which = useInAddress('passes')
const isAny = computed({
  get: () => which.value === 'any',
  set: (is) => {
    which.value = is ? 'any' : undefined
  },
})
const failed = ref(false)
const lastS = computed(() => run.summary?.lengthS ?? run.lengthS)
function setMoment(text: string): true | string {
  const s = text.trim() === '' ? moment : readRunTime(text)
  if (s === undefined) return 'Write a run time, such as +12:52.'
  if (s > lastS.value) return `Up to ${runTime(lastS.value)}.`
  typed.value = s === moment ? undefined : runTime(s)
  return true
}
const moveMoment = (by: number) => setMoment(runTime(Math.min(lastS.value, Math.max(0, at.value + by))))

const listed = (of: string[] | undefined) => (of?.length ? of.join(',') : undefined)
const { found, problem } = useNewestAnswer(
  () => ({
    run: run.line.id,
    most: MOST,
    ...(isAny.value ? {} : { atS: at.value }),
    ...(failed.value ? { failed: true } : {}),
    ...(chosen.value.group ? { groups: listed(chosen.value.group) } : {}),
    ...(chosen.value.location ? { locations: listed(chosen.value.location) } : {}),
    ...(chosen.value.machine ? { machines: listed(chosen.value.machine) } : {}),
  }),
  wish => api('passes', wish),
)
const isNarrowed = computed(() => (['step', 'journey', 'network', 'client'] as const).some(d => chosen.value[d]?.length))
const passes = computed(() => found.value?.passes ?? [])
const place = ref(0)
watch(passes, () => {
  place.value = 0
})
const pass = computed((): Pass | undefined => passes.value[place.value])

/** Users there at that moment, of those whose passes are listed. */
const inFlight = computed(() => {
  const s = seconds[Math.max(0, at.value - 1)]
  return s && run.document.plan.groups
    .map(({ letter }, g) => ({ letter, users: s.usersByGroup[g] ?? 0 }))
    .filter(({ letter }) => !chosen.value.group?.length || chosen.value.group.includes(letter))
})

// Lanes: around the moment, or each from its own begin.
const lanes = computed(() => {
  const all = passes.value.map((p) => {
    const origin = isAny.value ? p.beganAtMs : at.value * 1000
    // Drawn from the begin of the pass: moved to where it was.
    const shift = p.beganAtMs - origin
    const { exchanges } = drawnPass(p, false)
    const moved = exchanges.map(e => ({
      ...e,
      fromMs: e.fromMs + shift,
      toMs: e.toMs + shift,
      spells: e.spells.map(s => ({ ...s, fromMs: s.fromMs + shift, toMs: s.toMs + shift })),
    }))
    return { pass: p, exchanges: moved, baseline: { fromMs: shift, toMs: p.endedAtMs - origin } }
  })
  const fromMs = Math.max(-REACH_MS, Math.min(0, ...all.map(l => l.baseline.fromMs)))
  const toMs = Math.min(REACH_MS, Math.max(1000, ...all.map(l => l.baseline.toMs)))
  return { all, fromMs, toMs, nowShare: -fromMs / (toMs - fromMs) }
})

// One pass.
const folded = ref(false)
const drawn = computed(() => pass.value && drawnPass(pass.value, folded.value))
const saysInside = computed(() => pass.value?.exchanges.some(e => e.insideMs !== undefined) ?? false)
const shares = computed(() => pass.value && sharesOf(pass.value))
/** Medians of the steps of its journey around then: what is usual, 30 s either way. */
const USUAL_S = 30
const { found: usual } = useNewestAnswer(
  () => pass.value && { run: run.line.id, journey: pass.value.journeyId, atS: Math.floor(pass.value.beganAtMs / 1000) },
  async (of) => {
    if (!of) return new Map<string, number | undefined>()
    const fromS = Math.max(0, of.atS - USUAL_S)
    const { rows } = await api('slices', { run: of.run }, {
      fromS,
      toS: of.atS + USUAL_S,
      rows: ['step'],
      only: { journey: [of.journey] },
    })
    return new Map(rows.map(r => [r.value, r.figures.p50Ms]))
  },
)
const medianOf = (step: string) => pass.value && usual.value?.get(stepKey(pass.value.journeyId, step))
const journeyName = (id: string) => run.document.journeys.find(j => j.id === id)?.name ?? id
const networkName = (id: string) =>
  id === DIRECT ? undefined : (run.document.networks?.find(n => n.id === id)?.name ?? id)
const clientName = (id: string | undefined) => run.document.clients?.find(c => c.id === id)?.name ?? id
const wholeMs = computed(() => pass.value && Math.max(1, pass.value.endedAtMs - pass.value.beganAtMs))
const frame = useTemplateRef<HTMLElement>('frame')
const { width } = useElementSize(frame)
/** Room for a mark of the axis, px. */
const MARK_PX = 90
const ticks = computed(() => {
  const lengthMs = drawn.value?.lengthMs ?? 1
  const most = Math.max(1, Math.floor(width.value / MARK_PX))
  const stepMs = [100, 200, 500, 1000, 2000, 5000, 10_000, 20_000, 60_000, 120_000, 600_000, 3_600_000]
    .find(ms => lengthMs / ms <= most) ?? lengthMs
  return Array.from({ length: Math.floor(lengthMs / stepMs) + 1 }, (_, i) => ({
    left: `${((i * stepMs) / lengthMs) * 100}%`,
    text: i === 0 ? '0' : timeText(i * stepMs).replace(/\.0+ /, ' '),
  }))
})
function sameUserLater(): void {
  const p = pass.value
  if (!p) return
  // The list is by length, and not by time.
  const later = passes.value
    .filter(o => o.group === p.group && o.user === p.user && o.beganAtMs > p.beganAtMs)
    .sort((a, b) => a.beganAtMs - b.beganAtMs)[0]
  if (later) place.value = passes.value.indexOf(later)
}
</script>

<template>
  <div>
    <AskLine>
      <PickOne
        :model-value="isAny ? 'any' : 'at'"
        size="sm"
        aria-label="Which passes"
        :items="[{ value: 'at', label: 'under way at' }, { value: 'any', label: 'of the whole run' }]"
        @update:model-value="isAny = $event === 'any'"
      />
      <template v-if="!isAny">
        <DraftInput
          size="sm"
          class="moment"
          aria-label="Moment"
          :value="runTime(at)"
          :accept="setMoment"
        />
        <UFieldGroup>
          <UButton size="sm" class="step-by" aria-label="A second earlier" @click="moveMoment(-1)">‹</UButton>
          <UButton size="sm" class="step-by" aria-label="A second later" @click="moveMoment(1)">›</UButton>
        </UFieldGroup>
      </template>
      <UCheckbox v-model="failed" label="with a failure" />
      <span class="q">the longest on exchanges first</span>
      <span v-if="found" class="q say">
        <template v-if="inFlight && !isAny">{{ inFlight.map(g => `${g.letter} ${count(g.users)}`).join(' · ') }} users there, </template>{{ count(found.total) }} {{ found.total === 1 ? 'pass' : 'passes' }} kept whole<template v-if="found.total > passes.length">, {{ passes.length }} shown</template>
      </span>
    </AskLine>
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="isNarrowed" class="q s12">
      Passes are found by group, location and machine: of every step, journey, network and client, whatever is chosen above.
    </p>
    <div v-if="passes.length" class="two">
      <RowList
        v-model="place"
        :rows="lanes.all"
        :row-key="l => l.pass.id"
        label="Passes"
        class="list"
        @keydown.enter="pass && emit('exchanges', pass)"
      >
        <template #row="{ row: { pass: p, exchanges, baseline } }">
          <span class="lane">
            <GroupTag :letter="p.group" />
            <span>{{ p.user }}</span>
            <LocationCode :code="run.generators[p.generator]?.location ?? '–'" />
            <span class="track">
              <PassDrawing :exchanges="exchanges" :from-ms="lanes.fromMs" :to-ms="lanes.toMs" :baseline="baseline" />
              <i v-if="!isAny" class="at" :style="{ left: `${lanes.nowShare * 100}%` }" />
            </span>
            <b class="num" :class="{ brick: p.failure }">{{ timeText(p.busyMs) }}</b>
          </span>
        </template>
      </RowList>
      <div v-if="pass && drawn && shares && wholeMs" class="one">
        <div class="about">
          <GroupTag :letter="pass.group" /><LocationCode :code="run.generators[pass.generator]?.location ?? '–'" />
          <span class="clip"><b>{{ journeyName(pass.journeyId) }}</b> <span class="q">user {{ pass.user }}, pass {{ pass.pass }}<template v-if="networkName(pass.network)">, {{ networkName(pass.network) }}</template><template v-if="pass.client">, {{ clientName(pass.client) }}</template>, began {{ runTime(pass.beganAtMs / 1000) }} · {{ KEPT_FOR[pass.keptFor] }}<template v-if="pass.cut"> · not finished</template></span></span>
          <span class="spring" />
          <UButton size="xs" variant="link" :aria-pressed="folded" @click="folded = !folded">
            {{ folded ? 'with pauses' : 'without pauses' }}
          </UButton>
          <UButton size="xs" variant="link" @click="emit('exchanges', pass)">as sent and received</UButton>
          <UButton size="xs" variant="link" @click="sameUserLater">its user’s next</UButton>
        </div>
        <table class="fall">
          <thead>
            <tr>
              <th>step</th>
              <th class="wide">
                <span ref="frame" class="axis"><i v-for="t in ticks" :key="t.left" :style="{ left: t.left }">{{ t.text }}</i></span>
              </th>
              <th class="num" title="Finding the address, connecting, TLS">connecting</th>
              <th class="num">first byte</th>
              <th v-if="saysInside" class="num" title="What the target says it took itself">of it inside</th>
              <th class="num">whole</th>
              <th class="num" title="Of all answers to this step, 30 s either way">median then</th>
              <th class="num">pause</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(d, i) in drawn.exchanges" :key="i" :class="{ bad: d.exchange.failure }">
              <td class="step">
                <b>{{ d.exchange.step }}</b>&ensp;<span :class="d.exchange.failure ? 'brick' : 'q'">{{ d.exchange.status || '' }} {{ d.exchange.failure ? FAILURE_WORDS[d.exchange.failure] : '' }}</span>
              </td>
              <td class="wide"><PassDrawing :exchanges="[d]" :from-ms="0" :to-ms="drawn.lengthMs" /></td>
              <td class="num q">
                {{ d.exchange.connectMs < 0 ? '–' : timeText(Math.max(0, d.exchange.lookupMs) + d.exchange.connectMs + Math.max(0, d.exchange.tlsMs)) }}
              </td>
              <td class="num">{{ d.exchange.firstByteMs < 0 ? '–' : timeText(d.exchange.firstByteMs) }}</td>
              <td v-if="saysInside" class="num q">{{ timeText(d.exchange.insideMs) }}</td>
              <td class="num"><b>{{ timeText(d.exchange.endedAtMs - d.exchange.beganAtMs) }}</b></td>
              <td class="num q">{{ timeText(medianOf(d.exchange.step)) }}</td>
              <td class="num q">{{ d.pauseMs > 0 ? timeText(d.pauseMs) : '–' }}</td>
            </tr>
          </tbody>
        </table>
        <p class="sum">
          <b>{{ timeText(wholeMs) }}</b> in all:
          waiting for the first byte <b>{{ timeText(shares.waitMs) }}</b>, {{ share(shares.waitMs / wholeMs, 0) }} ·
          bodies {{ timeText(shares.bodyMs) }} ·
          <template v-if="shares.connectingMs > 0">connecting {{ timeText(shares.connectingMs) }} ·</template>
          pauses {{ timeText(shares.pauseMs) }}, {{ share(shares.pauseMs / wholeMs, 0) }}
        </p>
        <p class="q s12 key">
          <span><i class="hatch" />connecting</span><span><i class="ink" />waiting for the first byte</span><span><i class="grey" />body</span><span><i class="red" />failed</span>
        </p>
      </div>
    </div>
    <p v-else-if="found" class="q s12">
      <template v-if="found.kept === 0">No pass of this run was kept whole.</template>
      <template v-else-if="isAny">None of the {{ count(found.kept) }} that were kept is one of these.</template>
      <template v-else>None was kept that was under way then: {{ count(found.kept) }} were kept in the whole run.</template>
      Generators keep whole passes now and then, some of each kind of failure, and the slowest of each journey every ten
      seconds.
    </p>
  </div>
</template>

<style scoped>
.moment {
  width: 76px;
}
.step-by {
  min-width: 26px;
  justify-content: center;
}
.say {
  margin-left: auto;
}
.two {
  display: grid;
  grid-template-columns: minmax(320px, 2fr) minmax(0, 3fr);
  gap: 12px;
}
.list {
  max-height: 420px;
}
.lane {
  display: grid;
  grid-template-columns: 16px 30px auto minmax(0, 1fr) 58px;
  gap: 6px;
  align-items: center;
  font-size: 12px;
}
.track {
  position: relative;
}
.at {
  position: absolute;
  top: -4px;
  bottom: -4px;
  border-left: 1.2px solid var(--act);
}
.one {
  min-width: 0;
  max-height: 420px;
  overflow: auto;
}
.about {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 12.5px;
  min-height: 24px;
}
.spring {
  flex: 1;
}
.fall {
  width: 100%;
  font-size: 12px;
  border-collapse: collapse;
}
.fall th {
  font-weight: 400;
  color: var(--quiet);
  text-align: left;
  white-space: nowrap;
  padding: 2px 6px;
}
.fall td {
  border-top: 1px solid var(--hair);
  padding: 2px 6px;
  white-space: nowrap;
}
.fall .num {
  text-align: right;
}
.fall .wide {
  width: 46%;
}
.step {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.bad td {
  background: color-mix(in srgb, var(--brick) 9%, transparent);
}
.axis {
  position: relative;
  display: block;
  height: 14px;
}
.axis i {
  position: absolute;
  font-style: normal;
  font-size: 11px;
  line-height: 14px;
  border-left: 1px solid var(--edge);
  padding-left: 3px;
}
.sum {
  font-size: 12.5px;
  padding-top: 6px;
}
.key {
  display: flex;
  gap: 12px;
  padding-top: 4px;
}
.key span {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.key i {
  width: 14px;
  height: 9px;
}
.hatch {
  background: repeating-linear-gradient(135deg, var(--quiet) 0 1.2px, transparent 1.2px 4px);
  outline: 1px solid var(--quiet);
  outline-offset: -1px;
}
.ink {
  background: var(--ink);
}
.grey {
  background: var(--quiet);
}
.red {
  background: var(--brick);
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>

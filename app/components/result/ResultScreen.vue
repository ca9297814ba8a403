<script setup lang="ts">
/**
 * The result: the answer as a sentence, the evidence on the stave with a brush, tables that follow it, ledger,
 * soundness, cost, files.
 */
import { takeNumber } from '~/format/numbers'
import { sayShortfall, sayValue } from '~~/core/objectives/judge'
import { nameOf, sayLimit } from '~~/core/objectives/sentence'
import { count, euro, share, timeText } from '~~/core/values/said-figures'
import { stepKey } from '~~/core/objectives/subject'
import type { FailureKind } from '~~/api/views'
import type { Objective } from '~~/core/plan/document'
import type { Section } from '~/composables/sections'
import { dayTime, duration, runTime } from '~/format/moments'
import { VERDICT_MARKS } from '~/format/runs'
import { targetSeries } from '../stave/stave-staffs'

const BaselineLine = ownPart(() => import('./BaselineLine.vue'))
const AgainDialog = ownPart(() => import('../run/AgainDialog.vue'))
const ShareDialog = ownPart(() => import('../report/ShareDialog.vue'))
const RunAboutDialog = ownPart(() => import('../run/RunAboutDialog.vue'))
const AgainstUsers = ownPart(() => import('./AgainstUsers.vue'))
const DistributionPanel = ownPart(() => import('./DistributionPanel.vue'))
const FilesPanel = ownPart(() => import('./FilesPanel.vue'))
const PassesPanel = ownPart(() => import('./PassesPanel.vue'))
const TargetPanel = ownPart(() => import('./TargetPanel.vue'))
const MachineTable = ownPart(() => import('./MachineTable.vue'))
const RunStave = ownPart(() => import('../stave/RunStave.vue'))
const below = useAfterFirstSight()
/** What it measured can still be asked: it has not been given back. */
const isThere = computed(() => below.value && run.value.clearedAt === undefined)
const store = useRun()
const live = useLive()
// Its page shows it only once it is there.
const run = computed(() => store.view!)
const machines = computed(() => run.value.generators.map(g => g.name))
const summary = computed(() => run.value.summary)
const networkStep = ref('')
const exampleStep = ref('')
const exampleBand = ref('all')
const examplePass = ref<{ group: string, user: number, pass: number }>()
/** From a count of failures to the exchanges that were kept of them. */
const showExamples = ({ kind, status }: { kind: FailureKind, status?: number }, step: string) =>
  showKept(`failed:${kind}${status ? `:${status}` : ''}`, step)
const showBand = (band: { fromMs: number, toMs?: number } | undefined, step: string) =>
  showKept(band ? `ms:${band.fromMs}:${band.toMs ?? ''}` : 'failed', step)
async function showKept(band: string, step: string, pass?: typeof examplePass.value): Promise<void> {
  examplePass.value = pass
  exampleStep.value = step
  exampleBand.value = band
  await nextTick()
  globalThis.document.querySelector('[data-part=exchanges]')?.scrollIntoView({ block: 'start' })
  focusOn('[data-part=exchanges] h2')
}
/** Its plan had the target's own figures read. */
const isTargetThere = computed(
  () => isThere.value && summary.value !== undefined && targetSeries(run.value.document).length > 0,
)
const hasNetworks = computed(() => (run.value.document.networks?.length ?? 0) > 0)
const sections = computed((): Section[] => {
  const measured = isThere.value && summary.value !== undefined
  return [
    { id: 'answer', name: 'Answer', is: summary.value !== undefined },
    { id: 'figures', name: 'Figures', is: measured },
    { id: 'networks', name: 'Networks', is: measured && hasNetworks.value && window.value !== undefined },
    { id: 'users', name: 'By users', is: measured },
    { id: 'distribution', name: 'Distribution', is: measured },
    { id: 'failures', name: 'Failures', is: measured },
    { id: 'passes', name: 'Passes', is: measured && !claimed.value },
    { id: 'exchanges', name: 'Exchanges', is: measured && window.value !== undefined },
    { id: 'machines', name: 'Machines', is: measured && !claimed.value },
    { id: 'target', name: 'Target', is: isTargetThere.value },
    { id: 'evidence', name: 'Evidence', is: below.value && summary.value !== undefined },
    { id: 'roll-call', name: 'Roll call', is: below.value && run.value.rollCall.machines.length > 0 },
    { id: 'files', name: 'Files', is: measured },
    { id: 'happened', name: 'What happened', is: below.value },
  ].filter(s => s.is)
})
const { now, go, step: stepSection } = useSections(() => sections.value)
const stepName = useStepNames(
  () => store.chosenWindow ?? { steps: [] },
  () => run.value.document,
)
const cost = computed(() => run.value.cost)
const endS = computed(() => Math.max(summary.value?.lengthS ?? run.value.lengthS, 1))
const span = computed(() => ({ fromS: 0, toS: endS.value }))
const zoom = useZoom(() => endS.value)
watch([zoom, () => store.stretchS], ([shown]) => shown && void store.refine(shown), { immediate: true })
const window = computed(() => store.chosenWindow)
const shownWindow = computed(() => store.chosen ?? { fromS: 0, toS: span.value.toS })
const judgedWindow = computed(() => {
  const levels = summary.value?.answer.judgements.map(j => j.level) ?? []
  const top = [...levels].sort((a, b) => b.users - a.users)[0]
  return top && { fromS: top.fromS, toS: top.toS }
})
/** When passes are looked at first: at the worst second that was broken, else in the middle of what was judged. */
const moment = computed(() => {
  const broken = summary.value?.broken?.find(s => s.judged) ?? summary.value?.broken?.[0]
  if (broken) return broken.worstToS
  const { fromS, toS } = judgedWindow.value ?? span.value
  return Math.round((fromS + toS) / 2)
})
const { problem, guarded } = useGuarded()
const canBeBaseline = computed(
  () => summary.value !== undefined && isThere.value && !run.value.line.calibrates && !run.value.line.isBaseline,
)
async function makeBaseline(): Promise<void> {
  if (await guarded(() => api('setBaseline', { run: run.value.line.id }, { isBaseline: true }))) await store.reload()
}
/** Other programs measured it: it has no machines of ours, and cannot be run again. */
const claimed = computed(() => run.value.document.claimed)
const again = useOpenInAddress('open', 'again')
const about = useOpenInAddress('open', 'about')
const isSharing = useOpenInAddress('open', 'share')
const mark = computed(() =>
  run.value.line.verdict
    ? VERDICT_MARKS[run.value.line.verdict]
    : ({ glyph: 'inTheWay', tone: 'brick', word: 'no answer' } as const),
)
/** The window is part of the address: what is chosen on the stave, typed or sent by somebody is the same. */
const from = useInAddress('from')
const to = useInAddress('to')
function choose(chosen: { fromS: number, toS: number } | undefined): void {
  // At once, too: anyone who types both edges is quicker than the address.
  store.choose(chosen)
  from.value = chosen && String(chosen.fromS)
  to.value = chosen && String(chosen.toS)
}
watch([from, to], ([fromS, toS]) => {
  const window = { fromS: Number(fromS), toS: Number(toS) }
  const right = /^\d+$/.test(fromS ?? '') && /^\d+$/.test(toS ?? '') && window.fromS < window.toS
  // The whole run is there already, and is not asked for twice.
  if (right || store.chosen) store.choose(right ? window : undefined)
}, { immediate: true })
/** Judged ones before others; after the last the first again. */
function chooseNextBroken(): void {
  const all = summary.value?.broken ?? []
  const judged = all.filter(s => s.judged)
  const of = judged.length > 0 ? judged : all
  const next = of.find(s => s.fromS > (store.chosen?.fromS ?? -1)) ?? of[0]
  if (next) choose({ fromS: next.fromS, toS: next.toS })
}
const said = (o: Objective) => nameOf(o, run.value.document.journeys)
function setEdge(edge: 'fromS' | 'toS', text: string): true | string {
  const { fromS, toS } = store.chosen ?? span.value
  const bounds = edge === 'fromS' ? { min: 0, max: toS - 1 } : { min: fromS + 1, max: Math.max(span.value.toS, toS) }
  return takeNumber(text.replace(/s$/, ''), bounds, n => choose({ fromS, toS, [edge]: Math.round(n) }))
}
const setFrom = (text: string) => setEdge('fromS', text)
const setTo = (text: string) => setEdge('toS', text)
useActs([
  {
    key: 'a',
    needs: 'operator',
    says: 'Run the plan again',
    act: () => {
      if (!claimed.value) again.value = true
    },
  },
  {
    key: 'b',
    says: 'Name, notes and tags of this run',
    act: () => {
      about.value = true
    },
  },
  { key: ']', says: 'Go to the next section', act: () => stepSection(1) },
  { key: '[', says: 'Go to the section before', act: () => stepSection(-1) },
  { key: 'j', says: 'Choose the judged window', act: () => choose(judgedWindow.value) },
  { key: 'x', says: 'Choose the next stretch in which an objective was broken', act: chooseNextBroken },
  { says: 'Choose a window by its seconds', act: () => focusOn('.bandh input') },
  { says: 'Go to the exchanges that were kept', act: () => focusOn('[aria-label=Exchanges] [tabindex="0"]') },
  { key: 'e', says: 'Choose the whole run', act: () => choose(undefined) },
])
/** Who measured it; which run they joined. */
const claimedSays = computed(() => {
  const named = (isRun: boolean) => claimed.value?.senders.filter(s => (s.how === 'run') === isRun).map(s => s.name) ?? []
  const elsewhere = `measured elsewhere by ${named(false).join(', ')}`
  return named(true).length > 0 ? `${named(true).join(', ')}, joined by what was ${elsewhere}` : elsewhere
})
</script>

<template>
  <div class="screen">
    <header class="head">
      <div class="clip">
        <div class="s12 q">
          <template v-if="run.line.name"><b class="ink">{{ run.line.name }}</b> · </template>Run {{ run.line.id }}<template v-if="claimed">, {{ claimedSays }}</template><template v-else><template v-if="run.line.openedFrom !== undefined">, opened from the archive of run {{ run.line.openedFrom }} elsewhere,</template> of
            <NuxtLink
              :to="`/plans/${run.line.planId}`"
              class="link"
            ><b class="ink">{{ run.line.planName }}</b></NuxtLink>, version {{ run.document.planVersion }}</template> · {{ dayTime(run.line.createdAt, live.controllerNow) }} ·
          <template v-if="!claimed">{{ run.line.target }} · </template>{{ run.line.state }}
          <template v-if="run.line.pinned"> · pinned</template>
          <UBadge v-for="tag in run.line.tags" :key="tag" class="tag" size="sm">{{ tag }}</UBadge>
          <UButton size="xs" variant="link" class="about" @click="about = true">
            {{ run.line.name || run.notes || run.line.tags.length ? 'about' : 'name, notes, tags' }} <UKbd>b</UKbd>
          </UButton>
        </div>
        <h1 class="clip">{{ run.line.question }}</h1>
        <div class="answer">
          <AGlyph :name="mark.glyph" :size="14" :class="mark.tone" :word="mark.word" />
          <b :class="mark.tone">{{ run.line.sentence }}</b>
          <span
            v-if="summary"
            class="sound"
          ><AGlyph
             v-if="summary.soundness !== 'sound'"
             name="costsSoundness"
             :class="summary.soundness === 'unsound' ? 'brick' : 'plantx'"
             :word="summary.soundness"
           />
            {{ summary.soundness }} as evidence</span>
          <span v-if="summary && !claimed" class="cost q">cost <b>{{ euro(cost) }}</b></span>
        </div>
        <p v-if="summary?.why" class="why">{{ summary.why }}</p>
        <p v-if="run.clearedAt !== undefined" class="why">
          What it measured was given back {{ dayTime(run.clearedAt, live.controllerNow) }}: its answer is what is left.
        </p>
        <p v-else-if="run.foldedAt !== undefined" class="why">
          What its generators sent was folded {{ dayTime(run.foldedAt, live.controllerNow) }}: they are told apart in
          whole stretches.
        </p>
        <BaselineLine v-if="summary && isThere" :run="run.line" @changed="store.reload()" />
        <p v-if="run.notes" class="notes">{{ run.notes }}</p>
        <nav class="sections" aria-label="Sections">
          <UButton
            v-for="s in sections"
            :key="s.id"
            size="xs"
            variant="link"
            :aria-current="now === s.id ? 'location' : undefined"
            @click="go(s.id)"
          >
            {{ s.name }}
          </UButton>
          <span class="q s11"><UKbd>[</UKbd> <UKbd>]</UKbd></span>
        </nav>
      </div>
    </header>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <template v-if="summary">
        <div id="answer" class="figures" :class="{ panel: summary.answer.judgements.length > 0 }">
          <div v-for="j in summary.answer.judgements" :key="said(j.objective) + j.level.fromS">
            <AGlyph
              :name="j.held ? 'held' : 'broken'"
              :class="j.held ? 'moss' : 'brick'"
            /> <b>{{ said(j.objective) }}</b>
            {{ j.measured === undefined ? 'not measured' : sayValue(j.objective, j.measured) }}
            <span class="q">{{ sayLimit(j.objective) }},
              <template v-if="j.short?.length"><b class="plantx">{{ j.short.map(sayShortfall).join(' and ') }}</b>, </template><template v-else>{{ count(j.level.users) }} users, </template>{{ runTime(j.level.fromS) }} to
              {{ runTime(j.level.toS) }}</span>
          </div>
        </div>
        <StretchList :stretches="summary.broken ?? []" :document="run.document" @choose="choose($event)" />
        <div class="evidence">
          <RunStave
            :run="run"
            :seconds="store.seconds"
            :span="zoom ?? span"
            :chosen="store.chosen"
            :merged="window"
            :broken="summary.broken"
            brush
            aria-describedby="charts-in-words"
            @choose="choose($event)"
          />
        </div>
        <StaveTable
          v-if="isThere"
          :run="run"
          :seconds="store.seconds"
          :span="zoom ?? span"
          words-id="charts-in-words"
          @choose="choose($event)"
        />
        <SlowestNote :seconds="store.seconds" :span="zoom ?? span" />
        <MachineMap v-if="!claimed" :run="run" :seconds="store.seconds" :span="zoom ?? span" />
        <ResultSection v-if="isThere" id="figures" title="Exact figures">
          <template #head>
            <label>from
              <DraftInput
                class="edge"
                size="xs"
                :value="store.chosen?.fromS ?? 0"
                inputmode="numeric"
                :accept="setFrom"
              />
              s</label>
            <label>to
              <DraftInput
                class="edge"
                size="xs"
                :value="store.chosen?.toS ?? span.toS"
                inputmode="numeric"
                :accept="setTo"
              />
              s</label>
            <UButton size="sm" variant="link" :aria-pressed="!store.chosen" @click="choose(undefined)">
              whole run
            </UButton>
            <UButton v-if="judgedWindow" size="sm" variant="link" @click="choose(judgedWindow)">
              the highest level judged
            </UButton>
            <span class="q">drag in the stave to choose any window</span>
          </template>
          <SliceTable :run-id="run.line.id" :window="shownWindow" :document="run.document" :machines="machines" />
        </ResultSection>
        <ResultSection v-if="below && window && hasNetworks" id="networks" title="Networks felt">
          <template #head>
            <span class="q">a median connect time is one round trip of the profile on top of the real path{{
              run.document.target.baseUrl.startsWith('https:') ? ', under TLS two' : ''
            }}</span><span class="spring" /><UFormField label="times of" orientation="horizontal">
              <PickOne
                v-model="networkStep"
                size="sm"
                :items="[
                  { value: '', label: 'all steps' },
                  ...window.steps.filter(x => x.kind !== 'round').map(s => ({ value: stepKey(s.journeyId, s.step), label: stepName(s) })),
                ]"
              />
            </UFormField>
          </template>
          <NetworkTable v-model:step="networkStep" :window="window" :run="run" />
        </ResultSection>
        <ResultSection v-if="isThere" id="users" title="Against users">
          <AgainstUsers :run="run" :length-s="span.toS" @choose="choose($event)" />
        </ResultSection>
        <ResultSection
          v-if="isThere"
          id="distribution"
          title="Distribution"
          hint="of what is chosen above, in the chosen window"
        >
          <DistributionPanel
            :run-id="run.line.id"
            :window="shownWindow"
            :whole="span"
            :document="run.document"
            :machines="machines"
            @examples="showBand"
          />
        </ResultSection>
        <ResultSection v-if="isThere" id="failures" title="Failures">
          <FailureTable
            :run-id="run.line.id"
            :window="shownWindow"
            :document="run.document"
            :machines="machines"
            @choose="choose($event)"
            @examples="showExamples"
          />
          <template v-if="window">
            <h3 class="missed">What answers missed</h3>
            <MissList :window="window" :document="run.document" />
          </template>
        </ResultSection>
        <ResultSection v-if="isThere && !claimed" id="passes" title="Passes">
          <PassesPanel
            :run="run"
            :seconds="store.seconds"
            :moment="moment"
            @exchanges="showKept('all', '', $event)"
          />
        </ResultSection>
        <ExemplarList
          v-if="below && window"
          id="exchanges"
          v-model:step="exampleStep"
          v-model:band="exampleBand"
          v-model:pass="examplePass"
          :run="run"
          :window="window"
          class="band"
        />
        <ResultSection v-if="isThere && !claimed" id="machines" title="Machines">
          <MachineTable :run="run" :window="shownWindow" />
        </ResultSection>
        <ResultSection v-if="isTargetThere" id="target" title="The target’s own account">
          <TargetPanel :run="run" :load-s="run.lengthS" :window="shownWindow" />
        </ResultSection>
        <div v-if="below" id="evidence" class="two">
          <ResultSection title="Ledger">
            <template #head>
              <span :class="summary.ledger.balanced ? 'q' : 'brick'">{{
                summary.ledger.balanced
                  ? 'every account balances or is open by a stated amount'
                  : 'an account contradicts itself'
              }}</span>
            </template>
            <LedgerTable
              :ledger="summary.ledger"
              :redirects="summary.whole.redirects"
              :arrivals="summary.arrivals ?? []"
            />
          </ResultSection>
          <section class="band">
            <SoundnessList
              :findings="summary.findings"
              :soundness="summary.soundness"
              :account-of="isTargetThere ? run.line.id : undefined"
            />
            <h2 class="missed">Run</h2>
            <p class="facts">
              {{ count(summary.whole.started) }} requests in {{ duration(summary.lengthS * 1000) }},
              {{ share(summary.whole.failureShare) }} failed, mean {{ timeText(summary.whole.meanMs) }}.
              <template v-if="!claimed">{{ run.machines.length }} machines cost <b>{{ euro(cost) }}</b><template
                v-if="run.document.forecast !== undefined"
              >
                (forecast <span class="planned">{{ euro(run.document.forecast) }}</span>)</template>;
                {{
                  run.machines.every(m => m.goneAt !== undefined)
                    ? 'all are given back'
                    : `${run.machines.filter(m => m.goneAt === undefined).length} still out`
                }}.</template>
            </p>
          </section>
        </div>
      </template>
      <CrewTable v-else :run="run" />
      <CapacityHints v-if="run.summary?.suggests?.length" :run-id="run.line.id" :suggests="run.summary.suggests" />
      <ResultSection
        v-if="below && run.rollCall.machines.length"
        id="roll-call"
        title="Roll call"
        hint="as it was answered before the load"
      >
        <div class="across"><RollCallTable :view="run.rollCall" /></div>
      </ResultSection>
      <ResultSection v-if="isThere && summary" id="files" title="Files" hint="in open formats, for other programs">
        <FilesPanel :run="run" />
      </ResultSection>
      <LeftoverList v-if="below" :run="run" class="band" />
      <section v-if="below" id="happened" class="band">
        <h2>What happened</h2>
        <RunEvents :run="run" class="events" />
      </section>
    </div>
    <footer class="sill">
      <span v-if="claimed" class="q">{{ count(run.line.peakUsers) }} users at most, as claimed · {{ run.document.plan.locations.length }} {{ run.document.plan.locations.length === 1 ? 'location' : 'locations' }}</span>
      <span v-else class="q">{{ count(run.line.peakUsers) }} users planned · {{ run.document.plan.groups.length }}
        {{ run.document.plan.groups.length === 1 ? 'group' : 'groups' }} · {{ run.document.plan.locations.length }}
        {{ run.document.plan.locations.length === 1 ? 'location' : 'locations' }} · seed
        {{ run.document.plan.seed }}</span>
      <span class="spring" />
      <UButton v-if="summary && run.clearedAt === undefined && !run.line.calibrates" :to="`/runs/compare?runs=${run.line.id}`">Compare with …</UButton>
      <UButton v-if="canBeBaseline" v-needs="'operator'" @click="makeBaseline">Make it the baseline</UButton>
      <UButton v-if="summary && !run.line.calibrates" :to="`/reports/${run.line.id}`">Report</UButton>
      <UButton v-if="summary && !run.line.calibrates" v-needs="'operator'" @click="isSharing = true">Share</UButton>
      <template v-if="!claimed">
        <UButton :to="`/plans/${run.line.planId}`">Open the plan</UButton>
        <UButton v-needs="'operator'" variant="solid" @click="again = true">Again <UKbd>a</UKbd></UButton>
      </template>
    </footer>
    <ShareDialog v-if="isSharing" v-model:open="isSharing" :thing="{ kind: 'run', runs: [run.line.id] }" />
    <RunAboutDialog v-if="about" v-model:open="about" :run="run" @saved="store.reload()" />
    <AgainDialog v-if="again" v-model:open="again" :run="run.line" />
  </div>
</template>

<style scoped>
.head {
  padding: 7px 14px 6px;
}
.ink {
  color: var(--ink);
}
.link:hover {
  text-decoration: underline;
}
.answer {
  font-size: 16px;
  line-height: 22px;
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.sound,
.cost {
  font-size: 13px;
  margin-left: 12px;
}
.why {
  font-size: 12.5px;
  color: var(--quiet);
}
.sections {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  align-items: center;
  margin-top: 2px;
}
.sections :deep(button) {
  padding: 0;
}
.sections :deep([aria-current]) {
  color: var(--ink);
  font-weight: 620;
}
.notes {
  font-size: 12.5px;
  white-space: pre-line;
  max-height: 54px;
  overflow: auto;
  border-left: 2px solid var(--edge);
  padding-left: 8px;
  margin-top: 2px;
}
.tag {
  margin-left: 6px;
}
.about {
  margin-left: 6px;
  padding: 0;
}
.figures {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 2px 16px;
  padding: 6px 12px;
  margin-bottom: 8px;
  font-size: 12.5px;
}
.figures > div {
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.evidence {
  min-height: 380px;
  display: flex;
  flex-direction: column;
}
.band {
  margin-top: 12px;
}
.missed {
  padding: 6px 0 2px;
}
.spring {
  flex: 1;
}
.edge {
  width: 60px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 16px;
}
.facts {
  border-top: 1px solid var(--hair);
  padding-top: 4px;
  font-size: 12.5px;
}
.act-link {
  color: var(--act);
  text-decoration: underline;
  text-underline-offset: 2px;
}
.events {
  max-height: 320px;
  margin-top: 6px;
}
@media (max-width: 900px) {
  .answer {
    flex-wrap: wrap;
    white-space: normal;
  }
}
@media (max-width: 1100px) {
  .two {
    grid-template-columns: 1fr;
  }
}
.across {
  overflow-x: auto;
}
</style>

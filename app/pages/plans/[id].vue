<script setup lang="ts">
/** The plan sheet: one page, four bands, no scrolling at 1280 × 800 with four groups and six locations. */
import type { Fix } from '~~/core/checks/problem'
import type { Plan } from '~~/core/plan/document'
import { filledSeconds } from '~/stores/filled-seconds'
import { clockTime, dayTime, duration } from '~/format/moments'
import { euro } from '~~/core/values/said-figures'
import { machinesOf } from '~/format/sizing'

const LoadChart = ownPart(() => import('~/components/plan/LoadChart.vue'))
/** The sheet does not wait for its chart. */
const drawsChart = useAfterFirstSight()
const PlanTextPanel = ownPart(() => import('~/components/plan/PlanTextPanel.vue'))
const PlanVersionsPanel = ownPart(() => import('~/components/plan/PlanVersionsPanel.vue'))
/** What can lie beside the sheet. */
const PANELS = ['text', 'versions', 'about'] as const
/** Of the last run’s course, drawn beneath the plan’s. */
const MOST_POINTS = 1200
const route = useRoute()
const live = useLive()
const store = usePlan()
const cursorMs = ref<number>()
const approving = useOpenInAddress('open', 'approval')
const starting = ref(false)
const asking = useOpenInAddress('open', 'start')
const scaling = useOpenInAddress('open', 'scale')
const before = ref<{ id: number, users: number[] }>()
/** Group whose corners are handles, group and location whose dialog is open, and what lies beside the sheet. */
const chosenGroup = ref<string>()
const openGroup = useOneInAddress('open', 'group')
const openLocation = useOneInAddress('open', 'location')
const openSizing = useOneInAddress('open', 'sizing')
const besidePlan = useInAddress('beside')
const beside = computed({
  get: () => PANELS.find(panel => panel === besidePlan.value),
  set: (panel) => {
    besidePlan.value = panel
  },
})
const grid = useTemplateRef<{ edit: (row: number, column: number, text: string) => void }>('grid')

const plan = computed(() => store.plan)
const target = computed(() => store.view?.targets.find(t => t.id === plan.value?.targetId))
/** Who is there when, wherever they come from: what is typed into the grid’s shares changes nothing in the chart. */
const load = computed<Plan | undefined>(before =>
  keepingUnchanged(before, store.inUsers && { ...store.inUsers, placement: {}, networks: {} }))
const machines = computed(() => store.check?.sizes.reduce((s, x) => s + machinesOf(x), 0) ?? 0)

async function read(): Promise<void> {
  await store.load(String(route.params.id))
  const last = store.view?.lastRun
  before.value = undefined
  if (last?.startAt !== undefined) {
    const seconds = await api('seconds', { run: last.id, most: MOST_POINTS }).catch(() => [])
    before.value = { id: last.id, users: filledSeconds(seconds).map(s => s.usersByLocation.reduce((a, b) => a + b, 0)) }
  }
}
const isOpen = whenAlone('plan', () => void read())

function fix(remedy: Fix): void {
  if (remedy.kind === 'approve') approving.value = true
  else if (remedy.kind === 'calibrate') void calibrate(remedy)
  else if (remedy.kind === 'openJourney') void goTo(`/journeys/${remedy.journey}`)
  else store.fix(remedy)
}
/** What is typed here is kept, then the batch is chosen where calibrations are. */
async function calibrate({
  journeys,
  provider,
  types,
  networks,
}: Extract<Fix, { kind: 'calibrate' }>): Promise<void> {
  if (!(await store.save())) return
  await goTo({
    path: '/fleet/capacity',
    query: { journeys: journeys.join(), provider, types: types.join(), networks: networks.join() },
  })
}
function fixFirst(): void {
  const first = store.check?.problems.find(p => p.fix)?.fix
  if (first) fix(first)
}
function askToStart(): void {
  if (store.inTheWay.length > 0) document.querySelector<HTMLElement>('.before button')?.focus()
  else if (store.check) asking.value = true
}
async function start(): Promise<void> {
  starting.value = true
  const run = await store.start()
  starting.value = false
  if (run) await goTo(`/runs/${run.id}`)
}
function ask(question: string): true | string {
  if (question.trim() === '') return 'A plan asks a question: write it.'
  store.edit((p) => {
    p.question = question.trim()
  })
  return true
}
async function approved(): Promise<void> {
  if (store.changed) await store.recheck()
  else await store.load(String(route.params.id))
}
async function clone(): Promise<void> {
  const id = await store.clone()
  if (id) await goTo(`/plans/${id}`)
}

function shape(phrase: string): void {
  const row = Math.max(
    0,
    (plan.value?.groups ?? []).findIndex(g => g.letter === chosenGroup.value),
  )
  grid.value?.edit(row, 0, phrase)
}
function toggle(what: 'text' | 'versions' | 'about'): void {
  beside.value = beside.value === what ? undefined : what
}
useActs([
  { key: 's', needs: 'operator', says: 'Start', price: () => `${euro(store.check?.forecast ?? 0)} forecast`, act: askToStart },
  { key: 'f', says: 'Fix the first problem', act: fixFirst },
  { key: 'Ctrl+Z', says: 'Undo the last change', act: () => store.undo() },
  { key: 'Ctrl+Shift+Z', says: 'Do it again', act: () => store.redo() },
  { key: 'Ctrl+S', needs: 'operator', says: 'Save', act: () => store.save() },
  {
    key: 'g',
    says: 'Add a group',
    act: () => {
      openGroup.value = ''
    },
  },
  {
    key: 'l',
    says: 'Add a location',
    act: () => {
      openLocation.value = ''
    },
  },
  {
    key: 'p',
    says: 'Go to the placement grid',
    act: () => focusOn('[role="gridcell"][tabindex="0"]'),
  },
  { says: 'Add an objective', act: () => focusOn('[aria-label="Add an objective"]') },
  {
    says: 'Scale the load',
    act: () => {
      scaling.value = true
    },
  },
  { key: 't', says: 'The plan as text', act: () => toggle('text') },
  { key: 'v', says: 'Versions', act: () => toggle('versions') },
  { key: 'b', says: 'About: name, tags, notes, how a run is made', act: () => toggle('about') },
  { key: 'c', needs: 'operator', says: 'Clone the plan', act: () => void clone() },
])
useLeaving('the plan', () => store.changed, store.save)
useHead({ title: () => `${plan.value?.name ?? 'Plan'} · Vornak` })
</script>

<template>
  <div class="desk" :class="{ split: beside }">
    <div class="sheet">
      <PlanConflict v-if="store.conflict !== undefined" />
      <ProblemNote
        v-else-if="store.problem"
        :problem="store.problem"
        class="trouble"
        :closable="plan !== undefined"
        @close="store.problem = undefined"
      />
      <template v-if="isOpen && plan && store.view">
        <header class="head">
          <div class="s12 q clip">
            Plan <h1 class="named">{{ plan.name }}</h1> · version {{ store.view.version }}, saved
            {{ dayTime(store.view.savedAt, live.controllerNow) }}, against
            <PickOne
              class="bare"
              variant="ghost"
              size="xs"
              :model-value="plan.targetId"
              aria-label="Target"
              :items="[
                ...(!target ? [{ value: plan.targetId, label: 'choose a target' }] : []),
                ...store.view.targets.map(t => ({ value: t.id, label: `${t.name}, ${t.environment}` })),
              ]"
              @update:model-value="value => store.edit(p => {
                p.targetId = value
              })"
            />
            <span v-if="store.view.archived" class="plantx"> · archived</span>
            <span v-if="store.changed" class="plantx"> · changed, not saved</span>
            <template v-if="store.view.lastRun">
              ·
              <NuxtLink
                :to="`/runs/${store.view.lastRun.id}`"
                class="link"
              >run {{ store.view.lastRun.id }}: {{ store.view.lastRun.sentence }}</NuxtLink> ·
              <NuxtLink :to="`/trends/${store.view.id}`" class="link">over time</NuxtLink></template>
          </div>
          <DraftInput
            class="asked"
            variant="ghost"
            size="lg"
            aria-label="Question"
            :title="plan.question"
            :value="plan.question"
            :accept="ask"
          />
          <div class="acts">
            <UButton
              size="sm"
              :variant="beside === 'text' ? 'soft' : undefined"
              :aria-pressed="beside === 'text'"
              @click="toggle('text')"
            >
              As text <UKbd>t</UKbd>
            </UButton>
            <UButton
              size="sm"
              :variant="beside === 'versions' ? 'soft' : undefined"
              :aria-pressed="beside === 'versions'"
              @click="toggle('versions')"
            >
              Versions <UKbd>v</UKbd>
            </UButton>
            <UButton
              size="sm"
              :variant="beside === 'about' ? 'soft' : undefined"
              :aria-pressed="beside === 'about'"
              @click="toggle('about')"
            >
              About <UKbd>b</UKbd>
            </UButton>
            <UButton size="sm" @click="clone">Clone <UKbd>c</UKbd></UButton>
          </div>
        </header>
        <section class="load">
          <PlanTotals :cursor-ms="cursorMs" :length-s="store.check!.lengthS" @shape="shape" @scale="scaling = true" />
          <LoadChart
            v-if="drawsChart"
            :plan="load!"
            :check="store.check"
            :before="before"
            :chosen="chosenGroup"
            @cursor="cursorMs = $event"
          />
        </section>
        <PlacementGrid
          ref="grid"
          :check="store.check"
          :cursor-ms="cursorMs"
          :chosen-group="chosenGroup"
          :narrow="beside !== undefined"
          class="place"
          @group="chosenGroup = $event"
          @open-group="chosenGroup = openGroup = $event"
          @open-location="openLocation = $event"
          @add-group="openGroup = ''"
          @add-location="openLocation = ''"
          @sizing="openSizing = $event"
        />
        <div class="foot">
          <ObjectiveList :objectives="plan.objectives" :last="store.view.lastRun" />
          <BeforeStart :problems="store.check?.problems ?? []" class="before" @fix="fix" />
        </div>
        <footer class="sill">
          <span><b>{{ machines }} {{ machines === 1 ? 'machine' : 'machines' }}</b></span><span class="q">·</span>
          <span><b class="planned">{{ euro(store.check?.forecast ?? 0) }}</b> forecast,
            {{ euro(store.check?.perHour ?? 0) }}/h</span><span class="q">·</span>
          <span>gather usually <b>{{ duration((store.check?.gatherS ?? 0) * 1000) }}</b></span><span class="q">·</span>
          <span>would end about
            <b>{{
              clockTime(live.controllerNow + ((store.check?.gatherS ?? 0) + (store.check?.lengthS ?? 0)) * 1000).slice(
                0,
                5,
              )
            }}</b></span>
          <span v-if="store.sizeChange" class="plantx" role="status">{{ store.sizeChange }}</span>
          <span class="spring" />
          <UButton v-if="store.past.length" @click="store.undo()">Undo <UKbd>Ctrl Z</UKbd></UButton>
          <UButton v-if="store.changed" v-needs="'operator'" @click="store.save()">
            {{ store.saving ? 'Saving…' : 'Save' }} <UKbd>Ctrl S</UKbd>
          </UButton>
          <UButton v-if="store.inTheWay.length" v-needs="'operator'" color="error" @click="askToStart">
            <AGlyph name="inTheWay" word="in the way" />Start: {{ store.inTheWay.length }}
            {{ store.inTheWay.length === 1 ? 'thing' : 'things' }} in the way <UKbd>s</UKbd>
          </UButton>
          <UButton v-else v-needs="'operator'" variant="solid" @click="askToStart">{{ starting ? 'Starting…' : 'Start' }} <UKbd>s</UKbd></UButton>
        </footer>
        <LazyScaleDialog v-if="scaling && store.check" v-model="scaling" />
        <LazyStartDialog v-if="asking && store.check && !store.inTheWay.length" v-model="asking" @start="start" />
        <LazyApprovalDialog v-if="approving && target" v-model="approving" :target="target" @saved="approved" />
        <LazyGroupDialog
          v-if="openGroup !== undefined"
          v-model="openGroup"
          @added="letter => {
            chosenGroup = letter
          }"
        />
        <LazyLocationDialog v-if="openLocation !== undefined" v-model="openLocation" />
        <LazySizingDialog v-if="openSizing !== undefined" v-model="openSizing" :check="store.check" />
      </template>
      <h1 v-else-if="store.problem" class="sr">Plan</h1>
      <p v-else class="q wait">Reading the plan and what the providers offer…</p>
    </div>
    <template v-if="isOpen && plan && store.view">
      <PlanTextPanel v-if="beside === 'text'" @close="beside = undefined" />
      <PlanVersionsPanel v-if="beside === 'versions'" @close="beside = undefined" />
      <PlanAboutPanel v-if="beside === 'about'" @close="beside = undefined" />
    </template>
  </div>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  height: 100%;
  min-height: 0;
}
.desk.split {
  grid-template-columns: minmax(0, 1fr) minmax(360px, 480px);
}
.desk > :nth-child(2) {
  margin: 8px 12px 8px 0;
}
.sheet {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto 206px minmax(120px, auto) minmax(84px, 1fr) 44px;
  height: 100%;
  min-height: 0;
  min-width: 0;
}
.sheet > .trouble {
  position: absolute;
  z-index: 5;
  left: 68px;
  right: 12px;
  top: 44px;
}
.head {
  padding: 7px 12px 4px 14px;
  height: 52px;
  display: grid;
  grid-template: 'what acts' auto 'question acts' auto / minmax(0, 1fr) auto;
  gap: 0 12px;
}
.acts {
  grid-area: acts;
  display: flex;
  gap: 8px;
  align-self: center;
}
.link:hover {
  text-decoration: underline;
}
.named {
  display: inline;
  font: inherit;
  font-weight: 620;
  color: var(--ink);
}
.asked {
  grid-area: question;
}
.load {
  margin: 0 12px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: 22px 1fr;
  min-height: 0;
}
.spring {
  flex: 1;
}
.place {
  margin: 8px 12px 0;
}
.foot {
  margin: 8px 12px 0;
  display: grid;
  grid-template-columns: minmax(0, 2fr) minmax(0, 5fr);
  gap: 0 16px;
  min-height: 0;
}
.wait {
  padding: 14px;
}
</style>

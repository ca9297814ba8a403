<script setup lang="ts">
/** The plan sheet: one page, four bands, no scrolling at 1280 × 800 with four groups and six locations. */
import type { Problem } from '~~/core/checks/problem'
import { clockTime, dayTime, duration } from '~/format/moments'
import { euro } from '~/format/figures'
import { machinesOf } from '~/format/sizing'

const LoadChart = defineAsyncComponent(() => import('~/components/plan/LoadChart.vue'))
const PlanTextPanel = defineAsyncComponent(() => import('~/components/plan/PlanTextPanel.vue'))
const PlanVersionsPanel = defineAsyncComponent(() => import('~/components/plan/PlanVersionsPanel.vue'))
const route = useRoute()
const live = useLive()
const store = usePlan()
const cursorMs = ref<number>()
const approving = ref(false)
const starting = ref(false)
const before = ref<{ id: number, users: number[] }>()
/** Group whose corners are handles, group and location whose dialog is open, and what lies beside the sheet. */
const chosenGroup = ref<string>()
const openGroup = ref<string>()
const openLocation = ref<string>()
const openSizing = ref<string>()
const beside = ref<'text' | 'versions' | 'about'>()
const grid = useTemplateRef<{ edit: (row: number, column: number, text: string) => void }>('grid')

const plan = computed(() => store.plan)
const target = computed(() => store.view?.targets.find(t => t.id === plan.value?.targetId))
const machines = computed(() => store.check?.sizes.reduce((s, x) => s + machinesOf(x), 0) ?? 0)

async function load(): Promise<void> {
  await store.load(String(route.params.id))
  const last = store.view?.lastRun
  before.value = undefined
  if (last?.startAt !== undefined) {
    const seconds = await api<{ second: number, usersByLocation: number[] }[]>(`runs/${last.id}/seconds`).catch(
      () => [],
    )
    before.value = { id: last.id, users: seconds.map(s => s.usersByLocation.reduce((a, b) => a + b, 0)) }
  }
}
onMounted(load)

function mend(problem: Problem): void {
  if (problem.mend?.kind === 'approve') approving.value = true
  else if (problem.mend?.kind === 'calibrate') void calibrate(problem.mend)
  else if (problem.mend?.kind === 'openJourney') void navigateTo(`/journeys/${problem.mend.journey}`)
  else if (problem.mend) store.mend(problem.mend)
}
/** What is typed here is kept, then the batch is chosen where calibrations are. */
async function calibrate({
  journeys,
  provider,
  types,
  networks,
}: Extract<Problem['mend'], { kind: 'calibrate' }>): Promise<void> {
  if (!(await store.save())) return
  await navigateTo({
    path: '/fleet/capacity',
    query: { journeys: journeys.join(), provider, types: types.join(), networks: networks.join() },
  })
}
function mendFirst(): void {
  const first = store.check?.problems.find(p => p.mend)
  if (first) mend(first)
}
async function start(): Promise<void> {
  if (store.inTheWay.length > 0) {
    document.querySelector<HTMLElement>('.before button')?.focus()
    return
  }
  starting.value = true
  const run = await store.start()
  starting.value = false
  if (run) await navigateTo(`/runs/${run.id}`)
}
function ask(question: string): boolean {
  if (question.trim() === '') return false
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
  if (id) await navigateTo(`/plans/${id}`)
}

/**
 * The next group takes the next free letter, the first journey there is, and the rest of every location that has one
 * pinned.
 */
function addGroup(): void {
  const letter = [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ'].find(l => !plan.value!.groups.some(g => g.letter === l))
  if (!letter) return
  store.edit((p) => {
    p.groups.push({
      letter,
      name: `Group ${letter}`,
      journeyId: store.view?.journeys[0]?.id ?? '',
      profile: { startDelayMs: 0, segments: [] },
    })
    if (p.locations.length === 1) p.placement[letter] = { [p.locations[0]!.code]: 'rest' }
  })
  chosenGroup.value = openGroup.value = letter
}
function shape(phrase: string): void {
  const row = Math.max(
    0,
    plan.value!.groups.findIndex(g => g.letter === chosenGroup.value),
  )
  grid.value?.edit(row, 0, phrase)
}
function toggle(what: 'text' | 'versions' | 'about'): void {
  beside.value = beside.value === what ? undefined : what
}
useKeys([
  { key: 's', says: 'Start', act: () => void start() },
  { key: 'm', says: 'Mend the first problem', act: mendFirst },
  { key: 'u', says: 'Undo the last change', act: () => store.undo() },
  { key: 'w', says: 'Save', act: () => void store.save() },
  { key: 'g', says: 'Add a group', act: addGroup },
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
    act: () => document.querySelector<HTMLElement>('[role="gridcell"][tabindex="0"]')?.focus(),
  },
  { key: 't', says: 'The plan as text', act: () => toggle('text') },
  { key: 'v', says: 'Versions', act: () => toggle('versions') },
  { key: 'b', says: 'About: name, tags, notes, how a run is made', act: () => toggle('about') },
  { key: 'c', says: 'Clone the plan', act: () => void clone() },
])
useHead({ title: () => `${plan.value?.name ?? 'Plan'} · Vornak` })
</script>

<template>
  <div class="desk" :class="{ split: beside }">
    <div class="sheet">
      <PlanConflict v-if="store.conflict !== undefined" />
      <ProblemNote v-else-if="store.problem" :problem="store.problem" class="trouble" />
      <template v-if="plan && store.view">
        <header class="head">
          <div class="s12 q clip">
            Plan <b class="ink">{{ plan.name }}</b> · version {{ store.view.version }}, saved
            {{ dayTime(store.view.savedAt, live.controllerNow) }}, against
            <select
              class="bare"
              :value="plan.targetId"
              aria-label="Target"
              @change="
                store.edit(p => {
                  p.targetId = ($event.target as HTMLSelectElement).value
                })
              "
            >
              <option v-if="!target" :value="plan.targetId">choose a target</option>
              <option v-for="t in store.view.targets" :key="t.id" :value="t.id">
                {{ t.name }}, {{ t.environment }}
              </option>
            </select>
            <span v-if="store.view.archived" class="plantx"> · archived</span>
            <span v-if="store.changed" class="plantx"> · changed, not saved</span>
            <template v-if="store.view.lastRun">
              ·
              <NuxtLink :to="`/runs/${store.view.lastRun.id}`" class="link"
              >run {{ store.view.lastRun.id }}: {{ store.view.lastRun.sentence }}</NuxtLink
              ></template
            >
          </div>
          <label class="asked"
          ><span class="sr">Question</span><DraftInput class="question" :value="plan.question" :accept="ask"
          /></label>
          <div class="acts">
            <button class="btn sm" :aria-pressed="beside === 'text'" @click="toggle('text')">
              As text <kbd>t</kbd>
            </button>
            <button class="btn sm" :aria-pressed="beside === 'versions'" @click="toggle('versions')">
              Versions <kbd>v</kbd>
            </button>
            <button class="btn sm" :aria-pressed="beside === 'about'" @click="toggle('about')">
              About <kbd>b</kbd>
            </button>
            <button class="btn sm" @click="clone">Clone <kbd>c</kbd></button>
          </div>
        </header>
        <section class="load">
          <PlanTotals :cursor-ms="cursorMs" :length-s="store.check!.lengthS" @shape="shape" />
          <LoadChart
            :plan="store.inUsers!"
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
          @add-group="addGroup"
          @add-location="openLocation = ''"
          @sizing="openSizing = $event"
        />
        <div class="foot">
          <ObjectiveList :objectives="plan.objectives" :last="store.view.lastRun" />
          <BeforeStart :problems="store.check?.problems ?? []" class="before" @mend="mend" />
        </div>
        <footer class="sill">
          <span
          ><b>{{ machines }} {{ machines === 1 ? 'machine' : 'machines' }}</b></span
          ><span class="q">·</span>
          <span
          ><b class="planned">{{ euro(store.check?.forecast ?? 0) }}</b> forecast,
            {{ euro(store.check?.perHour ?? 0) }}/h</span
          ><span class="q">·</span>
          <span
          >gather usually <b>{{ duration((store.check?.gatherS ?? 0) * 1000) }}</b></span
          ><span class="q">·</span>
          <span
          >would end about
            <b>{{
              clockTime(live.controllerNow + ((store.check?.gatherS ?? 0) + (store.check?.lengthS ?? 0)) * 1000).slice(
                0,
                5,
              )
            }}</b></span
          >
          <span v-if="store.sizeChange" class="plantx" role="status">{{ store.sizeChange }}</span>
          <span class="spring" />
          <button v-if="store.past.length" class="btn" @click="store.undo()">Undo <kbd>u</kbd></button>
          <button v-if="store.changed" class="btn" @click="store.save()">
            {{ store.saving ? 'Saving…' : 'Save' }} <kbd>w</kbd>
          </button>
          <button v-if="store.inTheWay.length" class="btn broken" @click="start">
            <AGlyph name="inTheWay" word="in the way" />Start: {{ store.inTheWay.length }}
            {{ store.inTheWay.length === 1 ? 'thing' : 'things' }} in the way <kbd>s</kbd>
          </button>
          <button v-else class="btn act" @click="start">{{ starting ? 'Starting…' : 'Start' }} <kbd>s</kbd></button>
        </footer>
        <ApprovalDialog v-if="target" v-model="approving" :target="target" @saved="approved" />
        <GroupDialog v-model="openGroup" />
        <LocationDialog v-model="openLocation" />
        <SizingDialog v-model="openSizing" :check="store.check" />
      </template>
      <p v-else-if="!store.problem" class="q wait">Reading the plan and what the providers offer…</p>
    </div>
    <template v-if="plan && store.view">
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
.acts [aria-pressed='true'] {
  border-color: var(--act);
  color: var(--act);
}
.ink {
  color: var(--ink);
}
.bare {
  background: none;
  color: var(--ink);
  font-weight: 600;
  cursor: pointer;
}
.link:hover {
  text-decoration: underline;
}
.question {
  font-weight: 600;
  font-size: 18px;
  line-height: 22px;
  font-stretch: 104%;
  width: 100%;
  background: none;
  border-radius: 3px;
  text-overflow: ellipsis;
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

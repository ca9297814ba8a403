<script setup lang="ts">
/** The plan sheet: one page, four bands, no scrolling at 1280 × 800. */
import type { Problem } from '~~/core/plan/problems'
import { fastestStartRate, userHoursOf } from '~~/core/load/profile'
import { meanRoundThinkMs } from '~~/core/journey/journey'
import { peakMoment, plannedAt } from '~~/core/plan/peak'
import { count, euro } from '~/format/figures'
import { clockTime, dayTime, duration, runTime } from '~/format/moments'

const LoadChart = defineAsyncComponent(() => import('~/components/plan/LoadChart.vue'))
const route = useRoute()
const live = useLive()
const store = usePlan()
const cursorMs = ref<number>()
const approving = ref(false)
const starting = ref(false)
const before = ref<{ id: number, users: number[] }>()

const plan = computed(() => store.plan)
const target = computed(() => store.view?.targets.find(t => t.id === plan.value?.targetId))
const peak = computed(() => plan.value && peakMoment(plan.value))
const userHours = computed(() => plan.value?.groups.reduce((sum, g) => sum + userHoursOf(g.profile), 0) ?? 0)
const fastest = computed(() => Math.max(0, ...(plan.value?.groups.map(g => fastestStartRate(g.profile)) ?? [])))
/** Passes from the pauses alone: answers make them fewer. */
const passes = computed(() => plan.value?.groups.reduce((sum, g) => {
  const journey = store.view?.journeys.find(j => j.id === g.journeyId)
  const passMs = journey ? meanRoundThinkMs(journey) : 0
  return passMs > 0 ? sum + userHoursOf(g.profile) * 3_600_000 / passMs : sum
}, 0) ?? 0)
const machines = computed(() => store.check?.sizes.reduce((s, x) => s + x.machines, 0) ?? 0)

async function load(): Promise<void> {
  await store.load(String(route.params.id))
  const last = store.view?.lastRun
  before.value = undefined
  if (last?.startAt !== undefined) {
    const seconds = await api<{ second: number, usersByLocation: number[] }[]>(`runs/${last.id}/seconds`).catch(() => [])
    before.value = { id: last.id, users: seconds.map(s => s.usersByLocation.reduce((a, b) => a + b, 0)) }
  }
}
onMounted(load)

function mend(problem: Problem): void {
  if (problem.mend?.kind === 'approve') approving.value = true
  else if (problem.mend?.kind === 'openJourney') void navigateTo(`/journeys/${problem.mend.journey}`)
  else if (problem.mend) store.mend(problem.mend)
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
  store.edit((p) => { p.question = question.trim() })
  return true
}
async function approved(): Promise<void> {
  if (store.changed) await store.recheck()
  else await store.load(String(route.params.id))
}
useKeys([
  { key: 's', says: 'Start', act: () => void start() },
  { key: 'm', says: 'Mend the first problem', act: mendFirst },
  { key: 'u', says: 'Undo the last change', act: () => store.undo() },
  { key: 'w', says: 'Save', act: () => void store.save() },
])
useHead({ title: () => `${plan.value?.name ?? 'Plan'} · Vornak` })
</script>

<template>
  <div class="sheet">
    <ProblemNote v-if="store.problem" :problem="store.problem" class="trouble" />
    <template v-if="plan && store.view">
      <header class="head">
        <div class="s12 q">
          Plan <b class="ink">{{ plan.name }}</b> · version {{ store.view.version }}, saved {{ dayTime(store.view.savedAt, live.controllerNow) }}, against
          <select class="bare" :value="plan.targetId" aria-label="Target" @change="store.edit((p) => { p.targetId = ($event.target as HTMLSelectElement).value })"><option v-for="t in store.view.targets" :key="t.id" :value="t.id">{{ t.name }}, {{ t.environment }}</option></select>
          <template v-if="store.view.lastRun"> · <NuxtLink :to="`/runs/${store.view.lastRun.id}`" class="link">run {{ store.view.lastRun.id }}: {{ store.view.lastRun.sentence }}</NuxtLink></template>
          <span v-if="store.changed" class="plantx"> · changed, not saved</span>
        </div>
        <label><span class="sr">Question</span><DraftInput class="question" :value="plan.question" :accept="ask" /></label>
      </header>
      <section class="load">
        <div class="bandh">
          <h2>Load</h2>
          <span><b class="planned">{{ count(peak!.users) }} users</b> at peak, {{ runTime(peak!.atMs / 1000) }}</span>
          <span class="q">{{ duration(store.check!.lengthS * 1000) }} in all</span>
          <span class="q">{{ userHours.toFixed(userHours < 10 ? 1 : 0) }} user-hours</span>
          <span class="q">{{ fastest === Infinity ? 'some start at once' : `fastest start ${fastest.toFixed(1)} users/s` }}</span>
          <span class="q">at most {{ count(passes) }} passes</span>
          <span class="spring" />
          <span v-if="cursorMs !== undefined" class="q">at <b class="ink">{{ runTime(cursorMs / 1000) }}</b> <span class="planned">{{ count(plannedAt(plan, cursorMs)) }} users</span></span>
        </div>
        <LoadChart :plan="plan" :check="store.check" :before="before" @cursor="cursorMs = $event" />
      </section>
      <PlacementGrid :check="store.check" :cursor-ms="cursorMs" class="place" />
      <div class="foot">
        <ObjectiveList :objectives="plan.objectives" :last="store.view.lastRun" />
        <BeforeStart :problems="store.check?.problems ?? []" class="before" @mend="mend" />
      </div>
      <footer class="sill">
        <span><b>{{ machines }} {{ machines === 1 ? 'machine' : 'machines' }}</b></span><span class="q">·</span>
        <span><b class="planned">{{ euro(store.check?.forecast ?? 0) }}</b> forecast, {{ euro(store.check?.perHour ?? 0) }}/h</span><span class="q">·</span>
        <span>gather usually <b>{{ duration((store.check?.gatherS ?? 0) * 1000) }}</b></span><span class="q">·</span>
        <span>would end about <b>{{ clockTime(live.controllerNow + ((store.check?.gatherS ?? 0) + (store.check?.lengthS ?? 0)) * 1000).slice(0, 5) }}</b></span>
        <span class="spring" />
        <button v-if="store.past.length" class="btn" @click="store.undo()">Undo <kbd>u</kbd></button>
        <button v-if="store.changed" class="btn" @click="store.save()">{{ store.saving ? 'Saving…' : 'Save' }} <kbd>w</kbd></button>
        <button v-if="store.inTheWay.length" class="btn broken" @click="start"><AGlyph name="inTheWay" word="in the way" />Start: {{ store.inTheWay.length }} {{ store.inTheWay.length === 1 ? 'thing' : 'things' }} in the way <kbd>s</kbd></button>
        <button v-else class="btn act" @click="start">{{ starting ? 'Starting…' : 'Start' }} <kbd>s</kbd></button>
      </footer>
      <ApprovalDialog v-if="target" v-model="approving" :target="target" @saved="approved" />
    </template>
    <p v-else-if="!store.problem" class="q wait">Reading the plan and what the providers offer…</p>
  </div>
</template>

<style scoped>
.sheet { display: grid; grid-template-rows: auto 206px auto minmax(84px, 1fr) 44px; height: 100%; min-height: 0; }
.sheet > .trouble { position: absolute; z-index: 5; left: 68px; right: 12px; top: 44px; }
.head { padding: 7px 14px 4px; height: 52px; }
.ink { color: var(--ink); }
.bare { background: none; color: var(--ink); font-weight: 600; cursor: pointer; }
.link:hover { text-decoration: underline; }
.question { font-weight: 600; font-size: 18px; line-height: 22px; font-stretch: 104%; width: 100%; background: none; border-radius: 3px; text-overflow: ellipsis; }
.load { margin: 0 12px; display: grid; grid-template-rows: 22px 1fr; min-height: 0; }
.bandh { display: flex; gap: 14px; align-items: center; white-space: nowrap; font-size: 12.5px; overflow: hidden; }
.spring { flex: 1; }
.place { margin: 8px 12px 0; }
.foot { margin: 8px 12px 0; display: grid; grid-template-columns: minmax(300px, 380px) 1fr; gap: 0 16px; min-height: 0; }
.wait { padding: 14px; }
</style>

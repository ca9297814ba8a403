<script setup lang="ts">
/**
 * The journey editor: three stretches of steps, one pass drawn to scale, the chosen step beside it; and the try,
 * exchange by exchange.
 */
import { STAGES } from '~~/core/journey/journey'
import { dayTime } from '~/format/moments'

const TryView = ownPart(() => import('~/components/journey/TryView.vue'))
const route = useRoute()
const live = useLive()
const store = useJourney()
const besideStep = useInAddress('beside')
const side = computed({
  get: () => (besideStep.value === 'journey' ? 'journey' : 'step'),
  set: (which) => {
    besideStep.value = which === 'journey' ? which : undefined
  },
})
const seeing = computed(() => (route.query.view === 'try' && store.tried ? 'try' : 'edit'))
const machine = ref('')
/** The stages do not wait for what is edited beside them. */
const drawsSide = useAfterFirstSight()

async function load(): Promise<void> {
  await store.load(String(route.params.id), route.query.version === undefined ? undefined : Number(route.query.version))
  if (route.query.target) store.targetId = String(route.query.target)
}
const isOpen = whenAlone('journey', () => void load())
watch(
  () => store.chosen,
  () => {
    side.value = 'step'
  },
)

async function tryIt(): Promise<void> {
  if (await store.tryIt(machine.value || undefined)) await goTo({ query: { ...route.query, view: 'try' } })
}
function rename(name: string): boolean {
  if (name.trim() === '') return false
  store.edit((j) => {
    j.name = name.trim().slice(0, 80)
  })
  return true
}
async function showVersion(version: number): Promise<void> {
  await store.load(String(route.params.id), version === store.view?.history[0]?.version ? undefined : version)
}
/** Saves an older version as the newest. */
const old = computed(() => store.view !== undefined && store.view.version !== store.view.history[0]?.version)
async function restore(): Promise<void> {
  const before = JSON.stringify(store.journey)
  await store.load(String(route.params.id))
  store.edit((j) => {
    Object.assign(j, JSON.parse(before))
  })
  await store.save()
}
function goToFirst(): void {
  const [stage, at, requests, part] = (store.inTheWay[0]?.at ?? '').split('/')
  // What is no stage is in no list of them.
  if (STAGES.includes(stage as never))
    store.chosen = {
      // As was asked just now.
      stage: stage as (typeof STAGES)[number],
      at: Number(at),
      part: requests === 'requests' ? Number(part) : 0,
    }
  else side.value = 'journey'
}
useActs([
  { key: 'y', needs: 'operator', says: 'Try with one user', act: () => void tryIt() },
  { key: 'Ctrl+Z', says: 'Undo the last change', act: () => store.undo() },
  { key: 'Ctrl+Shift+Z', says: 'Do it again', act: () => store.redo() },
  { key: 'Ctrl+S', needs: 'operator', says: 'Save', act: () => store.save() },
  { key: 'f', says: 'Go to the first fault', act: goToFirst },
  {
    key: 'b',
    says: 'The journey’s own settings',
    act: () => {
      side.value = 'journey'
    },
  },
])
useLeaving('the journey', () => store.changed, store.save)
useHead({ title: () => `${store.journey?.name ?? 'Journey'} · Vornak` })
</script>

<template>
  <div class="editor">
    <ProblemNote v-if="store.problem" :problem="store.problem" class="trouble" />
    <template v-if="isOpen && store.journey && store.view">
      <header class="head">
        <h1 class="sr">{{ store.journey.name }}</h1>
        <div class="s12 q line">
          <NuxtLink to="/journeys" class="link crumb">Journeys</NuxtLink> ·
          <span class="q">version</span> <PickOne
            class="bare"
            variant="ghost"
            size="sm"
            :model-value="store.view.version"
            aria-label="Version"
            :items="store.view.history.map(v => ({ value: v.version, label: `${v.version}${v.savedAt ? `, ${dayTime(v.savedAt, live.controllerNow)}` : ''}` }))"
            @update:model-value="value => showVersion(Number(value))"
          />
          <template v-if="old">
            · an older version <UButton size="sm" variant="link" @click="restore">Make it the newest</UButton></template>
          <span v-if="store.changed" class="plantx"> · changed, not saved</span>
          <span class="spring" />
          <NuxtLink
            v-if="seeing === 'try'"
            class="link act-link"
            :to="{ query: { ...route.query, view: undefined } }"
          >Back to the steps</NuxtLink>
          <NuxtLink
            v-else-if="store.tried"
            class="link act-link"
            :to="{ query: { ...route.query, view: 'try' } }"
          >The last try</NuxtLink>
          <UButton size="sm" variant="link" :aria-pressed="side === 'journey'" @click="side = 'journey'">
            Settings, spans, feeds <UKbd>b</UKbd>
          </UButton>
          <NuxtLink class="link act-link" :to="`/journeys/import/text?id=${store.journey.id}`">As text</NuxtLink>
        </div>
        <DraftInput
          class="name"
          variant="ghost"
          size="lg"
          aria-label="Name"
          :value="store.journey.name"
          :accept="rename"
        />
      </header>
      <TryView v-if="seeing === 'try'" class="main" />
      <CommandForm v-else-if="store.journey.kind === 'command'" class="main scroll" />
      <div v-else class="main two">
        <PassStrip class="strip" />
        <StageList class="stages" />
        <section class="side panel">
          <template v-if="!drawsSide" />
          <JourneyForm v-else-if="side === 'journey' || !store.step" />
          <StepEditor v-else />
        </section>
      </div>
      <footer class="sill">
        <UButton v-if="store.inTheWay.length" variant="link" class="min-w-0 shrink" @click="goToFirst">
          <AGlyph name="inTheWay" class="brick" word="in the way" /><span class="brick">{{ store.inTheWay.length }} {{ store.inTheWay.length === 1 ? 'fault' : 'faults' }}:
            {{ store.inTheWay[0]!.sentence }}</span> <UKbd>f</UKbd>
        </UButton>
        <span v-else class="q">Nothing wrong with it.</span>
        <span class="spring" />
        <UButton v-if="store.past.length" @click="store.undo()">Undo <UKbd>Ctrl Z</UKbd></UButton>
        <UButton v-if="store.changed" v-needs="'operator'" @click="store.save()">
          {{ store.saving ? 'Saving…' : 'Save' }} <UKbd>Ctrl S</UKbd>
        </UButton>
        <UFormField label="against" orientation="horizontal">
          <PickOne
            v-if="store.targetId !== undefined"
            v-model="store.targetId"
            aria-label="Target"
            :items="store.view.targets.map(t => ({ value: t.id, label: `${t.name}, ${t.environment}${t.approval ? '' : ' (not approved)'}` }))"
            @update:model-value="store.recheck()"
          />
        </UFormField>
        <UFormField label="from" orientation="horizontal">
          <PickOne
            v-model="machine"
            aria-label="Where the try runs"
            :items="[
              { value: '', label: 'here' },
              ...store.view.idle.map(g => ({ value: g.machineId, label: g.name })),
            ]"
          />
        </UFormField>
        <UButton
          v-if="store.target && !store.target.approval"
          variant="solid"
          :to="`/targets/${store.targetId}`"
        >Record the approval</UButton>
        <UButton v-else variant="solid" @click="tryIt">
          {{ store.trying ? 'One user is on its way…' : 'Try with one user' }} <UKbd>y</UKbd>
        </UButton>
      </footer>
    </template>
    <p v-else-if="!store.problem" class="q wait">Reading the journey…</p>
  </div>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template: minmax(54px, auto) minmax(0, 1fr) auto / minmax(0, 1fr);
  height: 100%;
  min-height: 0;
}
.editor > .trouble {
  position: absolute;
  z-index: 5;
  left: 68px;
  right: 12px;
  top: 44px;
}
.head {
  padding: 3px 14px 3px;
}
.line {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 24px;
  flex-wrap: wrap;
}
.spring {
  flex: 1;
}
.link:hover {
  text-decoration: underline;
}
.act-link {
  color: var(--act);
  margin: 0 6px;
}
.name {
  width: 100%;
}
.main {
  min-height: 0;
  margin: 0 12px;
}
.scroll {
  overflow: auto;
}
.two {
  display: grid;
  grid-template-columns: minmax(420px, 5fr) minmax(480px, 6fr);
  grid-template-rows: 74px minmax(0, 1fr);
  gap: 0 12px;
  padding-bottom: 8px;
}
.strip {
  grid-column: 1 / 3;
}
.stages {
  min-height: 0;
  overflow: auto;
}
.side {
  min-height: 0;
  overflow: auto;
  padding: 6px 12px 10px;
}
.wait {
  padding: 14px;
}
@media (max-width: 960px) {
  .main {
    overflow: auto;
  }
  .two {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: 74px auto auto;
  }
  .strip {
    grid-column: 1;
  }
  .stages,
  .side {
    min-height: max-content;
  }
}
</style>

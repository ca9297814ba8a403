<script setup lang="ts">
/**
 * The journey editor: three stretches of steps, one pass drawn to scale, the chosen step beside it; and the try,
 * exchange by exchange.
 */
import { STAGES } from '~~/core/journey/journey'
import { dayTime } from '~/format/moments'

const TryView = defineAsyncComponent(() => import('~/components/journey/TryView.vue'))
const route = useRoute()
const live = useLive()
const store = useJourney()
const side = ref<'step' | 'journey'>('step')
const seeing = computed(() => (route.query.view === 'try' && store.tried ? 'try' : 'edit'))
const machine = ref('')

onMounted(async () => {
  await store.load(String(route.params.id), route.query.version === undefined ? undefined : Number(route.query.version))
  if (route.query.target) store.targetId = String(route.query.target)
})
watch(
  () => store.chosen,
  () => {
    side.value = 'step'
  },
)

async function tryIt(): Promise<void> {
  if (await store.tryIt(machine.value || undefined)) await navigateTo({ query: { ...route.query, view: 'try' } })
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
  if (STAGES.includes(stage as never))
    store.chosen = {
      stage: stage as (typeof STAGES)[number],
      at: Number(at),
      part: requests === 'requests' ? Number(part) : 0,
    }
  else side.value = 'journey'
}
useKeys([
  { key: 'y', says: 'Try with one user', act: () => void tryIt() },
  { key: 'u', says: 'Undo the last change', act: () => store.undo() },
  { key: 'w', says: 'Save', act: () => void store.save() },
  { key: 'm', says: 'Go to the first fault', act: goToFirst },
  {
    key: 'j',
    says: 'The journey’s own settings',
    act: () => {
      side.value = 'journey'
    },
  },
])
useHead({ title: () => `${store.journey?.name ?? 'Journey'} · Vornak` })
</script>

<template>
  <div class="editor">
    <ProblemNote v-if="store.problem" :problem="store.problem" class="trouble" />
    <template v-if="store.journey && store.view">
      <header class="head">
        <div class="s12 q line">
          <NuxtLink to="/journeys" class="link">Journeys</NuxtLink> ·
          <label
          >version
            <select
              class="bare"
              :value="store.view.version"
              aria-label="Version"
              @change="showVersion(Number(($event.target as HTMLSelectElement).value))"
            >
              <option v-for="v in store.view.history" :key="v.version" :value="v.version">
                {{ v.version }}{{ v.savedAt ? `, ${dayTime(v.savedAt, live.controllerNow)}` : '' }}
              </option>
            </select></label
          >
          <template v-if="old">
            · an older version <button class="btn link sm" @click="restore">Make it the newest</button></template
          >
          <span v-if="store.changed" class="plantx"> · changed, not saved</span>
          <span class="spring" />
          <NuxtLink v-if="seeing === 'try'" class="link act-link" :to="{ query: { ...route.query, view: undefined } }"
          >Back to the steps</NuxtLink
          >
          <NuxtLink v-else-if="store.tried" class="link act-link" :to="{ query: { ...route.query, view: 'try' } }"
          >The last try</NuxtLink
          >
          <button class="btn link sm" :aria-pressed="side === 'journey'" @click="side = 'journey'">
            Settings, spans, feeds <kbd>j</kbd>
          </button>
          <NuxtLink class="link act-link" :to="`/journeys/import/text?id=${store.journey.id}`">As text</NuxtLink>
        </div>
        <label
        ><span class="sr">Name</span><DraftInput class="name" :value="store.journey.name" :accept="rename"
        /></label>
      </header>
      <TryView v-if="seeing === 'try'" class="main" />
      <CommandForm v-else-if="store.journey.kind === 'command'" class="main scroll" />
      <div v-else class="main two">
        <PassStrip class="strip" />
        <StageList class="stages" />
        <section class="side panel">
          <JourneyForm v-if="side === 'journey' || !store.step" />
          <StepEditor v-else />
        </section>
      </div>
      <footer class="sill">
        <button v-if="store.inTheWay.length" class="btn link" @click="goToFirst">
          <AGlyph name="inTheWay" class="brick" word="in the way" /><span class="brick"
          >{{ store.inTheWay.length }} {{ store.inTheWay.length === 1 ? 'fault' : 'faults' }}:
            {{ store.inTheWay[0]!.sentence }}</span
          > <kbd>m</kbd>
        </button>
        <span v-else class="q">Nothing wrong with it.</span>
        <span class="spring" />
        <button v-if="store.past.length" class="btn" @click="store.undo()">Undo <kbd>u</kbd></button>
        <button v-if="store.changed" class="btn" @click="store.save()">
          {{ store.saving ? 'Saving…' : 'Save' }} <kbd>w</kbd>
        </button>
        <label class="q"
        >against
          <select v-model="store.targetId" class="field" aria-label="Target" @change="store.recheck()">
            <option v-for="t in store.view.targets" :key="t.id" :value="t.id">
              {{ t.name }}, {{ t.environment }}{{ t.approval ? '' : ' (not approved)' }}
            </option>
          </select></label
        >
        <label class="q"
        >from
          <select v-model="machine" class="field" aria-label="Where the try runs">
            <option value="">here</option>
            <option v-for="g in store.view.idle" :key="g.machineId" :value="g.machineId">{{ g.name }}</option>
          </select></label
        >
        <NuxtLink v-if="store.target && !store.target.approval" class="btn act" :to="`/targets/${store.targetId}`"
        >Record the approval</NuxtLink
        >
        <button v-else class="btn act" @click="tryIt">
          {{ store.trying ? 'One user is on its way…' : 'Try with one user' }} <kbd>y</kbd>
        </button>
      </footer>
    </template>
    <p v-else-if="!store.problem" class="q wait">Reading the journey…</p>
  </div>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template-rows: 54px minmax(0, 1fr) 44px;
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
  padding: 7px 14px 4px;
}
.line {
  display: flex;
  gap: 6px;
  align-items: center;
  height: 18px;
}
.line .btn {
  height: 18px;
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
.bare {
  background: none;
  color: var(--ink);
}
.name {
  font-weight: 600;
  font-size: 18px;
  line-height: 22px;
  font-stretch: 104%;
  width: 100%;
  background: none;
  border-radius: 3px;
  text-overflow: ellipsis;
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
.sill .btn.link {
  overflow: hidden;
  max-width: 440px;
}
.wait {
  padding: 14px;
}
</style>

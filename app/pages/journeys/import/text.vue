<script setup lang="ts">
/** A journey as text, YAML or JSON: to be read, changed, pasted and saved, with faults at their lines. */
import type { ApiProblem } from '~~/api/views'
import type { ReadJourney, TextProblem } from '~~/core/formats/journey-text'

const CodeText = ownPart(() => import('~/components/marks/CodeText.vue'))
const route = useRoute()
const id = computed(() => (route.query.id ? String(route.query.id) : undefined))
const text = ref<string>()
const faults = ref<TextProblem[]>([])
const problem = ref<ApiProblem>()
const version = ref(0)

onMounted(async () => {
  if (!id.value) return void (text.value = '')
  try {
    version.value = (await api('journey', { journey: id.value })).version
    text.value = await (await fetch(hrefTo('journeyText', { journey: id.value }))).text()
  }
  catch (error) {
    problem.value = problemOf(error)
  }
})
let timer: ReturnType<typeof setTimeout> | undefined
function typed(now: string): void {
  text.value = now
  clearTimeout(timer)
  timer = setTimeout(() => void check(), 250)
}
async function check(): Promise<ReadJourney | undefined> {
  try {
    const read = await api('readJourney', {}, { text: text.value ?? '' })
    faults.value = read.ok ? [] : read.problems
    problem.value = undefined
    return read
  }
  catch (error) {
    problem.value = problemOf(error)
    return undefined
  }
}
async function save(): Promise<void> {
  const read = await check()
  if (!read?.ok) return
  try {
    const saved = id.value
      ? await api('saveJourney', { journey: id.value }, {
          journey: { ...read.journey, id: id.value },
          onVersion: version.value,
        })
      : await api('newJourney', {}, { journey: read.journey })
    await goTo(`/journeys/${saved.id}`)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
async function open(file: File): Promise<void> {
  text.value = undefined
  const content = await file.text()
  await nextTick()
  typed(content)
}
useHead({ title: 'Journey as text · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q"><NuxtLink to="/journeys" class="crumb">Journeys</NuxtLink></div>
      <h1>{{ id ? 'Journey as text' : 'A journey from text' }}</h1>
    </div>
    <div class="body fill">
      <ProblemNote v-if="problem" :problem="problem" />
      <CodeText
        v-if="text !== undefined"
        :value="text"
        language="yaml"
        label="Journey as YAML or JSON"
        :faults="faults"
        whole
        class="code"
        @change="typed"
      />
      <ul v-if="faults.length" class="faults">
        <li v-for="f in faults" :key="`${f.line} ${f.sentence}`" class="brick s12">
          <AGlyph name="inTheWay" word="fault" /> line {{ f.line }}: {{ f.sentence }}
        </li>
      </ul>
    </div>
    <footer class="sill">
      <span class="q">Checked against schemas/journey.schema.json as you type.</span><span class="spring" />
      <FileButton label="Open a file" accept=".yaml,.yml,.json" @chosen="open" />
      <UButton v-needs="'operator'" variant="solid" :aria-disabled="faults.length > 0" @click="save">
        {{
          faults.length
            ? `${faults.length} ${faults.length === 1 ? 'fault' : 'faults'} in the way`
            : id
              ? 'Save as the next version'
              : 'Make the journey'
        }}
      </UButton>
    </footer>
  </div>
</template>

<style scoped>
.fill {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
}
.code {
  min-height: 0;
  height: 100%;
  grid-row: 2;
}
.faults {
  max-height: 110px;
  overflow: auto;
  padding-top: 6px;
  grid-row: 3;
}
</style>

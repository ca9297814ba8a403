<script setup lang="ts">
/**
 * The plan as text beside the sheet: what is typed is on the sheet as soon as it can be read, and the other way round.
 */
import type { ReadPlan } from '~~/core/formats/plan-text'
import { printDocument } from '~~/core/formats/print-document'

const CodeText = ownPart(() => import('~/components/marks/CodeText.vue'))
const emit = defineEmits<{ close: [] }>()
const store = usePlan()
const { problem, guarded } = useGuarded()
/** Pause after the last key before the text is read, ms. */
const READ_AFTER_MS = 250
// It is drawn only where there is a plan.
const shown = ref(printDocument(store.plan!))
const faults = ref<Extract<ReadPlan, { ok: false }>['problems']>([])
/** The plan as the text last had it, so that a change made on the sheet is told from one made here. */
let written = JSON.stringify(store.plan)
let timer: ReturnType<typeof setTimeout> | undefined
let typed = shown.value

watch(
  () => JSON.stringify(store.plan),
  (now) => {
    if (now === written || !store.plan) return
    written = now
    typed = shown.value = printDocument(store.plan)
    faults.value = []
  },
)
onBeforeUnmount(() => clearTimeout(timer))

function take(text: string): void {
  typed = text
  clearTimeout(timer)
  timer = setTimeout(() => void read(text), READ_AFTER_MS)
}

async function read(text: string): Promise<void> {
  let answer: ReadPlan | undefined
  await guarded(async () => {
    answer = await api('readPlan', {}, { text })
  })
  // Typed on meanwhile: the next answer counts.
  if (!answer || text !== typed) return
  faults.value = answer.ok ? [] : answer.problems
  if (!answer.ok) return
  const { plan } = answer
  written = JSON.stringify(plan)
  store.edit((p) => {
    for (const key of Object.keys(p)) Reflect.deleteProperty(p, key)
    Object.assign(p, plan)
  })
}
</script>

<template>
  <aside class="panel beside" aria-label="The plan as text">
    <header>
      <h2>As text</h2>
      <span
        class="q s12 clip"
        title="Under schemas/plan.schema.json; docs/plan-file.md tells its fields"
      >YAML or JSON; comments are not kept</span><span class="spring" /><UButton
        size="sm"
        external
        :to="hrefTo('planText', { plan: store.view!.id })"
        download
      >Export</UButton><UButton size="sm" @click="emit('close')">Close <UKbd>t</UKbd></UButton>
    </header>
    <CodeText
      class="text"
      :value="shown"
      language="yaml"
      label="The plan as text"
      :faults="faults"
      whole
      autofocus
      @change="take"
    />
    <ProblemNote v-if="problem" :problem="problem" />
    <ul v-else-if="faults.length" class="faults" role="alert">
      <li v-for="f in faults" :key="f.line + f.sentence" class="brick">
        <b>Line {{ f.line }}</b> {{ f.sentence }}
      </li>
      <li class="q">The sheet shows the plan as it was before; nothing typed here is lost.</li>
    </ul>
    <p v-else class="q s12 ok">Readable: the sheet shows it.</p>
  </aside>
</template>

<style scoped>
.beside {
  display: grid;
  grid-template-rows: auto 1fr auto;
  min-height: 0;
  min-width: 0;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 10px;
  white-space: nowrap;
}
.spring {
  flex: 1;
}
.text {
  min-height: 0;
  border-width: 1px 0;
  border-radius: 0;
}
.faults {
  padding: 6px 10px;
  max-height: 130px;
  overflow: auto;
  font-size: 12px;
}
.ok {
  padding: 6px 10px;
}
</style>

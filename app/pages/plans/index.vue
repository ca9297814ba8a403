<script setup lang="ts">
/** All plans: each a question, and what its last run answered. New ones are begun here, or read from a file. */
import type { PlanLine } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { count } from '~~/core/values/said-figures'
import { markOf } from '~/format/runs'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, guarded, reading, read, readSeen } = useGuarded()
const archived = ref(false)
const { found: current, load: loadCurrent } = readSeen('plans', { archived: 0 })
const withArchived = ref<PlanLine[]>()
const plans = computed(() => (archived.value ? withArchived.value : current.value))
const { found: targets } = read('targets')
const making = ref(false)
const draft = reactive({ name: '', question: '', targetId: '' })
const faults = ref<{ name: string, problems: { line: number, sentence: string }[] }>()

const load = () =>
  archived.value
    ? reading(async () => {
        withArchived.value = await api('plans', { archived: 1 })
      })
    : loadCurrent()
watch(archived, load)
const COLUMNS: ListColumn<PlanLine>[] = [
  { id: 'plan', head: 'Plan', value: p => p.name },
  { id: 'question', head: 'Question', wide: true, value: p => p.question },
  { id: 'answer', head: 'Last answer', wide: true, value: p => p.lastRun?.sentence },
  { id: 'target', head: 'Target', asked: true, value: p => p.target },
  { id: 'tags', head: 'Tags', value: p => p.tags.join(', ') },
  { id: 'users', head: 'Users', num: true, value: p => p.peakUsers },
  { id: 'groups', head: 'Groups', num: true, asked: true, value: p => p.groups },
  { id: 'locations', head: 'Locations', num: true, asked: true, value: p => p.locations },
  { id: 'version', head: 'Version', num: true, value: p => p.version },
  { id: 'saved', head: 'Saved', num: true, value: p => p.savedAt },
]

function begin(): void {
  making.value = true
}
// Also where they come after the dialog was opened.
watchEffect(() => {
  if (making.value) draft.targetId ||= targets.value?.[0]?.id ?? ''
})
const make = () =>
  guarded(async () => {
    const made = await api('newPlan', {}, {
      name: draft.name.trim(),
      question: draft.question.trim(),
      targetId: draft.targetId,
    })
    await goTo(`/plans/${made.id}`)
  })
async function take(chosen: File): Promise<void> {
  const text = await chosen.text()
  faults.value = undefined
  await guarded(async () => {
    const answer = await api('readPlan', {}, { text })
    if (!answer.ok) {
      faults.value = { name: chosen.name, problems: answer.problems }
      return
    }
    const kept = await api('newPlan', {}, { plan: answer.plan })
    await goTo(`/plans/${kept.id}`)
  })
}
useActs([{ key: 'n', needs: 'operator', says: 'New plan', act: begin }])
useHead({ title: 'Plans · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="body list-page">
      <ProblemNote v-if="problem && !problem.faults" :problem="problem" />
      <div v-if="faults" class="faults panel" role="alert">
        <b class="brick">{{ faults.name }} cannot be read.</b> <span class="q">Nothing was kept. Correct these and import it again:</span>
        <ul>
          <li v-for="f in faults.problems" :key="f.line + f.sentence">
            <b>Line {{ f.line }}</b> {{ f.sentence }}
          </li>
        </ul>
      </div>
      <ListTable
        v-if="plans"
        name="plans"
        :rows="plans"
        :columns="COLUMNS"
        :row-key="p => p.id"
        height="calc(100dvh - 96px)"
        search="Find by name, question, tag"
      >
        <template #head><h1>Plans</h1></template>
        <template #tools>
          <UCheckbox v-model="archived" label="archived" />
          <FileButton label="Import a file" accept=".yaml,.yml,.json" @chosen="take" />
          <UButton v-needs="'operator'" variant="solid" @click="begin">New plan <UKbd>n</UKbd></UButton>
        </template>
        <template #plan="{ row }">
          <NuxtLink :to="`/plans/${row.id}`" class="u"><b>{{ row.name }}</b></NuxtLink>
        </template>
        <template #question="{ row }"><span :title="row.question">{{ row.question }}</span></template>
        <template #answer="{ row }">
          <template v-if="row.lastRun">
            <AGlyph
              :name="markOf(row.lastRun).glyph"
              :class="markOf(row.lastRun).tone"
              :word="markOf(row.lastRun).word"
            /> <span :title="row.lastRun.sentence">{{ row.lastRun.sentence }}</span>
          </template>
          <span v-else class="q">never run</span>
        </template>
        <template #tags="{ row }"><span class="q">{{ row.tags.join(', ') }}</span></template>
        <template #users="{ row }">{{ count(row.peakUsers) }}</template>
        <template #saved="{ row }"><span class="q">{{ dayTime(row.savedAt, live.controllerNow) }}</span></template>
      </ListTable>
      <p v-if="plans && !plans.length" class="q">
        {{
          archived
            ? 'Nothing is archived.'
            : 'No plan yet: a plan is one question about one target. Begin one, import a file, or start Vornak with npm run demo to see one.'
        }}
      </p>
      <p v-else-if="!plans && !problem" class="q">Reading the plans…</p>
    </div>
    <UModal
      v-model:open="making"
      title="New plan"
      description="One question about one target; groups, places and objectives follow on the sheet."
    >
      <template #body>
        <FaultForm :problem="problem?.faults && problem" class="dialog-form" @submit="make">
          <UFormField name="name" label="Name" required>
            <UInput v-model="draft.name" required maxlength="80" />
          </UFormField>
          <UFormField name="question" label="Question" required>
            <UInput
              v-model="draft.question"
              required
              maxlength="300"
              placeholder="Can the portal take 240 students at 08:00?"
            />
          </UFormField>
          <UFormField label="Target">
            <PickOne
              v-model="draft.targetId"
              :items="[
                ...(!targets?.length ? [{ value: '', label: 'no target yet: choose one on the sheet later' }] : []),
                ...(targets ?? []).map(t => ({ value: t.id, label: `${t.name}, ${t.environment}` })),
              ]"
            />
          </UFormField>
          <UButton variant="solid" type="submit">Begin</UButton>
        </FaultForm>
      </template>
    </UModal>
  </div>
</template>

<style scoped>
.faults {
  padding: 8px 12px;
  margin-bottom: 8px;
}
</style>

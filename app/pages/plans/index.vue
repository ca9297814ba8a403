<script setup lang="ts">
/** All plans: each a question, and what its last run answered. New ones are begun here, or read from a file. */
import type { PlanLine } from '~~/api/views'
import type { Target } from '~~/core/journey/target'
import type { ReadPlan } from '~~/core/formats/plan-text'
import { count } from '~/format/figures'
import { VERDICT_MARKS } from '~/format/runs'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, guarded, read } = useGuarded()
const archived = ref(false)
const plans = ref<PlanLine[]>()
const { found: targets } = read<Target[]>('targets')
const wanted = ref('')
const making = ref(false)
const draft = reactive({ name: '', question: '', targetId: '' })
const faults = ref<{ name: string, problems: { line: number, sentence: string }[] }>()
const file = useTemplateRef<HTMLInputElement>('file')

const load = () =>
  guarded(async () => {
    plans.value = await api<PlanLine[]>(`plans${archived.value ? '?archived=1' : ''}`)
  })
onMounted(load)
watch(archived, load)
const shown = computed(() =>
  plans.value?.filter(p =>
    wanted.value
      .toLowerCase()
      .split(/\s+/)
      .every(w => `${p.name} ${p.question} ${p.tags.join(' ')} ${p.target}`.toLowerCase().includes(w)),
  ),
)

function begin(): void {
  draft.targetId ||= targets.value?.[0]?.id ?? ''
  making.value = true
}
const make = () =>
  guarded(async () => {
    const made = await api<{ id: string }>('plans', 'POST', {
      name: draft.name.trim(),
      question: draft.question.trim(),
      targetId: draft.targetId,
    })
    await navigateTo(`/plans/${made.id}`)
  })
async function take(list: FileList | null): Promise<void> {
  const chosen = list?.[0]
  if (!chosen) return
  const text = await chosen.text()
  if (file.value) file.value.value = ''
  faults.value = undefined
  await guarded(async () => {
    const answer = await api<ReadPlan>('plans/read', 'POST', { text })
    if (!answer.ok) {
      faults.value = { name: chosen.name, problems: answer.problems }
      return
    }
    const kept = await api<{ id: string }>('plans', 'POST', { plan: answer.plan })
    await navigateTo(`/plans/${kept.id}`)
  })
}
useKeys([{ key: 'n', says: 'New plan', act: begin }])
useHead({ title: 'Plans · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <h1>Plans</h1>
      <span class="spring" />
      <label class="s12"><input v-model="archived" type="checkbox"> archived</label>
      <label
      ><span class="sr">Find a plan</span
      ><input v-model="wanted" class="field" type="search" placeholder="Find by name, question, tag"
      ></label>
      <label class="btn"
      ><input
        ref="file"
        type="file"
        class="sr"
        accept=".yaml,.yml,.json"
        @change="take(($event.target as HTMLInputElement).files)"
      >Import a file</label
      >
      <button class="btn act" @click="begin">New plan <kbd>n</kbd></button>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="faults" class="faults panel" role="alert">
        <b class="brick">{{ faults.name }} cannot be read.</b> <span class="q">Nothing was kept. Correct these and import it again:</span>
        <ul>
          <li v-for="f in faults.problems" :key="f.line + f.sentence">
            <b>Line {{ f.line }}</b> {{ f.sentence }}
          </li>
        </ul>
      </div>
      <div v-if="shown?.length" class="panel">
        <NuxtLink v-for="p in shown" :key="p.id" :to="`/plans/${p.id}`" class="plan">
          <div class="clip">
            <b>{{ p.name }}</b> <span class="q">version {{ p.version }}, saved {{ dayTime(p.savedAt, live.controllerNow) }}</span
            ><span v-for="t in p.tags" :key="t" class="tagged">{{ t }}</span
            ><br>{{ p.question }}
          </div>
          <div class="clip">
            <template v-if="p.lastRun"
            ><AGlyph
               :name="VERDICT_MARKS[p.lastRun.verdict ?? 'none'].glyph"
               :class="VERDICT_MARKS[p.lastRun.verdict ?? 'none'].tone"
               :word="VERDICT_MARKS[p.lastRun.verdict ?? 'none'].word"
             />
              {{ p.lastRun.sentence }}</template
            ><span v-else class="q">never run</span>
          </div>
          <div class="num q">
            {{ count(p.peakUsers) }} users<br>{{ p.groups }} groups × {{ p.locations }} locations
          </div>
        </NuxtLink>
      </div>
      <p v-else-if="plans?.length" class="q">No plan has “{{ wanted }}” in its name, question or tags.</p>
      <p v-else-if="plans" class="q">
        {{
          archived
            ? 'Nothing is archived.'
            : 'No plan yet: a plan is one question about one target. Begin one, import a file, or start Vornak with npm run demo to see one.'
        }}
      </p>
      <p v-else-if="!problem" class="q">Reading the plans…</p>
    </div>
    <UModal
      v-model:open="making"
      title="New plan"
      description="One question about one target; groups, places and objectives follow on the sheet."
    >
      <template #body>
        <form class="dialog-form" @submit.prevent="make">
          <label>Name <input v-model="draft.name" class="field" required maxlength="80"></label>
          <label
          >Question
            <input
              v-model="draft.question"
              class="field"
              required
              maxlength="300"
              placeholder="Can the portal take 240 students at 08:00?"
            ></label>
          <label
          >Target
            <select v-model="draft.targetId" class="field">
              <option v-if="!targets?.length" value="">no target yet: choose one on the sheet later</option>
              <option v-for="t in targets ?? []" :key="t.id" :value="t.id">{{ t.name }}, {{ t.environment }}</option>
            </select></label
          >
          <button class="btn act" type="submit">Begin</button>
        </form>
      </template>
    </UModal>
  </div>
</template>

<style scoped>
.screen-head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.spring {
  flex: 1;
}
.plan {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) auto;
  gap: 16px;
  padding: 8px 10px;
  border-bottom: 1px solid var(--hair);
}
.plan:last-child {
  border-bottom: 0;
}
.plan:hover {
  background: var(--sel);
}
.tagged {
  margin-left: 8px;
  font-size: 11px;
  border-bottom: 1px dotted var(--edge);
  color: var(--quiet);
}
.faults {
  padding: 8px 12px;
  margin-bottom: 8px;
}
</style>

<script setup lang="ts">
/** An OpenAPI 3 document: choose operations, get steps with example values. */
import type { ListColumn } from '~/components/marks/list-table'
import type { ApiProblem, UploadedFile } from '~~/api/views'
import type { OpenApiReview } from '~~/core/formats/openapi'
import { present } from '~~/core/values/present'

const text = ref('')
const file = ref<UploadedFile>()
const review = ref<OpenApiReview>()
const chosen = ref<string[]>([])
const flip = (id: string) => {
  chosen.value = chosen.value.includes(id) ? chosen.value.filter(c => c !== id) : [...chosen.value, id]
}
const wanted = ref('')
const baseUrl = ref('')
const reading = ref(false)
const problem = ref<ApiProblem>()

/** What is pasted goes the same way as a file: it is read apart from everything else. */
async function paste(): Promise<void> {
  try {
    await read(
      await upload(new File([text.value], 'pasted.yaml'), () => {
        /* small, and soon there */
      }),
    )
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
async function read(sent: UploadedFile): Promise<void> {
  file.value = sent
  reading.value = true
  try {
    const answer = await api('importOpenApi', {}, { file: sent.id })
    review.value = 'operations' in answer ? answer : undefined
    chosen.value = []
    problem.value = undefined
  }
  catch (error) {
    review.value = undefined
    problem.value = problemOf(error)
  }
  reading.value = false
}
async function make(): Promise<void> {
  if (chosen.value.length === 0) return
  try {
    const made = await api('importOpenApi', {}, {
      file: present(file.value, 'the file that was uploaded').id,
      ids: chosen.value,
      ...(baseUrl.value ? { baseUrl: baseUrl.value } : {}),
    })
    if ('journeyId' in made) await goTo(`/journeys/${made.journeyId}?target=${made.targetId}`)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}
const shown = computed(
  () =>
    review.value?.operations.filter(o =>
      `${o.id} ${o.summary} ${o.tags.join(' ')}`.toLowerCase().includes(wanted.value.toLowerCase()),
    ) ?? [],
)
useHead({ title: 'From OpenAPI · Vornak' })
type Operation = NonNullable<typeof review.value>['operations'][number]
const COLUMNS: ListColumn<Operation>[] = [
  { id: 'step', head: 'Step' },
  { id: 'id', head: 'Operation', value: o => o.id },
  { id: 'summary', head: 'What it does', value: o => o.summary },
  { id: 'tags', head: 'Tags', value: o => o.tags.join(', ') },
]
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q"><NuxtLink to="/journeys" class="crumb">Journeys</NuxtLink></div>
      <h1>A journey from an OpenAPI document</h1>
    </div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <template v-if="!review">
        <FilePick
          label="An OpenAPI document"
          accept=".yaml,.yml,.json"
          @sent="read"
          @failed="
            p => {
              problem = p
            }
          "
        />
        <UFormField label="Paste the document, YAML or JSON">
          <UTextarea
            v-model="text"
            class="font-mono"
            :rows="16"
            spellcheck="false"
            placeholder="openapi: 3.1.0"
          />
        </UFormField>
      </template>
      <template v-else>
        <p class="gap">
          <b>{{ review.title || 'An API' }}</b> <span class="q">{{ review.version }}, {{ review.operations.length }} operations,
            {{ review.servers[0] ?? 'no server named' }}</span>
        </p>
        <p v-for="r in review.remarks" :key="r" class="plantx s12">
          <AGlyph name="costsSoundness" word="note" /> {{ r }}
        </p>
        <p v-if="review.asksForServer" class="gap ask">
          <UFormField :label="`Its server is ${review.servers[0]}: where does it stand?`">
            <UInput
              v-model="baseUrl"
              class="font-mono"
              type="url"
              placeholder="https://api.example"
              spellcheck="false"
            />
          </UFormField>
        </p>
        <div class="panel pad">
          <div class="top">
            <UInput
              v-model="wanted"
              type="search"
              placeholder="Search operations"
              aria-label="Search operations"
            /><span class="q s12">steps come in the order you choose them</span>
          </div>
          <ListTable plain name="operations" :rows="shown" :columns="COLUMNS" :row-key="o => o.id">
            <template #step="{ row }"><UCheckbox
              :model-value="chosen.includes(row.id)"
              :aria-label="row.id"
              :label="chosen.includes(row.id) ? String(chosen.indexOf(row.id) + 1) : ''"
              @update:model-value="flip(row.id)"
            /></template>
            <template #id="{ row }"><span class="mono">{{ row.id }}</span></template>
            <template #summary="{ row }">{{ row.summary }}<span v-if="row.needsBody" class="q"> with a body</span></template>
            <template #tags="{ row }"><span class="q">{{ row.tags.join(', ') }}</span></template>
          </ListTable>
        </div>
      </template>
    </div>
    <footer class="sill">
      <span class="q">Values are the document’s own examples, or the plainest that fit; the journey can be changed afterwards.</span><span class="spring" />
      <template v-if="review"><UButton @click="review = undefined">Another document</UButton><UButton variant="solid" :aria-disabled="!chosen.length" @click="make">
        {{
          chosen.length
            ? `Make ${chosen.length} ${chosen.length === 1 ? 'step' : 'steps'}`
            : 'Choose operations first'
        }}
      </UButton></template>
      <template v-else><span v-if="reading" class="q">Reading the document…</span><UButton variant="solid" :aria-disabled="!text.trim()" @click="text.trim() && paste()">
        Read it
      </UButton></template>
    </footer>
  </div>
</template>

<style scoped>
.gap {
  margin-bottom: 6px;
}
.pad {
  padding: 4px 12px;
}
.top {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 34px;
}
</style>

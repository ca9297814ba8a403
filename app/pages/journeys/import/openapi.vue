<script setup lang="ts">
/** An OpenAPI 3 document: choose operations, get steps with example values. */
import type { ApiProblem, UploadedFile } from '~~/api/views'
import type { OpenApiReview } from '~~/core/formats/openapi'

const text = ref('')
const file = ref<UploadedFile>()
const review = ref<OpenApiReview>()
const chosen = ref<string[]>([])
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
    review.value = await api<OpenApiReview>('imports/openapi', 'POST', { file: sent.id })
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
    const made = await api<{ journeyId: string, targetId: string }>('imports/openapi', 'POST', {
      file: file.value!.id,
      ids: chosen.value,
      ...(baseUrl.value ? { baseUrl: baseUrl.value } : {}),
    })
    await navigateTo(`/journeys/${made.journeyId}?target=${made.targetId}`)
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
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <div class="s12 q"><NuxtLink to="/journeys">Journeys</NuxtLink></div>
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
        <label class="q s12"
        >Paste the document, YAML or JSON<textarea
          v-model="text"
          class="field tall mono"
          rows="16"
          spellcheck="false"
          placeholder="openapi: 3.1.0"
        />
        </label>
      </template>
      <template v-else>
        <p class="gap">
          <b>{{ review.title || 'An API' }}</b> <span class="q"
          >{{ review.version }}, {{ review.operations.length }} operations,
            {{ review.servers[0] ?? 'no server named' }}</span
          >
        </p>
        <p v-for="r in review.remarks" :key="r" class="plantx s12">
          <AGlyph name="costsSoundness" word="note" /> {{ r }}
        </p>
        <p v-if="review.asksForServer" class="gap ask">
          <label
          >Its server is <b class="mono">{{ review.servers[0] }}</b>: where does it stand?
            <input v-model="baseUrl" class="field mono" type="url" placeholder="https://api.example" spellcheck="false"
            ></label>
        </p>
        <div class="panel pad">
          <div class="top">
            <input
              v-model="wanted"
              class="field"
              type="search"
              placeholder="Search operations"
              aria-label="Search operations"
            ><span class="q s12">steps come in the order you choose them</span>
          </div>
          <table class="table">
            <thead>
              <tr>
                <th>Step</th>
                <th>Operation</th>
                <th>What it does</th>
                <th>Tags</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="o in shown" :key="o.id">
                <td>
                  <label
                  ><input v-model="chosen" type="checkbox" :value="o.id">
                    {{ chosen.includes(o.id) ? chosen.indexOf(o.id) + 1 : '' }}<span class="sr">{{ o.id }}</span></label
                  >
                </td>
                <td class="mono">{{ o.id }}</td>
                <td>{{ o.summary }}<span v-if="o.needsBody" class="q"> with a body</span></td>
                <td class="q">{{ o.tags.join(', ') }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
    </div>
    <footer class="sill">
      <span class="q"
      >Values are the document’s own examples, or the plainest that fit; the journey can be changed afterwards.</span
      ><span class="spring" />
      <template v-if="review"
      ><button class="btn" @click="review = undefined">Another document</button
      ><button class="btn act" :aria-disabled="!chosen.length" @click="make">
        {{
          chosen.length
            ? `Make ${chosen.length} ${chosen.length === 1 ? 'step' : 'steps'}`
            : 'Choose operations first'
        }}
      </button></template
      >
      <template v-else
      ><span v-if="reading" class="q">Reading the document…</span
      ><button class="btn act" :aria-disabled="!text.trim()" @click="text.trim() && paste()">
        Read it
      </button></template
      >
    </footer>
  </div>
</template>

<style scoped>
.tall {
  display: block;
  width: 100%;
  height: auto;
  padding: 8px;
  margin-top: 4px;
}
.gap {
  margin-bottom: 6px;
}
.ask .field {
  width: 280px;
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

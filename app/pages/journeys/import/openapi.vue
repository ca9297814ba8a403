<script setup lang="ts">
/** An OpenAPI 3 document: choose operations, get steps with example values. */
import type { ApiProblem } from '~~/api/views'
import type { OpenApiReview } from '~~/core/formats/openapi'

const text = ref('')
const review = ref<OpenApiReview>()
const chosen = ref<string[]>([])
const wanted = ref('')
const problem = ref<ApiProblem>()

async function read(): Promise<void> {
  try {
    review.value = await api<OpenApiReview>('imports/openapi', 'POST', { text: text.value })
    chosen.value = []
    problem.value = undefined
  }
  catch (error) {
    review.value = undefined
    problem.value = problemOf(error)
  }
}
async function open(event: Event): Promise<void> {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (!file) return
  text.value = await file.text()
  await read()
}
async function make(): Promise<void> {
  if (chosen.value.length === 0) return
  try {
    const made = await api<{ journeyId: string, targetId: string }>('imports/openapi', 'POST', { text: text.value, ids: chosen.value })
    await navigateTo(`/journeys/${made.journeyId}?target=${made.targetId}`)
  }
  catch (error) { problem.value = problemOf(error) }
}
const shown = computed(() => review.value?.operations.filter(o => `${o.id} ${o.summary} ${o.tags.join(' ')}`.toLowerCase().includes(wanted.value.toLowerCase())) ?? [])
useHead({ title: 'From OpenAPI · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><div class="s12 q"><NuxtLink to="/journeys">Journeys</NuxtLink></div><h1>A journey from an OpenAPI document</h1></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" class="gap" />
      <template v-if="!review">
        <label class="q s12">Paste the document, YAML or JSON, or open a file<textarea v-model="text" class="field tall mono" rows="18" spellcheck="false" placeholder="openapi: 3.1.0" /></label>
      </template>
      <template v-else>
        <p class="gap"><b>{{ review.title || 'An API' }}</b> <span class="q">{{ review.version }}, {{ review.operations.length }} operations, {{ review.servers[0] ?? 'no server named' }}</span></p>
        <p v-for="r in review.remarks" :key="r" class="plantx s12"><AGlyph name="costsSoundness" word="note" /> {{ r }}</p>
        <div class="panel pad">
          <div class="top"><input v-model="wanted" class="field" type="search" placeholder="Search operations" aria-label="Search operations"><span class="q s12">steps come in the order you choose them</span></div>
          <table class="table">
            <thead><tr><th>Step</th><th>Operation</th><th>What it does</th><th>Tags</th></tr></thead>
            <tbody>
              <tr v-for="o in shown" :key="o.id">
                <td><label><input v-model="chosen" type="checkbox" :value="o.id"> {{ chosen.includes(o.id) ? chosen.indexOf(o.id) + 1 : '' }}<span class="sr">{{ o.id }}</span></label></td>
                <td class="mono">{{ o.id }}</td><td>{{ o.summary }}<span v-if="o.needsBody" class="q"> with a body</span></td><td class="q">{{ o.tags.join(', ') }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
    </div>
    <footer class="sill">
      <span class="q">Values are the document’s own examples, or the plainest that fit; the journey can be changed afterwards.</span><span class="spring" />
      <template v-if="review"><button class="btn" @click="review = undefined">Another document</button><button class="btn act" :aria-disabled="!chosen.length" @click="make">{{ chosen.length ? `Make ${chosen.length} ${chosen.length === 1 ? 'step' : 'steps'}` : 'Choose operations first' }}</button></template>
      <template v-else><label class="btn">Open a file<input type="file" class="sr" accept=".yaml,.yml,.json" @change="open"></label><button class="btn act" @click="read">Read it</button></template>
    </footer>
  </div>
</template>

<style scoped>
.tall { display: block; width: 100%; height: auto; padding: 8px; margin-top: 4px; }
.gap { margin-bottom: 6px; }
.pad { padding: 4px 12px; }
.top { display: flex; gap: 10px; align-items: center; min-height: 34px; }
</style>

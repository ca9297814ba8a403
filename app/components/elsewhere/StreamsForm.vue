<script setup lang="ts">
/** Makes a run that programs elsewhere tell of while they measure; each gets a token, which is shown once. */
import type { OpenedStream } from '~~/api/views'

const { problem, guarded } = useGuarded()
const draft = reactive({ name: '', places: '' })
const opened = ref<{ run: number, streams: OpenedStream[] }>()
const copy = useCopy()
const places = computed(() => draft.places.split(/[,\n]/).map(p => p.trim()).filter(p => p !== ''))
const make = () => guarded(async () => {
  opened.value = await api('openStreams', {}, { name: draft.name.trim(), places: places.value })
})
const origin = ref('')
onMounted(() => {
  origin.value = location.origin
})
const said = computed(() => (opened.value?.streams ?? []).map(s => `${s.place}: ${s.token}`).join('\n'))
const example = computed(() => `curl -H "Authorization: Bearer $TOKEN" --data-binary @lines.jsonl "${origin.value}${hrefTo('tellLines', {}).replace(origin.value, '')}"`)
</script>

<template>
  <section class="panel pad" aria-labelledby="streams">
    <h2 id="streams">While it is measured</h2>
    <p class="q s12">Programs send lines of JSON as they measure; the run is there at once.</p>
    <ProblemNote v-if="problem && (opened || !problem.faults)" :problem="problem" />
    <FaultForm v-if="!opened" :problem="problem?.faults && problem" class="form" @submit="make">
      <UFormField name="name" label="Name of the run"><UInput v-model="draft.name" required maxlength="200" /></UFormField>
      <UFormField name="places" label="Locations" hint="one for each program, commas between"><UInput v-model="draft.places" placeholder="branch office, data centre" /></UFormField>
      <div class="acts"><UButton type="submit" :disabled="draft.name.trim() === '' || places.length === 0">Open it</UButton></div>
    </FaultForm>
    <div v-else class="form">
      <p class="s12"><b>Copy {{ opened.streams.length === 1 ? 'the token' : 'the tokens' }} now</b>: not shown again. The run begins with the first line.</p>
      <pre class="mono">{{ said }}</pre>
      <pre class="mono">{{ example }}</pre>
      <p class="mono s12">{{ '{"step": "Search", "duration": 182.4, "ok": true, "time": 1764000000000}' }}</p>
      <div class="acts">
        <UButton size="sm" @click="copy(said, 'the tokens')">Copy the tokens</UButton>
        <UButton size="sm" variant="solid" :to="`/runs/${opened.run}`">Open run {{ opened.run }}</UButton>
      </div>
    </div>
  </section>
</template>

<style scoped>
.pad {
  padding: 6px 12px 10px;
  min-width: 0;
}
.form {
  display: grid;
  gap: 6px;
  margin-top: 6px;
}
.acts {
  display: flex;
  gap: 8px;
  justify-content: end;
}
pre {
  background: var(--bg);
  border: 1px solid var(--hair);
  padding: 6px 8px;
  font-size: 11px;
  overflow-x: auto;
  white-space: pre-wrap;
  word-break: break-all;
}
</style>

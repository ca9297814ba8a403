<script setup lang="ts">
/** A client of one's own: its name and headers, with what is wrong said at each. */
import { faultsOfClient, type Client, type ClientFault } from '~~/core/client/client'
import type { JourneyProblem } from '~~/core/journey/problems'

/** `client`: what is changed; of a new one, what it begins as. */
const { client, isNew, taken } = defineProps<{ client: Client | undefined, isNew: boolean, taken: string[] }>()
const emit = defineEmits<{ saved: [id: string], cancelled: [] }>()
const { problem, guarded } = useGuarded()
const draft = reactive({
  id: isNew ? '' : (client?.id ?? ''),
  name: isNew ? '' : (client?.name ?? ''),
  headers: (client?.headers ?? []).map(([name, value]): [string, string] => [name, value]),
  source: isNew ? '' : (client?.source ?? ''),
})
const tried = ref(false)

const made = computed((): Client => ({
  id: draft.id.trim(),
  name: draft.name.trim(),
  headers: draft.headers.map(([name, value]) => [name, value.trim()]),
  ...(draft.source.trim() ? { source: draft.source.trim() } : {}),
}))
const faults = computed((): ClientFault[] => [
  ...faultsOfClient(made.value),
  ...(taken.includes(made.value.id)
    ? [{ field: 'id' as const, sentence: 'There is a client of this short name: choose another.' }]
    : []),
])
const fault = (field: ClientFault['field']) =>
  tried.value ? faults.value.find(f => f.field === field)?.sentence : undefined
const headerProblems = computed(() =>
  tried.value
    ? faults.value
        .filter(f => f.field === 'headers')
        .map((f): JourneyProblem => ({ at: '/headers', weight: 'inTheWay', sentence: f.sentence, remedy: '' }))
    : [])

async function save(): Promise<void> {
  tried.value = true
  if (faults.value.length > 0) return
  const { id } = made.value
  if (await guarded(() => api('saveClient', { client: id }, { client: made.value }))) emit('saved', id)
}
</script>

<template>
  <form class="panel form dialog-form" @submit.prevent="save">
    <ProblemNote v-if="problem" :problem="problem" />
    <UFormField label="Name" :error="fault('name')"><UInput v-model="draft.name" /></UFormField>
    <UFormField label="Short name, typed in groups" :error="fault('id')">
      <UInput v-model="draft.id" :disabled="!isNew" />
    </UFormField>
    <PairRows
      title="Headers"
      :pairs="draft.headers"
      :problems="headerProblems"
      @change="pairs => {
        draft.headers = pairs
      }"
    />
    <p class="q s12">Several can be pasted, one a line. Values are sent as they stand.</p>
    <UFormField label="Where they come from"><UInput v-model="draft.source" /></UFormField>
    <div class="ends">
      <UButton @click="emit('cancelled')">Cancel</UButton><UButton v-needs="'operator'" variant="solid" type="submit">Save the client</UButton>
    </div>
  </form>
</template>

<style scoped>
.form {
  padding: 12px;
}
.ends {
  display: flex;
  gap: 8px;
}
</style>

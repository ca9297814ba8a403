<script setup lang="ts">
/** Makes an API token; it is shown once. */
import { includes, ROLES, type Role } from '~~/api/roles'

const emit = defineEmits<{ made: [] }>()
const me = useMe()
const { problem, guarded } = useGuarded()
// The type of what may be chosen, not of what is chosen first.
const draft = reactive({ name: '', role: 'viewer' as Role, days: 90 })
const made = ref<string>()
const copy = useCopy()
const roles = computed(() => ROLES.filter(r => me.role && includes(me.role, r)).map(value => ({ value, label: value })))
const make = () => guarded(async () => {
  made.value = (await api('makeToken', {}, { ...draft, name: draft.name.trim() })).token
  draft.name = ''
  emit('made')
})
</script>

<template>
  <ProblemNote v-if="problem && !problem.faults" :problem="problem" />
  <FaultForm :problem="problem?.faults && problem" class="row" @submit="make">
    <UFormField name="name" label="What it is for"><UInput v-model="draft.name" required maxlength="80" placeholder="nightly run" /></UFormField>
    <UFormField label="May"><PickOne v-model="draft.role" :items="roles" /></UFormField>
    <UFormField name="days" label="Ends after, days"><NumberInput v-model="draft.days" :min="1" :max="366" /></UFormField>
    <UButton type="submit">Make a token</UButton>
  </FaultForm>
  <div v-if="made" class="made">
    <p class="s12"><b>Copy it now</b>; it is not shown again.</p>
    <pre class="mono">{{ made }}</pre>
    <UButton size="sm" @click="copy(made, 'the token')">Copy the token</UButton>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 8px;
  align-items: end;
  flex-wrap: wrap;
  margin-top: 8px;
}
.made {
  margin-top: 8px;
  display: grid;
  gap: 6px;
  justify-items: start;
}
pre {
  background: var(--bg);
  border: 1px solid var(--hair);
  padding: 6px 8px;
  font-size: 12px;
  overflow-x: auto;
  max-width: 100%;
}
</style>

<script setup lang="ts">
/** Lets somebody in; the first of all is the one who fills it in. */
import type { Role } from '~~/api/roles'
import { ROLE_CHOICES } from '~/format/roles'

const { first = false } = defineProps<{ first?: boolean }>()
const emit = defineEmits<{ saved: [name: string], cancelled: [] }>()
const { problem, guarded } = useGuarded()
// The type of what may be chosen, not of what is chosen first.
const draft = reactive({ name: '', role: (first ? 'keeper' : 'operator') as Role, password: '' })
async function save(): Promise<void> {
  const name = draft.name.trim()
  if (await guarded(() => api('addPerson', {}, { ...draft, name }))) emit('saved', name)
}
</script>

<template>
  <FaultForm :problem="problem" class="panel pad dialog-form" @submit="save">
    <h2>{{ first ? 'The first person' : 'Somebody new' }}</h2>
    <p v-if="first" class="q s12">
      Nobody can sign in yet: anyone who is on this computer may do everything, and nobody from elsewhere gets in. From the
      first person on, anyone who comes has to sign in. That is you, and you let others in.
    </p>
    <UFormField name="name" label="Name" required>
      <UInput v-model="draft.name" required maxlength="80" autocomplete="username" />
    </UFormField>
    <UFormField v-if="!first" label="May">
      <PickOne v-model="draft.role" :items="ROLE_CHOICES" />
    </UFormField>
    <UFormField
      name="password"
      label="Password"
      required
      :help="first ? '15 letters or more; several words are easiest' : '15 letters or more; they change it when they are in'"
    >
      <UInput v-model="draft.password" type="password" required maxlength="200" autocomplete="new-password" />
    </UFormField>
    <div class="row">
      <UButton @click="emit('cancelled')">Cancel</UButton>
      <UButton variant="solid" type="submit">{{ first ? 'Make it, and sign in' : 'Let in' }}</UButton>
    </div>
  </FaultForm>
</template>

<style scoped>
.pad {
  padding: 10px 12px;
}
.row {
  display: flex;
  gap: 8px;
}
</style>

<script setup lang="ts">
/** What somebody may, and whether they are let in; a new password where theirs is lost. */
import type { Role } from '~~/api/roles'
import type { PersonLine } from '~~/api/views'
import { ROLE_CHOICES } from '~/format/roles'

const { person } = defineProps<{ person: PersonLine }>()
const emit = defineEmits<{ saved: [], cancelled: [] }>()
const { problem, guarded } = useGuarded()
const { armed, press } = useTwice()
const password = ref('')
const isIn = computed(() => person.leftAt === undefined)
async function change(role: Role, letIn: boolean): Promise<void> {
  if (await guarded(() => api('changePerson', { person: person.id }, { role, isIn: letIn }))) emit('saved')
}
async function reset(): Promise<void> {
  if (await guarded(() => api('resetPassword', { person: person.id }, { password: password.value }))) {
    useToast().add({ title: `${person.name} has a new password, and is signed out everywhere.` })
    password.value = ''
    emit('saved')
  }
}
</script>

<template>
  <section class="panel pad dialog-form" :aria-label="person.name">
    <h2>{{ person.name }}</h2>
    <ProblemNote v-if="problem && !problem.faults" :problem="problem" />
    <UFormField label="May">
      <PickOne
        :model-value="person.role"
        :items="ROLE_CHOICES"
        @update:model-value="role => change(role as Role, isIn)"
      />
    </UFormField>
    <FaultForm :problem="problem?.faults && problem" class="row" @submit="reset">
      <UFormField name="password" label="New password" help="15 letters or more; they are signed out everywhere">
        <UInput v-model="password" type="password" required maxlength="200" autocomplete="new-password" />
      </UFormField>
      <UButton type="submit">Set it</UButton>
    </FaultForm>
    <div class="row">
      <UButton @click="emit('cancelled')">Close</UButton>
      <UButton
        v-if="isIn"
        :color="armed === 'leave' ? 'error' : undefined"
        @click="press(() => change(person.role, false), 'leave')"
      >
        {{ armed === 'leave' ? 'Press again: signed out, tokens end' : 'Let in no more' }}
      </UButton>
      <UButton v-else @click="change(person.role, true)">Let in again</UButton>
    </div>
  </section>
</template>

<style scoped>
.pad {
  padding: 10px 12px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>

<script setup lang="ts">
/** Sets one's own password. */
const { problem, guarded } = useGuarded()
const now = ref('')
const next = ref('')
const toast = useToast()
async function save(): Promise<void> {
  if (!(await guarded(() => api('setPassword', {}, { now: now.value, next: next.value })))) return
  now.value = next.value = ''
  toast.add({ title: 'The password is changed; other browsers are signed out.' })
}
</script>

<template>
  <FaultForm :problem="problem" class="panel pad dialog-form" aria-label="Password" @submit="save">
    <h2>Password</h2>
    <UFormField name="now" label="Present password" required>
      <UInput v-model="now" type="password" required maxlength="200" autocomplete="current-password" />
    </UFormField>
    <UFormField name="next" label="New password" required help="15 letters or more; several words are easiest">
      <UInput v-model="next" type="password" required maxlength="200" autocomplete="new-password" />
    </UFormField>
    <UButton type="submit">Change it</UButton>
  </FaultForm>
</template>

<style scoped>
.pad {
  padding: 10px 12px;
}
</style>

<script setup lang="ts">
/** The mail server of the house: kept, tried, forgotten. */
import type { SendingView } from '~~/api/views'

const { server } = defineProps<{ server: SendingView['mail'] }>()
const emit = defineEmits<{ saved: [] }>()
const { problem, guarded } = useGuarded()
const SECURITY = [
  { value: 'tls', label: 'TLS from the beginning' },
  { value: 'starttls', label: 'STARTTLS, or nothing' },
  { value: 'none', label: 'in the clear' },
] as const
const PORTS = { tls: 465, starttls: 587, none: 25 } as const
// The type of what may be chosen, not of what is chosen first.
const draft = reactive({ host: '', port: 587, security: 'starttls' as keyof typeof PORTS, user: '', password: '', from: '' })
watch(
  () => server,
  (kept) => {
    if (!kept) return
    const { hasPassword: _, ...rest } = kept
    Object.assign(draft, { user: '', ...rest, password: '' })
  },
  { immediate: true },
)
const security = computed({
  get: () => draft.security,
  set: (chosen) => {
    if (draft.port === PORTS[draft.security]) draft.port = PORTS[chosen]
    draft.security = chosen
  },
})
const save = () => guarded(async () => {
  const { user, password, ...rest } = draft
  await api('setMailServer', {}, { ...rest, ...(user ? { user } : {}), ...(user && password ? { password } : {}) })
  draft.password = ''
  emit('saved')
})
const forget = () => guarded(async () => {
  await api('removeMailServer')
  emit('saved')
})
const tried = ref('')
const isTrying = ref(false)
async function tryIt(): Promise<void> {
  isTrying.value = true
  const went = await guarded(() => api('tryMail', {}, { to: tried.value.trim() }))
  isTrying.value = false
  if (went) useToast().add({ title: `${tried.value.trim()}: the server has taken it.` })
}
</script>

<template>
  <FaultForm :problem="problem" class="panel pad dialog-form" aria-label="Mail server" @submit="save">
    <h2>Mail server</h2>
    <p v-if="!server" class="q">None is known: no mail goes out.</p>
    <div class="pair">
      <UFormField name="host" label="Server"><UInput v-model="draft.host" required maxlength="253" placeholder="mail.example" /></UFormField>
      <UFormField name="port" label="Port"><UInputNumber v-model="draft.port" :min="1" :max="65535" :format-options="{ useGrouping: false }" /></UFormField>
    </div>
    <UFormField label="Secured by"><PickOne v-model="security" aria-label="Secured by" :items="[...SECURITY]" /></UFormField>
    <UFormField name="from" label="Mails come from"><UInput v-model="draft.from" required maxlength="254" placeholder="load@example.org" /></UFormField>
    <div class="pair">
      <UFormField name="user" label="Signs in as" hint="empty: nobody does"><UInput v-model="draft.user" maxlength="200" autocomplete="off" /></UFormField>
      <UFormField name="password" label="Password">
        <UInput
          v-model="draft.password"
          type="password"
          maxlength="1000"
          autocomplete="new-password"
          :placeholder="server?.hasPassword ? 'kept, sealed' : ''"
          :disabled="draft.user === ''"
        />
      </UFormField>
    </div>
    <div class="acts">
      <UButton v-needs="'keeper'" type="submit" variant="solid">Save</UButton>
      <UButton v-if="server" @click="forget">Forget it</UButton>
    </div>
    <div v-if="server" class="acts">
      <UInput v-model="tried" aria-label="Address to try it with" placeholder="ana@example.org" maxlength="254" />
      <UButton :loading="isTrying" :disabled="tried.trim() === ''" @click="tryIt">Try it</UButton>
    </div>
  </FaultForm>
</template>

<style scoped>
.pad {
  padding: 10px 12px;
}
.pair {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 8px;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>

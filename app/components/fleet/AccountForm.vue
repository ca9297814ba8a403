<script setup lang="ts">
/** An account at a cloud provider: where its API is, and the key, sealed when saved. */
import type { AccountView } from '~~/api/views'
import { OWN_END_WORDS } from '~/format/fleet'
import { keysIn } from '~~/core/values/written-out'

const { account } = defineProps<{ account: AccountView | undefined }>()
const emit = defineEmits<{ saved: [], cancelled: [] }>()
const { problem, guarded } = useGuarded()
const draft = ref<AccountView>(account ? { ...account } : { id: '', name: '', address: '', ownEnd: 'natively' })
const key = ref('')
const busy = ref(false)
async function save(): Promise<void> {
  busy.value = true
  const id =
    draft.value.id ||
    draft.value.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 40)
  if (
    await guarded(() =>
      api('saveAccount', {}, {
        account: { ...draft.value, id, address: draft.value.address.replace(/\/+$/, '') },
        ...(key.value ? { key: key.value } : {}),
      }),
    )
  )
    emit('saved')
  busy.value = false
}
const OWN_ENDS = keysIn(OWN_END_WORDS).map(end => ({
  value: end,
  label: OWN_END_WORDS[end],
}))
</script>

<template>
  <FaultForm :problem="problem" class="panel pad dialog-form" @submit="save">
    <h2>{{ account ? account.name : 'New account' }}</h2>
    <UFormField name="account.name" label="Name" required>
      <UInput v-model="draft.name" required maxlength="60" />
    </UFormField>
    <UFormField name="account.address" label="Address of the provider’s API" required>
      <UInput
        v-model="draft.address"
        required
        placeholder="https://api.provider.example"
      />
    </UFormField>
    <UFormField name="key" label="Key">
      <UInput
        v-model="key"
        type="password"
        autocomplete="off"
        :required="!account"
        :placeholder="account ? 'kept as it is' : ''"
      />
    </UFormField>
    <UFormField label="When nobody is left to end them, its machines">
      <PickOne
        v-model="draft.ownEnd"
        :items="OWN_ENDS"
      />
    </UFormField>
    <p v-if="draft.ownEnd === 'not'" class="brick s12">
      Should Vornak be gone for good, these machines run and cost on until somebody ends them by hand.
    </p>
    <div class="row">
      <UButton @click="emit('cancelled')">Cancel</UButton><UButton v-needs="'keeper'" variant="solid" type="submit" :aria-disabled="busy">
        {{ busy ? 'Asking the provider…' : 'Check and save' }}
      </UButton>
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

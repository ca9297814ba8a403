<script setup lang="ts">
/** An account at a cloud provider: where its API is, and the key, sealed when saved. */
import type { AccountView } from '~~/api/views'
import { OWN_END_WORDS } from '~/format/fleet'

const { account } = defineProps<{ account: AccountView | undefined }>()
const emit = defineEmits<{ saved: [], cancelled: [] }>()
const { problem, guarded } = useGuarded()
const draft = reactive<AccountView>(account ? { ...account } : { id: '', name: '', address: '', ownEnd: 'natively' })
const key = ref('')
const busy = ref(false)
async function save(): Promise<void> {
  busy.value = true
  const id =
    draft.id ||
    draft.name
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '')
      .slice(0, 40)
  if (
    await guarded(() =>
      api('accounts', 'PUT', {
        account: { ...draft, id, address: draft.address.replace(/\/+$/, '') },
        ...(key.value ? { key: key.value } : {}),
      }),
    )
  )
    emit('saved')
  busy.value = false
}
</script>

<template>
  <form class="panel pad dialog-form" @submit.prevent="save">
    <h2>{{ account ? account.name : 'New account' }}</h2>
    <ProblemNote v-if="problem" :problem="problem" />
    <label>Name <input v-model="draft.name" class="field" required maxlength="60"></label>
    <label
    >Address of the provider’s API
      <input v-model="draft.address" class="field" required placeholder="https://api.provider.example"
      ></label>
    <label
    >Key
      <input
        v-model="key"
        class="field"
        type="password"
        autocomplete="off"
        :required="!account"
        :placeholder="account ? 'kept as it is' : ''"
      ></label>
    <label
    >When nobody is left to end them, its machines
      <select v-model="draft.ownEnd" class="field">
        <option v-for="(says, end) in OWN_END_WORDS" :key="end" :value="end">{{ says }}</option>
      </select></label
    >
    <p v-if="draft.ownEnd === 'not'" class="brick s12">
      Should Vornak be gone for good, these machines run and cost on until somebody ends them by hand.
    </p>
    <div class="row">
      <button class="btn" type="button" @click="emit('cancelled')">Cancel</button
      ><button class="btn act" type="submit" :aria-disabled="busy">
        {{ busy ? 'Asking the provider…' : 'Check and save' }}
      </button>
    </div>
  </form>
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

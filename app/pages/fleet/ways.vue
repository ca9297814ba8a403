<script setup lang="ts">
/** Where machines come from: accounts at clouds, and invitations to whatever else can take part. */
import type { ListColumn } from '~/components/marks/list-table'
import type { AccountView } from '~~/api/views'
import { OWN_END_WORDS } from '~/format/fleet'

const { problem, guarded, read } = useGuarded()
const { found: accounts, load } = read('accounts')
const { found: fleet } = read('fleet')
const editing = ref<AccountView | 'new'>()
const regionsOf = (id: string) => fleet.value?.locations.filter(l => l.provider === id).length ?? 0
const { armed, press } = useTwice()
const remove = (id: string) =>
  guarded(async () => {
    await api('removeAccount', { account: id })
    editing.value = undefined
    await load()
  })
async function saved(): Promise<void> {
  editing.value = undefined
  await load()
}
useActs([
  {
    key: 'n',
    needs: 'keeper',
    says: 'New account',
    act: () => {
      editing.value = 'new'
    },
  },
])
useHead({ title: 'Accounts and invitations · Vornak' })
const COLUMNS: ListColumn<AccountView>[] = [
  { id: 'account', head: 'Account', value: a => a.name },
  { id: 'address', head: 'Where its API is', value: a => a.address },
  { id: 'acts', head: '' },
]
</script>

<template>
  <div class="screen">
    <FleetHead><UButton v-needs="'keeper'" @click="editing = 'new'">New account <UKbd>n</UKbd></UButton></FleetHead>
    <div class="body two">
      <div>
        <ProblemNote v-if="problem" :problem="problem" />
        <section class="panel pad" aria-label="Accounts">
          <h2>Accounts at cloud providers</h2>
          <ListTable
            v-if="accounts?.length"
            plain
            name="accounts"
            :rows="accounts"
            :columns="COLUMNS"
            :row-key="a => a.id"
          >
            <template #account="{ row }">
              <b>{{ row.name }}</b>
              <div class="q s12">{{ row.id }}</div>
            </template>
            <template #address="{ row }">
              <span class="mono">{{ row.address }}</span>
              <div class="s12" :class="row.ownEnd === 'not' ? 'brick' : 'q'">
                machines {{ OWN_END_WORDS[row.ownEnd]
                }}<template v-if="regionsOf(row.id)"> · {{ regionsOf(row.id) }} regions in plans</template>
              </div>
              <div v-if="fleet?.ways.find(w => w.id === row.id)?.silent" class="brick s12">
                {{ fleet.ways.find(w => w.id === row.id)!.silent }}
              </div>
            </template>
            <template #acts="{ row }">
              <UButton v-needs="'keeper'" size="sm" @click="editing = row">Edit</UButton> <UButton
                v-needs="'keeper'"
                size="sm"
                :color="armed === row.id ? 'error' : undefined"
                @click="press(() => remove(row.id), row.id)"
              >
                {{ armed === row.id ? 'Press again: its key is forgotten' : 'Remove' }}
              </UButton>
            </template>
          </ListTable>
          <p v-else-if="accounts" class="q">
            No account yet. Without one, machines come from private hosts and invitations alone.
          </p>
        </section>
        <AccountForm
          v-if="editing"
          :key="editing === 'new' ? '' : editing.id"
          class="below"
          :account="editing === 'new' ? undefined : editing"
          @saved="saved"
          @cancelled="editing = undefined"
        />
      </div>
      <InvitePanel />
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.pad {
  padding: 8px 12px;
}
.below {
  margin-top: 12px;
}
</style>

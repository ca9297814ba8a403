<script setup lang="ts">
/** Where machines come from: accounts at clouds, and invitations to whatever else can take part. */
import type { AccountView, FleetView } from '~~/api/views'
import { OWN_END_WORDS } from '~/format/fleet'

const { problem, guarded, read } = useGuarded()
const { found: accounts, load } = read<AccountView[]>('accounts')
const { found: fleet } = read<FleetView>('fleet')
const editing = ref<AccountView | 'new'>()
const regionsOf = (id: string) => fleet.value?.locations.filter(l => l.provider === id).length ?? 0
const { armed, press } = useTwice()
const remove = (id: string) =>
  guarded(async () => {
    await api(`accounts/${encodeURIComponent(id)}/remove`, 'POST')
    editing.value = undefined
    await load()
  })
async function saved(): Promise<void> {
  editing.value = undefined
  await load()
}
useKeys([
  {
    key: 'n',
    says: 'New account',
    act: () => {
      editing.value = 'new'
    },
  },
])
useHead({ title: 'Accounts and invitations · Vornak' })
</script>

<template>
  <div class="screen">
    <FleetHead
    ><button class="btn" @click="editing = 'new'">New account <kbd>n</kbd></button></FleetHead
    >
    <div class="body two">
      <div>
        <ProblemNote v-if="problem" :problem="problem" />
        <section class="panel pad" aria-label="Accounts">
          <h2>Accounts at cloud providers</h2>
          <table v-if="accounts?.length" class="table">
            <tbody>
              <tr v-for="a in accounts" :key="a.id">
                <td>
                  <b>{{ a.name }}</b>
                  <div class="q s12">{{ a.id }}</div>
                </td>
                <td>
                  <span class="mono">{{ a.address }}</span>
                  <div class="s12" :class="a.ownEnd === 'not' ? 'brick' : 'q'">
                    machines {{ OWN_END_WORDS[a.ownEnd]
                    }}<template v-if="regionsOf(a.id)"> · {{ regionsOf(a.id) }} regions in plans</template>
                  </div>
                  <div v-if="fleet?.ways.find(w => w.id === a.id)?.silent" class="brick s12">
                    {{ fleet.ways.find(w => w.id === a.id)!.silent }}
                  </div>
                </td>
                <td class="num">
                  <button class="btn sm" @click="editing = a">Edit</button> <button class="btn sm" :class="{ broken: armed === a.id }" @click="press(() => remove(a.id), a.id)">
                    {{ armed === a.id ? 'Press again: its key is forgotten' : 'Remove' }}
                  </button>
                </td>
              </tr>
            </tbody>
          </table>
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

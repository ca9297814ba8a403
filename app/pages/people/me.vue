<script setup lang="ts">
/** Oneself: where one is signed in, one's API tokens, one's password. */
import { ROLE_SAYS } from '~~/api/roles'
import type { SessionLine, TokenLine } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import { browserName } from '~/format/browsers'
import { ago, dayTime } from '~/format/moments'

const me = useMe()
const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: sessions, load: loadSessions } = read('sessions')
const { found: tokens, load: loadTokens } = read('tokens')
const SESSIONS: ListColumn<SessionLine>[] = [
  { id: 'browser', head: 'Browser', wide: true, value: s => s.browser },
  { id: 'address', head: 'From', value: s => s.address },
  { id: 'seen', head: 'Was here', num: true, value: s => s.seenAt },
  { id: 'acts', head: '' },
]
const TOKENS: ListColumn<TokenLine>[] = [
  { id: 'name', head: 'Token', wide: true, value: t => t.name },
  { id: 'role', head: 'May', value: t => t.role },
  { id: 'ends', head: 'Ends', num: true, value: t => t.endsAt },
  { id: 'used', head: 'Used', num: true, value: t => t.usedAt },
  { id: 'acts', head: '' },
]
const { armed, press } = useTwice()
const end = (session: number) => guarded(async () => {
  await api('endSession', { session }, {})
  await loadSessions()
})
const takeBack = (token: number) => guarded(async () => {
  await api('endToken', { token }, {})
  await loadTokens()
})
async function leave(): Promise<void> {
  if (await guarded(() => me.signOut())) await goTo('/sign-in')
}
useActs([{ says: 'Sign out', act: () => void leave() }])
useHead({ title: 'You · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head">
      <PeopleTabs /><span v-if="me.role" class="q">{{ me.role }}: {{ ROLE_SAYS[me.role] }}</span><span class="spring" />
      <UButton @click="leave">Sign out</UButton>
    </div>
    <div class="body two">
      <div class="stack">
        <ProblemNote v-if="problem" :problem="problem" />
        <section class="panel pad" aria-label="Where you are signed in">
          <h2>Where you are signed in</h2>
          <ListTable
            v-if="sessions"
            plain
            name="sessions"
            :rows="sessions"
            :columns="SESSIONS"
            :row-key="s => s.id"
          >
            <template #browser="{ row }"><span :title="row.browser">{{ browserName(row.browser) }}</span></template>
            <template #seen="{ row }">{{ row.isThis ? 'now' : ago(row.seenAt, live.controllerNow) }}</template>
            <template #acts="{ row }">
              <span v-if="row.isThis" class="q">this one</span>
              <UButton v-else size="sm" @click="end(row.id)">Sign out there</UButton>
            </template>
          </ListTable>
        </section>
        <section class="panel pad" aria-label="API tokens">
          <h2>API tokens</h2>
          <p class="q s12">For programs that do what you may, or less, until they end.</p>
          <ListTable
            v-if="tokens?.length"
            plain
            name="tokens"
            :rows="tokens"
            :columns="TOKENS"
            :row-key="t => t.id"
          >
            <template #ends="{ row }">
              <span :class="{ brick: row.endsAt < live.controllerNow }">{{
                dayTime(row.endsAt, live.controllerNow)
              }}</span>
            </template>
            <template #used="{ row }">{{ row.usedAt ? ago(row.usedAt, live.controllerNow) : 'never' }}</template>
            <template #acts="{ row }">
              <UButton
                size="sm"
                :color="armed === String(row.id) ? 'error' : undefined"
                @click="press(() => takeBack(row.id), String(row.id))"
              >
                {{ armed === String(row.id) ? 'Press again: it ends now' : 'Take back' }}
              </UButton>
            </template>
          </ListTable>
          <TokenForm @made="loadTokens" />
        </section>
      </div>
      <PasswordForm />
    </div>
  </div>
</template>

<style scoped>
.screen-head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.spring {
  flex: 1;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 12px;
  align-items: start;
}
.stack {
  display: grid;
  gap: 12px;
}
.pad {
  padding: 8px 12px;
}
@media (max-width: 960px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

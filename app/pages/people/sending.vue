<script setup lang="ts">
/** Who is told of runs when nobody looks: mail, programs, and what was sent. */
import type { SendingView } from '~~/api/views'
import type { ListColumn } from '~/components/marks/list-table'
import FigureGoalForm from '~/components/sending/FigureGoalForm.vue'
import HookList from '~/components/sending/HookList.vue'
import MailServerForm from '~/components/sending/MailServerForm.vue'
import { ago } from '~/format/moments'

const me = useMe()
const live = useLive()
const { problem, guarded, read } = useGuarded()
const { found: view, load } = read('sending')
live.onNews(news => news.kind === 'dispatches' && void load())
type Dispatch = SendingView['dispatches'][number]
const COLUMNS: ListColumn<Dispatch>[] = [
  { id: 'when', head: 'When', value: d => d.writtenAt },
  { id: 'to', head: 'To', wide: true, value: d => d.recipient },
  { id: 'run', head: 'Run', num: true, value: d => d.runId },
  { id: 'about', head: 'What', wide: true, value: d => d.about },
  { id: 'standing', head: 'Came to', wide: true, value: standing },
  { id: 'acts', head: '' },
]
function standing({ sentAt, nextAt, attempts, trouble }: Dispatch): string {
  const tries = attempts === 1 ? 'once' : `${attempts} times`
  if (sentAt !== undefined) return attempts > 1 ? `taken at the ${attempts}th try` : 'taken'
  if (attempts === 0) return 'on its way'
  return `${nextAt === undefined ? `given up, tried ${tries}` : `tried ${tries}, again ${inTime(nextAt)}`}: ${trouble ?? ''}`
}
function inTime(at: number): string {
  const s = Math.max(0, Math.round((at - live.controllerNow) / 1000))
  return s < 90 ? `in ${s} s` : `in ${Math.round(s / 60)} min`
}
const again = (dispatch: number) => guarded(() => api('sendAgain', { dispatch }))
useHead({ title: 'Mail and hooks · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><PeopleTabs /></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="view" class="two">
        <MailServerForm v-if="me.may('keeper')" :server="view.mail" @saved="load" />
        <section v-else class="panel pad">
          <h2>Mail server</h2>
          <p>{{ view.mail ? `${view.mail.host}, from ${view.mail.from}` : 'None is known: no mail goes out.' }}</p>
        </section>
        <HookList :hooks="view.hooks" :may-change="me.may('keeper')" @saved="load" />
        <FigureGoalForm :goal="view.figures" :may-change="me.may('keeper')" @saved="load" />
      </div>
      <section v-if="view" class="panel pad sent" aria-labelledby="sent">
        <h2 id="sent">What was sent</h2>
        <ListTable
          v-if="view.dispatches.length > 0"
          plain
          name="dispatches"
          :rows="view.dispatches"
          :columns="COLUMNS"
          :row-key="d => d.id"
        >
          <template #when="{ row }">{{ ago(row.writtenAt, live.controllerNow) }}</template>
          <template #to="{ row }"><span class="q">{{ row.kind }}</span> {{ row.recipient }}</template>
          <template #run="{ row }"><NuxtLink v-if="row.runId" :to="`/runs/${row.runId}`" class="u">{{ row.runId }}</NuxtLink></template>
          <template #standing="{ row }">
            <span :class="row.sentAt !== undefined ? 'q' : row.attempts > 0 ? 'brick' : ''">{{ standing(row) }}</span>
          </template>
          <template #acts="{ row }">
            <UButton v-if="row.sentAt === undefined && row.attempts > 0" v-needs="'operator'" size="xs" @click="again(row.id)">Send again</UButton>
            <span v-else />
          </template>
        </ListTable>
        <p v-else class="q">Nothing yet. Plans say whom their reports are mailed to, under About.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 400px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.pad {
  padding: 10px 12px;
}
.sent {
  margin-top: 12px;
}
@media (max-width: 960px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>

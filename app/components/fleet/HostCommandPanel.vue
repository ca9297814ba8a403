<script setup lang="ts">
/** One command on the chosen hosts at once: exit code and output of each, and all of it as one file. */
import type { ListColumn } from '~/components/marks/list-table'
import type { CommandView } from '~~/api/views'
import { duration } from '~/format/moments'

const { hosts } = defineProps<{ /** `site/host` */ hosts: string[] }>()
const { problem, guarded } = useGuarded()
const command = ref('')
const done = ref<CommandView>()
const running = ref(false)
async function run(): Promise<void> {
  if (!command.value.trim() || hosts.length === 0 || running.value) return
  running.value = true
  await guarded(async () => {
    done.value = await api('commandHosts', {}, { hosts, command: command.value })
  })
  running.value = false
}
const COLUMNS: ListColumn<CommandView['results'][number]>[] = [
  { id: 'host', head: '', value: r => r.host },
  { id: 'code', head: '', num: true, value: r => r.code ?? undefined },
  { id: 'took', head: '', num: true, value: r => r.tookMs },
  { id: 'said', head: '', value: r => r.problem ?? r.out + r.err },
]
</script>

<template>
  <section class="panel pad" aria-label="A command on chosen hosts">
    <form class="row" @submit.prevent="run">
      <h2>{{ hosts.length === 0 ? 'A command' : `On ${hosts.length === 1 ? hosts[0] : `${hosts.length} hosts`}` }}</h2>
      <UInput v-model="command" class="font-mono grow" aria-label="Command" placeholder="uptime" />
      <UButton v-needs="'keeper'" type="submit" :aria-disabled="hosts.length === 0 || running">
        {{ running ? 'Running…' : hosts.length === 0 ? 'Choose hosts above' : 'Run it' }}
      </UButton>
      <UButton v-if="done" external :to="hrefTo('commandFile', { command: done.id })">All as one file</UButton>
    </form>
    <ProblemNote v-if="problem" :problem="problem" />
    <ListTable
      v-if="done"
      plain
      name="what hosts said"
      :rows="done.results"
      :columns="COLUMNS"
      :row-key="r => r.host"
    >
      <template #host="{ row }">
        <b>{{ row.host }}</b>
      </template>
      <template #code="{ row }"><span :class="{ brick: row.code !== 0 }">
        {{ row.problem ? 'did not run' : `exit code ${row.code ?? 'none'}` }}
      </span></template>
      <template #took="{ row }"><span class="q">{{ duration(row.tookMs) }}</span></template>
      <template #said="{ row }">
        <pre class="mono">{{ (row.problem ?? row.out + row.err).trimEnd() || '(nothing said)' }}</pre>
      </template>
    </ListTable>
  </section>
</template>

<style scoped>
.pad {
  padding: 8px 12px;
  margin-top: 12px;
}
.row {
  display: flex;
  gap: 10px;
  align-items: center;
}
.grow {
  flex: 1;
}
.what {
  width: 65%;
}
pre {
  white-space: pre-wrap;
  max-height: 120px;
  overflow: auto;
}
</style>

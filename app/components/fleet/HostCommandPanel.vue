<script setup lang="ts">
/** One command on the chosen hosts at once: exit code and output of each, and all of it as one file. */
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
    done.value = await api<CommandView>('hosts/command', 'POST', { hosts, command: command.value })
  })
  running.value = false
}
</script>

<template>
  <section class="panel pad" aria-label="A command on chosen hosts">
    <form class="row" @submit.prevent="run">
      <h2>On {{ hosts.length === 0 ? 'no host' : hosts.length === 1 ? hosts[0] : `${hosts.length} hosts` }}</h2>
      <input v-model="command" class="field mono grow" aria-label="Command" placeholder="uptime">
      <button class="btn" type="submit" :aria-disabled="hosts.length === 0 || running">
        {{ running ? 'Running…' : hosts.length === 0 ? 'Choose hosts above' : 'Run it' }}
      </button>
      <a v-if="done" class="btn" :href="`/api/hosts/commands/${done.id}`">All as one file</a>
    </form>
    <ProblemNote v-if="problem" :problem="problem" />
    <table v-if="done" class="table">
      <tbody>
        <tr v-for="r in done.results" :key="r.host">
          <td>
            <b>{{ r.host }}</b>
          </td>
          <td class="num" :class="{ brick: r.code !== 0 }">
            {{ r.problem ? 'did not run' : `exit code ${r.code ?? 'none'}` }}
          </td>
          <td class="num q">{{ duration(r.tookMs) }}</td>
          <td class="what">
            <pre class="mono">{{ (r.problem ?? r.out + r.err).trimEnd() || '(nothing said)' }}</pre>
          </td>
        </tr>
      </tbody>
    </table>
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

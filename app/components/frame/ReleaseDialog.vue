<script setup lang="ts">
/** What would end, and what keeping it costs, before anything is given back. */
import type { ListColumn } from '../marks/list-table'
import type { ApiProblem, MachineLine } from '~~/api/views'
import { euro } from '~~/core/values/said-figures'
import { duration } from '~/format/moments'
import { MACHINE_WORDS } from '~~/core/run/machine-life'

const open = defineModel<boolean>({ required: true })
const live = useLive()
const machines = ref<MachineLine[]>([])
const problem = ref<ApiProblem>()
const busy = ref(false)
const carrying = computed(() => live.meter?.run?.id)
const idle = computed(() => machines.value.filter(m => m.runId === undefined || m.runId !== carrying.value))

onMounted(async () => {
  problem.value = undefined
  try {
    const fleet = await api('fleet')
    machines.value = fleet.locations.flatMap(l => l.machines).filter(m => m.goneAt === undefined)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
})

async function release(): Promise<void> {
  busy.value = true
  try {
    await api('releaseIdle')
    open.value = false
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  busy.value = false
}
const COLUMNS: ListColumn<MachineLine>[] = [
  { id: 'machine', head: 'Machine', value: m => m.name },
  { id: 'state', head: 'State', value: m => MACHINE_WORDS[m.state] },
  { id: 'cost', head: 'Cost so far', num: true, value: m => m.cost },
  { id: 'keeping', head: 'Keeping it', num: true, value: m => m.perHour },
  { id: 'lease', head: 'Lease ends in', num: true, value: m => m.leaseEndsAt },
]
</script>

<template>
  <UModal v-model:open="open" title="Release machines" description="What would end now, and what keeping it costs.">
    <template #body>
      <ProblemNote v-if="problem" :problem="problem" />
      <p v-if="live.meter?.strays" class="lead brick">
        {{ live.meter.strays }} {{ live.meter.strays === 1 ? 'stray is' : 'strays are' }} not among these: release
        {{ live.meter.strays === 1 ? 'it' : 'them' }} on the
        <NuxtLink to="/fleet" class="u" @click="open = false">Fleet</NuxtLink> screen.
      </p>
      <p v-if="carrying !== undefined" class="lead">
        Run {{ carrying }} holds {{ machines.length - idle.length }} of these: stop or abort it on its own screen; it
        gives them back by itself.
      </p>
      <ListTable plain name="machines to release" :rows="machines" :columns="COLUMNS" :row-key="m => m.id">
        <template #machine="{ row }"><b>{{ row.name }}</b> <span class="q">{{ row.type }}</span></template>
        <template #cost="{ row }">{{ euro(row.cost) }}</template>
        <template #keeping="{ row }">{{ euro(row.perHour) }}/h</template>
        <template #lease="{ row }">{{ duration(row.leaseEndsAt - live.controllerNow) }}</template>
      </ListTable>
    </template>
    <template #footer>
      <UButton data-focus-first @click="open = false">Keep everything</UButton>
      <UButton color="error" :aria-disabled="idle.length === 0 || busy" @click="idle.length > 0 && release()">
        {{ idle.length === 0 ? 'Nothing to release: all carry a run' : `Release ${idle.length}` }}
      </UButton>
    </template>
  </UModal>
</template>

<style scoped>
.lead {
  margin-bottom: 8px;
}
</style>

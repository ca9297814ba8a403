<script setup lang="ts">
/** What would end, and what keeping it costs, before anything is given back. */
import type { ApiProblem, FleetView, MachineLine } from '~~/api/views'
import { euro } from '~/format/figures'
import { duration } from '~/format/moments'
import { MACHINE_WORDS } from '~~/core/run/machine-life'

const open = defineModel<boolean>({ required: true })
const live = useLive()
const machines = ref<MachineLine[]>([])
const problem = ref<ApiProblem>()
const busy = ref(false)
const carrying = computed(() => live.meter?.run?.id)
const idle = computed(() => machines.value.filter(m => m.runId === undefined || m.runId !== carrying.value))

watch(open, async (is) => {
  if (!is) return
  problem.value = undefined
  try {
    const fleet = await api<FleetView>('fleet')
    machines.value = fleet.locations.flatMap(l => l.machines).filter(m => m.goneAt === undefined)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
})

async function release(): Promise<void> {
  busy.value = true
  try {
    await api('release', 'POST')
    open.value = false
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  busy.value = false
}
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
      <table class="table">
        <thead>
          <tr>
            <th>Machine</th>
            <th>State</th>
            <th class="num">Cost so far</th>
            <th class="num">Keeping it</th>
            <th class="num">Lease ends in</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="m in machines" :key="m.id">
            <td>
              <b>{{ m.name }}</b> <span class="q">{{ m.type }}</span>
            </td>
            <td>{{ MACHINE_WORDS[m.state] }}</td>
            <td class="num">{{ euro(m.cost) }}</td>
            <td class="num">{{ euro(m.perHour) }}/h</td>
            <td class="num">{{ duration(m.leaseEndsAt - live.controllerNow) }}</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template #footer>
      <button class="btn" @click="open = false">Keep everything</button>
      <button class="btn broken" :aria-disabled="idle.length === 0 || busy" @click="idle.length > 0 && release()">
        {{ idle.length === 0 ? 'Nothing to release: all carry a run' : `Release ${idle.length}` }}
      </button>
    </template>
  </UModal>
</template>

<style scoped>
.lead {
  margin-bottom: 8px;
}
.u {
  text-decoration: underline;
}
</style>

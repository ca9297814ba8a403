<script setup lang="ts">
/** The fleet: a lane per location, strays apart in brick, a machine opened to what it is and has been. */
import type { ApiProblem, FleetView, MachineLine } from '~~/api/views'
import { euro, bytes } from '~/format/figures'
import { clockTime, duration } from '~/format/moments'

const PAST_MS = 3 * 60_000
const AHEAD_MS = 60_000
/** Marks of the time axis, min from now. */
const MARKS = [-3, -2, -1, 0, 1]
const live = useLive()
const fleet = ref<FleetView>()
const problem = ref<ApiProblem>()
const openId = ref<string>()
async function load(): Promise<void> {
  try {
    fleet.value = await api<FleetView>('fleet')
    problem.value = undefined
  }
  catch (error) { problem.value = problemOf(error) }
}
onMounted(load)
live.onNews((news) => { if (news.kind === 'fleet' || news.kind === 'run') void load() })
const chosen = computed<MachineLine | undefined>(() => fleet.value?.locations.flatMap(l => l.machines).find(m => m.id === openId.value))
const shown = computed(() => fleet.value?.locations.map(l => ({ ...l, machines: l.machines.filter(m => m.goneAt === undefined || m.goneAt > live.controllerNow - PAST_MS) })))
async function act(path: string): Promise<void> {
  try { await api(path, 'POST') }
  catch (error) { problem.value = problemOf(error) }
  await load()
}
useHead({ title: 'Fleet · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head top"><h1>Fleet</h1><span class="q">the last {{ duration(PAST_MS) }}, and {{ duration(AHEAD_MS) }} ahead of now</span></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="shown?.length" class="panel">
        <div class="axis" aria-hidden="true"><span v-for="m in MARKS" :key="m" class="q" :style="{ left: `${(m * 60_000 + PAST_MS) / (PAST_MS + AHEAD_MS) * 100}%` }">{{ m === 0 ? 'now' : `${m > 0 ? '+' : '−'}${Math.abs(m)} min` }}</span></div>
        <FleetLane v-for="l in shown" :key="l.code + l.region" :lane="l" :now="live.controllerNow" :past-ms="PAST_MS" :ahead-ms="AHEAD_MS" @open="openId = $event.id" />
        <section v-if="fleet?.strays.length" class="strays brick">
          <div v-for="s in fleet.strays" :key="s.ref" class="stray">
            <AGlyph name="stray" /><b>{{ s.ref }}</b> {{ s.type }} in {{ s.region }}: {{ s.provider }} lists it, no run knows it. It costs until it is released.
            <button class="btn sm broken" @click="act(`strays/${s.provider}/${s.ref}`)">Release it</button>
          </div>
        </section>
      </div>
      <p v-else-if="shown" class="q">No location yet: they come with the first plan.</p>
      <p v-else-if="!problem" class="q">Asking the providers…</p>
      <section v-if="chosen" class="panel machine">
        <div class="top"><h2>{{ chosen.name }}</h2><span class="q">{{ chosen.type }} in {{ chosen.region }} for <NuxtLink :to="`/runs/${chosen.runId}`" class="link">run {{ chosen.runId }}</NuxtLink></span><span class="spring" /><button v-if="chosen.goneAt === undefined" class="btn sm broken" @click="act(`machines/${chosen.id}/release`)">Release {{ chosen.name }}</button><button class="btn sm" @click="openId = undefined">Close</button></div>
        <p>{{ euro(chosen.cost) }} so far at {{ euro(chosen.perHour) }}/h<template v-if="chosen.goneAt === undefined"> · lease ends in {{ duration(chosen.leaseEndsAt - live.controllerNow) }}</template><template v-if="chosen.facts"> · {{ chosen.facts.cores }} cores, {{ bytes(chosen.facts.memoryBytes) }} memory, Node {{ chosen.facts.node }}</template><template v-if="chosen.clockMs !== undefined"> · clock known to ± {{ chosen.clockMs.toFixed(1) }} ms</template></p>
        <table class="table"><tbody><tr v-for="c in chosen.changes" :key="c.at + c.to"><td class="q when">{{ clockTime(c.at) }}</td><td class="state"><b>{{ c.to }}</b></td><td>{{ c.reason }}</td></tr></tbody></table>
      </section>
    </div>
  </div>
</template>

<style scoped>
.top { display: flex; gap: 14px; align-items: center; }
.spring { flex: 1; }
.axis { position: relative; height: 22px; margin: 0 10px 0 494px; font-size: 11px; line-height: 22px; }
.axis span { position: absolute; transform: translateX(-50%); white-space: nowrap; }
.axis span:first-child { transform: none; }
.axis span:last-child { transform: translateX(-100%); }
.stray { display: flex; gap: 8px; align-items: center; padding: 8px 10px; }
.machine { margin-top: 12px; padding: 8px 12px; }
.link { text-decoration: underline; }
.when { width: 80px; }
.state { width: 120px; }
</style>

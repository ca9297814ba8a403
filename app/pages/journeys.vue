<script setup lang="ts">
/** Journeys: what one user does, step by step, and one pass drawn to scale of its pauses. */
import type { ApiProblem } from '~~/api/views'
import { meanThinkMs, type Journey, type ThinkTime } from '~~/core/journey/journey'

const journeys = ref<Journey[]>()
const problem = ref<ApiProblem>()
onMounted(async () => {
  try { journeys.value = await api<Journey[]>('journeys') }
  catch (error) { problem.value = problemOf(error) }
})
const seconds = (ms: number) => `${Number((ms / 1000).toFixed(1))} s`
function think(t: ThinkTime): string {
  if (t.kind === 'none') return 'no pause'
  return t.kind === 'fixed' ? seconds(t.ms) : `${seconds(t.fromMs)} to ${seconds(t.toMs)}`
}
const passMs = (j: Journey) => j.round.reduce((sum, s) => sum + meanThinkMs(s.think), 0)
useHead({ title: 'Journeys · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><h1>Journeys</h1></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <section v-for="j in journeys" :key="j.id" class="panel journey">
        <div class="top"><b>{{ j.name }}</b> <span class="q">{{ j.round.length }} {{ j.round.length === 1 ? 'step' : 'steps' }} a round, {{ seconds(passMs(j)) }} of pauses on average</span></div>
        <div class="pass" aria-hidden="true"><span v-for="s in j.round" :key="s.name" :style="{ flexGrow: meanThinkMs(s.think) + 1 }"><i />{{ s.name }}</span></div>
        <table class="table">
          <thead><tr><th>Step</th><th>Request</th><th>Body</th><th>Right when</th><th class="num">Pause after</th><th class="num">Time-out</th></tr></thead>
          <tbody>
            <tr v-for="s in j.round" :key="s.name">
              <td><b>{{ s.name }}</b></td><td class="mono">{{ s.method }} {{ s.url }}</td><td class="mono">{{ s.body ?? '–' }}</td>
              <td>status {{ s.expectStatus.join(' or ') }}<template v-if="s.expectText">, body contains <span class="mono">{{ s.expectText }}</span></template></td>
              <td class="num">{{ think(s.think) }}</td><td class="num">{{ seconds(s.timeoutMs) }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <p v-if="journeys && !journeys.length" class="q">No journey yet. Start Vornak with <span class="mono">npm run demo</span> to see some.</p>
      <p v-else-if="!journeys && !problem" class="q">Reading the journeys…</p>
    </div>
  </div>
</template>

<style scoped>
.journey { padding: 8px 12px; margin-bottom: 10px; }
.journey .table tr:last-child td { border-bottom: 0; }
.pass { display: flex; margin: 8px 0; border-bottom: 1px solid var(--edge); font-size: 11px; color: var(--quiet); }
.pass span { flex-basis: 0; min-width: 0; white-space: nowrap; overflow: hidden; }
.pass i { display: inline-block; width: 6px; height: 10px; background: var(--ink); margin-right: 4px; vertical-align: -1px; }
</style>

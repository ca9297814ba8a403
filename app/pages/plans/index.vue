<script setup lang="ts">
/** All plans: each a question, and what its last run answered. */
import type { PlanLine } from '~~/api/views'
import { count } from '~/format/figures'
import { dayTime } from '~/format/moments'

const live = useLive()
const { problem, read } = useGuarded()
const { found: plans } = read<PlanLine[]>('plans')
useHead({ title: 'Plans · Vornak' })
</script>

<template>
  <div class="screen">
    <div class="screen-head"><h1>Plans</h1></div>
    <div class="body">
      <ProblemNote v-if="problem" :problem="problem" />
      <div v-if="plans?.length" class="panel">
        <NuxtLink v-for="p in plans" :key="p.id" :to="`/plans/${p.id}`" class="plan">
          <div class="clip"><b>{{ p.name }}</b> <span class="q">version {{ p.version }}, saved {{ dayTime(p.savedAt, live.controllerNow) }}</span><br>{{ p.question }}</div>
          <div class="clip"><template v-if="p.lastRun"><AGlyph :name="p.lastRun.verdict === 'broken' ? 'broken' : p.lastRun.verdict === 'held' ? 'held' : 'none'" :class="p.lastRun.verdict === 'broken' ? 'brick' : 'moss'" :word="p.lastRun.verdict ?? 'no answer'" /> {{ p.lastRun.sentence }}</template><span v-else class="q">never run</span></div>
          <div class="num q">{{ count(p.peakUsers) }} users<br>{{ p.groups }} groups × {{ p.locations }} locations</div>
        </NuxtLink>
      </div>
      <p v-else-if="plans" class="q">No plan yet. Start Vornak with <span class="mono">npm run demo</span> to see one.</p>
      <p v-else-if="!problem" class="q">Reading the plans…</p>
    </div>
  </div>
</template>

<style scoped>
.plan { display: grid; grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) auto; gap: 16px; padding: 8px 10px; border-bottom: 1px solid var(--hair); }
.plan:last-child { border-bottom: 0; }
.plan:hover { background: var(--sel); }
</style>

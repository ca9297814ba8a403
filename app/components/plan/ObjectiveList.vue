<script setup lang="ts">
/** The objectives as sentences, each with what the last run measured. */
import { nameOf, sayValue, type Answer } from '~~/core/objectives/judge'
import type { Objective } from '~~/core/plan/document'

const { objectives, last } = defineProps<{ objectives: Objective[], last: { id: number, answer: Answer | undefined } | undefined }>()
const store = usePlan()
const measured = (o: Objective) => last?.answer?.judgements.filter(j => nameOf(j.objective) === nameOf(o) && j.measured !== undefined).sort((a, b) => b.level.users - a.level.users)[0]
const limit = (o: Objective) => o.metric === 'failures' ? Number((o.atMost * 100).toPrecision(3)) : Number((o.atMost / 1000).toPrecision(4))

function setLimit(index: number, text: string): boolean {
  const n = Number(text.replace(',', '.'))
  if (text.trim() === '' || !Number.isFinite(n) || n < 0) return false
  store.edit((p) => { p.objectives[index]!.atMost = objectives[index]!.metric === 'failures' ? n / 100 : n * 1000 })
  return true
}
</script>

<template>
  <section>
    <div class="top"><h2>Answered by</h2><span class="q">{{ objectives.length }} {{ objectives.length === 1 ? 'objective' : 'objectives' }}, in settled holds</span></div>
    <div v-for="(o, i) in objectives" :key="nameOf(o)" class="line">
      <span class="clip"><b>{{ nameOf(o) }}</b> at most</span>
      <label><span class="sr">Limit of {{ nameOf(o) }}</span><DraftInput class="limit" :value="limit(o)" inputmode="decimal" :accept="text => setLimit(i, text)" /> {{ o.metric === 'failures' ? '%' : 's' }}</label>
      <span class="spring" />
      <span v-if="measured(o)" class="q" :class="{ brick: !measured(o)!.held }">run {{ last!.id }}: {{ sayValue(o, measured(o)!.measured!) }}</span>
    </div>
    <p v-if="!objectives.length" class="line q">No objective: the run will measure, and answer nothing.</p>
  </section>
</template>

<style scoped>
.top { display: flex; gap: 14px; align-items: center; height: 24px; white-space: nowrap; }
.line { height: 28px; display: flex; align-items: center; gap: 6px; border-top: 1px solid var(--hair); white-space: nowrap; font-size: 12.5px; }
.limit { width: 44px; height: 20px; border: 1px solid var(--hair); border-radius: 3px; background: var(--panel); padding: 0 4px; font-weight: 620; text-align: right; }
.spring { flex: 1; }
</style>

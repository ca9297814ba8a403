<script setup lang="ts">
/** What files of results hold, before they become a run. */
import type { Presence, Scanned, ScannedFile } from '~~/core/elsewhere/results'
import { count } from '~~/core/values/said-figures'
import type { ListColumn } from '~/components/marks/list-table'
import { duration } from '~/format/moments'

const { scanned } = defineProps<{ scanned: Scanned }>()

const BY: Record<Presence, string> = { told: 'as its rows tell', named: 'by the users its rows name', nobody: 'not told' }
function span({ firstMs, lastMs, isOwnClock }: ScannedFile): string {
  if (firstMs === undefined || lastMs === undefined) return 'nothing'
  const long = duration(Math.max(1000, lastMs - firstMs))
  return isOwnClock ? `${long} on a clock of its own` : `${new Date(firstMs).toISOString().slice(0, 19).replace('T', ' ')} UTC, ${long}`
}
const columns: ListColumn<ScannedFile>[] = [
  { id: 'name', head: 'File', value: f => f.name },
  { id: 'rows', head: 'Requests', num: true, value: f => f.rows },
  { id: 'wrong', head: 'Wrong', num: true, value: f => f.wrong },
  { id: 'when', head: 'When', value: f => f.firstMs },
  { id: 'users', head: 'Most users', num: true, value: f => f.peakUsers },
  { id: 'steps', head: 'Steps', value: f => f.steps.map(s => s.name).join(', ') },
]
/** What is to be known of it. */
function remarks(f: ScannedFile): string[] {
  return [
    ...(f.sameAs === undefined ? [] : [`the same file as ${f.sameAs}: left out`]),
    ...(f.averages > 0 ? [`${count(f.averages)} rows are means of several requests: unfit for percentiles, kept apart`] : []),
    ...(f.withoutTime > 0 ? [`${count(f.withoutTime)} rows do not say how long it took: they count, and have no time`] : []),
    ...f.faults.slice(0, 3).map(fault => `line ${fault.line}: ${fault.sentence}`),
    ...(f.faultCount > 3 ? [`${count(f.faultCount - 3)} more rows cannot be read`] : []),
  ]
}
</script>

<template>
  <section class="panel pad" aria-labelledby="scanned">
    <h2 id="scanned">What they hold</h2>
    <ListTable name="files of results" plain :rows="scanned.files" :columns="columns" :row-key="f => scanned.files.indexOf(f)">
      <template #name="{ row: f }">
        {{ f.name }}<span v-if="f.places.length > 1" class="q s12">, {{ f.places.length }} locations</span>
        <div v-for="r in remarks(f)" :key="r" class="plantx s12 remark">{{ r }}</div>
      </template>
      <template #rows="{ row: f }">{{ count(f.rows) }}</template>
      <template #wrong="{ row: f }">{{ count(f.wrong) }}</template>
      <template #when="{ row: f }">{{ span(f) }}</template>
      <template #users="{ row: f }">{{ f.usersBy === 'nobody' ? '—' : count(f.peakUsers) }}<br><span class="q s12">{{ BY[f.usersBy] }}</span></template>
      <template #steps="{ row: f }">{{ f.steps.slice(0, 4).map(s => s.name).join(', ') }}<span v-if="f.steps.length > 4" class="q"> and {{ f.steps.length - 4 }} more</span></template>
    </ListTable>
    <p v-if="scanned.doubles.named > 0" class="q">{{ count(scanned.doubles.named) }} rows stand in several files with the same user: each is counted once.</p>
  </section>
</template>

<style scoped>
.pad {
  padding: 6px 12px 10px;
  min-width: 0;
  overflow-x: auto;
}
.remark {
  white-space: normal;
}
</style>

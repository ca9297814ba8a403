<script setup lang="ts">
/** What files of results hold, before they become a run. */
import type { Presence, Scanned, ScannedFile } from '~~/core/elsewhere/results'
import { count } from '~~/core/values/said-figures'
import { duration } from '~/format/moments'

const { scanned } = defineProps<{ scanned: Scanned }>()

const BY: Record<Presence, string> = { told: 'as its rows tell', named: 'by the users its rows name', nobody: 'not told' }
function span({ firstMs, lastMs, isOwnClock }: ScannedFile): string {
  if (firstMs === undefined || lastMs === undefined) return 'nothing'
  const long = duration(Math.max(1000, lastMs - firstMs))
  return isOwnClock ? `${long} on a clock of its own` : `${new Date(firstMs).toISOString().slice(0, 19).replace('T', ' ')} UTC, ${long}`
}
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
    <table class="table">
      <thead>
        <tr><th>File</th><th class="num">Requests</th><th class="num">Wrong</th><th>When</th><th class="num">Most users</th><th>Steps</th></tr>
      </thead>
      <tbody>
        <tr v-for="(f, i) in scanned.files" :key="i">
          <td>
            {{ f.name }}<span v-if="f.places.length > 1" class="q s12">, {{ f.places.length }} locations</span>
            <div v-for="r in remarks(f)" :key="r" class="plantx s12">{{ r }}</div>
          </td>
          <td class="num">{{ count(f.rows) }}</td>
          <td class="num">{{ count(f.wrong) }}</td>
          <td>{{ span(f) }}</td>
          <td class="num">{{ f.usersBy === 'nobody' ? '—' : count(f.peakUsers) }}<br><span class="q s12">{{ BY[f.usersBy] }}</span></td>
          <td>{{ f.steps.slice(0, 4).map(s => s.name).join(', ') }}<span v-if="f.steps.length > 4" class="q"> and {{ f.steps.length - 4 }} more</span></td>
        </tr>
      </tbody>
    </table>
    <p v-if="scanned.doubles.named > 0" class="q">{{ count(scanned.doubles.named) }} rows stand in several files with the same user: each is counted once.</p>
  </section>
</template>

<style scoped>
.pad {
  padding: 6px 12px 10px;
  min-width: 0;
  overflow-x: auto;
}
td {
  vertical-align: top;
}
</style>

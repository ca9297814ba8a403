<script setup lang="ts">
/** The ledger: per generator, what it says it sent against what was merged. */
import type { RunView } from '~~/api/views'
import { NOT_STARTED, NOT_STARTED_WORDS } from '~~/core/load/drive'
import type { Ledger } from '~~/core/merge/ledger'
import type { ListColumn } from '../marks/list-table'
import { count } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'

const {
  ledger,
  redirects = 0,
  arrivals,
} = defineProps<{
  ledger: Ledger
  /** Further requests sent because answers redirected. */
  redirects?: number
  /** Groups whose passes arrive by a plan of their own: planned = started + not started, by reason. */
  arrivals: NonNullable<NonNullable<RunView['summary']>['arrivals']>
}>()
const reasons = (a: (typeof arrivals)[number]) =>
  NOT_STARTED.filter(r => a.notStarted[r])
    .map(r => `${count(a.notStarted[r]!)} ${NOT_STARTED_WORDS[r]}`)
    .concat(a.unknown > 0 ? [`${count(a.unknown)} lost with a generator`] : [])
function remark(a: Ledger['accounts'][number]): string {
  if (a.contradictions.length > 0) return a.contradictions.join('; ')
  if (a.open) return `unknown after ${runTime(a.open.afterSecond)}: at most ${count(a.open.atMostUnknown)}`
  return a.missing > 0 ? `${a.frames.absent} frames never came` : 'balanced'
}
type Account = Ledger['accounts'][number]
const COUNTS: ListColumn<Account>[] = [
  { id: 'claimed', head: 'claimed', num: true, value: a => a.claimed.started },
  { id: 'merged', head: 'merged', num: true, value: a => a.merged.started },
  { id: 'inFlight', head: 'in flight', num: true, value: a => a.inFlight },
  { id: 'missing', head: 'missing', num: true, value: a => a.missing },
  { id: 'cut', head: 'cut', num: true, value: a => a.claimed.cut },
  { id: 'frames', head: 'frames', num: true, value: a => a.frames.received },
  { id: 'again', head: 'again', num: true, value: a => a.frames.repeated },
]
const COLUMNS: ListColumn<Account>[] = [
  { id: 'generator', head: 'Generator', value: a => a.generator },
  ...COUNTS,
  { id: 'account', head: 'Account', value: remark },
]
</script>

<template>
  <div>
    <ListTable name="ledger" :rows="ledger.accounts" :columns="COLUMNS" :row-key="a => a.generator">
      <template #generator="{ row }"><b>{{ row.generator }}</b></template>
      <template v-for="c in COUNTS" :key="c.id" #[c.id]="{ row }">{{ count(Number(c.value!(row))) }}</template>
      <template #account="{ row }">
        <span
          :class="{
            brick: row.contradictions.length,
            plantx: row.open || row.missing > 0,
            q: !row.contradictions.length && !row.open && !row.missing,
          }"
        >{{ remark(row) }}</span>
      </template>
      <template #foot-generator>all</template>
      <template #foot-claimed>{{ count(ledger.claimed.started) }}</template>
      <template #foot-merged>{{ count(ledger.merged.started) }}</template>
      <template #foot-missing>{{ count(ledger.missing) }}</template>
      <template #foot-cut>{{ count(ledger.claimed.cut) }}</template>
      <template #foot-account>
        {{ count(ledger.sent) }} can have reached the target<template v-if="ledger.merged.unclear">
          ({{ count(ledger.merged.unclear) }} unclear)</template><template v-if="redirects">
          and {{ count(redirects) }} redirects followed</template>
      </template>
    </ListTable>
    <p v-for="a in arrivals" :key="a.group" class="arrivals">
      <b>{{ a.group }}</b> {{ count(a.planned) }} passes were due, {{ count(a.started) }} were started: <span
        :class="a.started === a.planned ? 'q' : 'plantx'"
      >{{ reasons(a).join(', ') || 'every one' }}</span>
    </p>
  </div>
</template>

<style scoped>
.arrivals {
  padding: 4px 10px;
}
</style>

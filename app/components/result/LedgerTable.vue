<script setup lang="ts">
/** The ledger: per generator, what it says it sent against what was merged. */
import type { RunView } from '~~/api/views'
import { NOT_STARTED, NOT_STARTED_WORDS } from '~~/core/load/drive'
import type { Ledger } from '~~/core/merge/ledger'
import { count } from '~/format/figures'
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
</script>

<template>
  <table class="table">
    <thead>
      <tr>
        <th>Generator</th>
        <th class="num">claimed</th>
        <th class="num">merged</th>
        <th class="num">in flight</th>
        <th class="num">missing</th>
        <th class="num">cut</th>
        <th class="num">frames</th>
        <th class="num">again</th>
        <th>Account</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="a in ledger.accounts" :key="a.generator">
        <td>
          <b>{{ a.generator }}</b>
        </td>
        <td class="num">{{ count(a.claimed.started) }}</td>
        <td class="num">{{ count(a.merged.started) }}</td>
        <td class="num">{{ count(a.inFlight) }}</td>
        <td class="num">{{ count(a.missing) }}</td>
        <td class="num">{{ count(a.claimed.cut) }}</td>
        <td class="num">{{ count(a.frames.received) }}</td>
        <td class="num">{{ count(a.frames.repeated) }}</td>
        <td
          :class="{
            brick: a.contradictions.length,
            plantx: a.open || a.missing > 0,
            q: !a.contradictions.length && !a.open && !a.missing,
          }"
        >
          {{ remark(a) }}
        </td>
      </tr>
      <tr class="total">
        <td>all</td>
        <td class="num">{{ count(ledger.claimed.started) }}</td>
        <td class="num">{{ count(ledger.merged.started) }}</td>
        <td />
        <td class="num">{{ count(ledger.missing) }}</td>
        <td class="num">{{ count(ledger.claimed.cut) }}</td>
        <td />
        <td />
        <td>
          {{ count(ledger.sent) }} can have reached the target<template v-if="ledger.merged.unclear">
            ({{ count(ledger.merged.unclear) }} unclear)</template
          ><template v-if="redirects"> and {{ count(redirects) }} redirects followed</template>
        </td>
      </tr>
      <tr v-for="a in arrivals" :key="a.group" class="total">
        <td>{{ a.group }}</td>
        <td colspan="7">{{ count(a.planned) }} passes were due, {{ count(a.started) }} were started</td>
        <td :class="a.started === a.planned ? 'q' : 'plantx'">{{ reasons(a).join(', ') || 'every one' }}</td>
      </tr>
    </tbody>
  </table>
</template>

<script setup lang="ts">
/** The ledger: per generator, what it says it sent against what was merged. */
import type { Ledger } from '~~/core/merge/ledger'
import { count } from '~/format/figures'
import { runTime } from '~/format/moments'

const { ledger, redirects = 0 } = defineProps<{
  ledger: Ledger
  /** Further requests sent because answers redirected. */
  redirects?: number
}>()
function remark(a: Ledger['accounts'][number]): string {
  if (a.contradictions.length > 0) return a.contradictions.join('; ')
  if (a.open) return `unknown after ${runTime(a.open.afterSecond)}: at most ${count(a.open.atMostUnknown)}`
  return a.missing > 0 ? `${a.frames.absent} frames never came` : 'balanced'
}
</script>

<template>
  <table class="table">
    <thead><tr><th>Generator</th><th class="num">claimed</th><th class="num">merged</th><th class="num">in flight</th><th class="num">missing</th><th class="num">cut</th><th class="num">frames</th><th class="num">again</th><th>Account</th></tr></thead>
    <tbody>
      <tr v-for="a in ledger.accounts" :key="a.generator">
        <td><b>{{ a.generator }}</b></td><td class="num">{{ count(a.claimed.started) }}</td><td class="num">{{ count(a.merged.started) }}</td><td class="num">{{ count(a.inFlight) }}</td><td class="num">{{ count(a.missing) }}</td><td class="num">{{ count(a.claimed.cut) }}</td>
        <td class="num">{{ count(a.frames.received) }}</td><td class="num">{{ count(a.frames.repeated) }}</td>
        <td :class="{ brick: a.contradictions.length, plantx: a.open || a.missing > 0, q: !a.contradictions.length && !a.open && !a.missing }">{{ remark(a) }}</td>
      </tr>
      <tr class="total">
        <td>all</td><td class="num">{{ count(ledger.claimed.started) }}</td><td class="num">{{ count(ledger.merged.started) }}</td><td /><td class="num">{{ count(ledger.missing) }}</td><td class="num">{{ count(ledger.claimed.cut) }}</td><td /><td />
        <td>{{ count(ledger.sent) }} can have reached the target<template v-if="ledger.merged.unclear"> ({{ count(ledger.merged.unclear) }} unclear)</template><template v-if="redirects"> and {{ count(redirects) }} redirects followed</template></td>
      </tr>
    </tbody>
  </table>
</template>

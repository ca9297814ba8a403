<script setup lang="ts">
/** Programs elsewhere that tell of a run: how much, and when they were heard last. */
import { useIntervalFn } from '@vueuse/core'
import type { RunView } from '~~/api/views'
import { count } from '~~/core/values/said-figures'
import { ago } from '~/format/moments'

const { run } = defineProps<{ run: RunView }>()
const live = useLive()
const { problem, read } = useGuarded()
const { found: streams, load } = read('streams', { run: run.line.id })
const EVERY_MS = 1000
useIntervalFn(() => void load(), EVERY_MS)
</script>

<template>
  <section class="panel pad" aria-labelledby="tellers">
    <h2 id="tellers">Told by</h2>
    <ProblemNote v-if="problem" :problem="problem" />
    <table class="table">
      <thead><tr><th>Location</th><th class="num">Lines</th><th class="num">Not read</th><th class="num">Heard</th></tr></thead>
      <tbody>
        <tr v-for="s in streams ?? []" :key="s.place">
          <td>{{ s.place }}</td>
          <td class="num">{{ count(s.taken) }}</td>
          <td class="num" :class="{ brick: s.faulty > 0 }">{{ count(s.faulty) }}</td>
          <td class="num q">{{ s.endedAt !== undefined ? 'has ended' : s.heardAt === undefined ? 'not yet' : ago(s.heardAt, live.controllerNow) }}</td>
        </tr>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
.pad {
  padding: 6px 12px 8px;
}
</style>

<script setup lang="ts">
/**
 * What users of each network felt: connecting as measured, against what the profile promises; times of the chosen step.
 */
import type { RunView, WindowView } from '~~/api/views'
import { stepKey } from '~~/core/objectives/subject'
import { count, timeText } from '~/format/figures'

/** Times of all steps, or of one, by its key. */
const step = defineModel<string>('step', { required: true })
const { window: figures, run } = defineProps<{ window: WindowView, run: RunView }>()
const steps = computed(() => figures.steps.filter(s => s.kind !== 'round').map(s => stepKey(s.journeyId, s.step)))
const shown = computed(() => (steps.value.includes(step.value) ? step.value : ''))
const lines = computed(() => figures.networks.filter(n => n.figures.started > 0))
const of = (line: WindowView['networks'][number]) =>
  shown.value === '' ? line.figures : line.steps.find(s => stepKey(s.journeyId, s.step) === shown.value)?.figures
const profile = (id: string) => run.document.networks?.find(n => n.id === id)
/** Beyond what timers and a busy moment explain. */
const isOff = (expected: number | undefined, measured: number | undefined) =>
  expected !== undefined && measured !== undefined && Math.abs(measured - expected) > Math.max(8, expected * 0.1)
</script>

<template>
  <table class="table">
    <thead>
      <tr>
        <th>Location</th>
        <th>Network</th>
        <th class="num">added</th>
        <th class="num">connections</th>
        <th class="num">connect, median</th>
        <th class="num">promised</th>
        <th class="num">right</th>
        <th class="num">p95 first byte</th>
        <th class="num">p50</th>
        <th class="num">p95</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="n in lines" :key="n.location + n.network">
        <td><LocationCode :code="n.location" /></td>
        <td>
          <b>{{ n.name }}</b>
        </td>
        <td class="num q">
          <template v-if="profile(n.network)">{{ profile(n.network)!.latencyMs }} ms</template
          ><template v-else>–</template>
        </td>
        <td class="num">{{ count(n.figures.connects ?? 0) }}</td>
        <td class="num" :class="{ plantx: isOff(n.expectedConnectMs, n.figures.connectP50Ms) }">
          <span class="measured">{{ timeText(n.figures.connectP50Ms) }}</span>
        </td>
        <td class="num">
          <span v-if="n.expectedConnectMs !== undefined" class="planned">{{ timeText(n.expectedConnectMs) }}</span
          ><template v-else>–</template>
        </td>
        <td class="num">{{ count(of(n)?.right ?? 0) }}</td>
        <td class="num">{{ timeText(of(n)?.firstByteP95Ms) }}</td>
        <td class="num">{{ timeText(of(n)?.p50Ms) }}</td>
        <td class="num b">{{ timeText(of(n)?.p95Ms) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.b {
  font-weight: 620;
}
</style>

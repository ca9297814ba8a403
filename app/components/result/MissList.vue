<script setup lang="ts">
/** What answers missed, by the name of the expectation: a wrong answer with a good status is found here. */
import type { WindowView } from '~~/api/views'
import { missNamesOf } from '~~/core/journey/answers'
import { requestsOf, STAGES, stepsOf } from '~~/core/journey/journey'
import type { RunDocument } from '~~/core/run/document'
import { stepKey } from '~~/core/objectives/subject'
import { count, share } from '~~/core/values/said-figures'

const { window: figures, document } = defineProps<{ window: WindowView, document: RunDocument }>()
const names = computed(
  () =>
    new Map(
      document.journeys.flatMap(j =>
        j.kind === 'http'
          ? STAGES.flatMap(s => stepsOf(j, s))
              .flatMap(requestsOf)
              .map(p => [stepKey(j.id, p.name), missNamesOf(p)] as const)
          : [],
      ),
    ),
)
const say = useStepNames(
  () => figures,
  () => document,
)
const missed = computed(() =>
  figures.steps
    .flatMap(s =>
      s.figures.misses.map(([number, n]) => ({
        step: say(s),
        name: names.value.get(stepKey(s.journeyId, s.step))?.[number] ?? `expectation ${number + 1}`,
        n,
        share: n / Math.max(1, s.figures.right + s.figures.failed),
      })),
    )
    .sort((a, b) => b.n - a.n),
)
</script>

<template>
  <ul v-if="missed.length" class="missed">
    <li v-for="m in missed" :key="m.step + m.name">
      <AGlyph name="broken" class="brick" word="missed" /><span class="clip"><b>{{ m.step }}</b> missed <b>{{ m.name }}</b></span><span class="num">{{ count(m.n) }} <span class="q">answers, {{ share(m.share) }}</span></span>
    </li>
  </ul>
  <p v-else class="q s12">No answer missed what was expected of it.</p>
</template>

<style scoped>
.missed li {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto;
  gap: 6px;
  align-items: baseline;
  padding: 3px 0;
  border-top: 1px solid var(--hair);
  font-size: 12.5px;
}
</style>

<script setup lang="ts">
/** What a try of a source has shown, step by step. */
import type { TriedSource } from '~~/api/views'
import { bytes, timeText } from '~~/core/values/said-figures'
import { clockText } from '~/format/target-clock'

const { tried, isSaved } = defineProps<{ tried: TriedSource, isSaved: boolean }>()
const STEP_WORDS = { approval: 'agreed to', connection: 'reached', answer: 'answers', page: 'can be read' }
const failed = computed(() => tried.steps.find(s => !s.isRight))
/** Of the values that came: how old the oldest was. */
const ageMs = computed(() => {
  const ages = tried.found.flatMap(f => f.lines.map(l => l.ageMs))
  return ages.length > 0 ? Math.max(...ages) : undefined
})
</script>

<template>
  <div class="tried s12" role="status">
    <span v-for="s in tried.steps" :key="s.step" :class="s.isRight ? 'q' : 'brick'">
      <AGlyph :name="s.isRight ? 'held' : 'broken'" :class="s.isRight ? 'moss' : 'brick'" /> {{ s.isRight ? '' : 'not ' }}{{ STEP_WORDS[s.step] }}
    </span>
    <span v-if="failed" class="brick">{{ failed.sentence }} {{ failed.remedy }}</span>
    <span v-if="failed && !isSaved" class="q">What is kept counts: the approval and the secrets as they were saved.</span>
    <span v-if="tried.tookMs !== undefined" class="q">{{ timeText(tried.tookMs) }}{{ tried.bytes === undefined ? '' : `, ${bytes(tried.bytes)}` }}</span>
    <span v-if="ageMs !== undefined" class="q">values {{ timeText(ageMs) }} old</span>
    <span v-if="tried.clock" class="q">its clock {{ clockText(tried.clock.offsetMs, tried.clock.uncertaintyMs) }}</span>
  </div>
</template>

<style scoped>
.tried {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: baseline;
}
</style>

<script setup lang="ts">
/** A run as a sentence: its question, its answer, and how far the answer can be trusted. */
import type { RunLine } from '~~/api/views'
import { dayTime } from '~/format/moments'
import { markOf } from '~/format/runs'

const { run } = defineProps<{ run: RunLine }>()
const live = useLive()
const mark = computed(() => markOf(run))
const again = ref(false)
</script>

<template>
  <article class="run">
    <NuxtLink :to="`/runs/${run.id}`" class="id">{{ run.id }}</NuxtLink>
    <div class="text">
      <NuxtLink :to="`/runs/${run.id}`" class="question">{{ run.question }}</NuxtLink>
      <div class="answer">
        <AGlyph
          :name="mark.glyph"
          :class="mark.tone"
          :word="mark.word"
        /> <span :class="mark.tone" class="b">{{ run.sentence }}</span>
      </div>
    </div>
    <div class="sound">
      <template v-if="run.soundness"><AGlyph
                                       v-if="run.soundness !== 'sound'"
                                       name="costsSoundness"
                                       :class="run.soundness === 'unsound' ? 'brick' : 'plantx'"
                                       :word="run.soundness"
                                     />
        {{ run.soundness }}</template>
      <span v-else class="q">{{ run.state }}</span>
    </div>
    <div class="q when">{{ dayTime(run.createdAt, live.controllerNow) }}</div>
    <UButton v-needs="'operator'" size="sm" @click="again = true">Again</UButton>
    <LazyAgainDialog v-if="again" v-model:open="again" :run="run" />
  </article>
</template>

<style scoped>
.run {
  display: grid;
  grid-template-columns: 34px minmax(0, 1fr) 96px 130px auto;
  gap: 0 12px;
  align-items: center;
  padding: 7px 10px;
  border-bottom: 1px solid var(--hair);
}
.run:last-child {
  border-bottom: 0;
}
.id {
  font-weight: 600;
  font-size: 16px;
  font-stretch: 110%;
  text-align: right;
}
.question:hover {
  text-decoration: underline;
}
.answer {
  display: flex;
  gap: 6px;
  align-items: baseline;
}
.b {
  font-weight: 620;
}
.when {
  text-align: right;
}
</style>

<script setup lang="ts">
/** Where a target's own figures are read: its sources, each with its chosen series. */
import { sourceFaults, type Source } from '~~/core/target/source'
import SourceForm from './SourceForm.vue'

const sources = defineModel<Source[]>({ required: true })
const { targetId, baseUrl, isSaved } = defineProps<{
  targetId: string
  baseUrl: string
  /** What is shown is what is kept: a try counts with the approval and the secrets that are kept. */
  isSaved: boolean
}>()
const faults = computed(() => sourceFaults(sources.value))
function add(): void {
  const base = baseUrl.replace(/\/+$/, '')
  const names = sources.value.map(s => s.name)
  let n = names.length + 1
  while (names.includes(`source ${n}`)) n++
  sources.value = [
    ...sources.value,
    { name: `source ${n}`, kind: 'metrics', address: `${base}/metrics`, everyS: 1, series: [] },
  ]
}
const set = (at: number, source: Source) => {
  sources.value = sources.value.map((s, i) => (i === at ? source : s))
}
const remove = (at: number) => {
  sources.value = sources.value.filter((_, i) => i !== at)
}
</script>

<template>
  <section class="panel pad" aria-labelledby="own-figures">
    <div class="top">
      <h2 id="own-figures">Its own figures</h2>
      <span class="q s12">read beside the runs whose plan asks for it, from before the load until all is as it was</span>
      <span class="spring" /><UButton size="sm" @click="add">Add a source</UButton>
    </div>
    <p v-if="sources.length === 0" class="q s12">
      None: CPU, memory, connections and calls of the system under load stay in another window.
    </p>
    <SourceForm
      v-for="(source, i) in sources"
      :key="i"
      :source="source"
      :faults="faults.filter(f => f.source === i)"
      :target-id="targetId"
      :is-saved="isSaved"
      @change="set(i, $event)"
      @remove="remove(i)"
    />
  </section>
</template>

<style scoped>
.pad {
  padding: 8px 14px 12px;
  display: grid;
  gap: 8px;
  margin-top: 12px;
}
.top {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 24px;
}
.spring {
  flex: 1;
}
</style>

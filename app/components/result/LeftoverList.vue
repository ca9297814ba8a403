<script setup lang="ts">
/** What commands left on their generators: their log, and files they were told to bring back. */
import type { RunView } from '~~/api/views'
import { bytes } from '~/format/figures'

interface Leftover {
  generator: number
  group: string
  name: string
  bytes: number
}
const { run } = defineProps<{ run: RunView }>()
const left = ref<Leftover[]>([])
onMounted(async () => {
  if (run.document.journeys.some(j => j.kind === 'command'))
    left.value = await api<Leftover[]>(`runs/${run.line.id}/leftovers`).catch(() => [])
})
const address = (l: Leftover) =>
  `/api/runs/${run.line.id}/leftovers/${l.generator}?group=${encodeURIComponent(l.group)}&name=${encodeURIComponent(l.name)}`
</script>

<template>
  <section v-if="left.length">
    <h2>Brought back</h2>
    <ul>
      <li v-for="l in left" :key="`${l.generator} ${l.group} ${l.name}`">
        <b>{{ run.generators[l.generator]?.name }}</b> <a class="file" :href="address(l)" download>{{ l.name }}</a> <span class="q">{{ bytes(l.bytes) }}, {{ l.group }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
li {
  border-top: 1px solid var(--hair);
  padding: 3px 0;
  font-size: 12.5px;
}
.file {
  color: var(--act);
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>

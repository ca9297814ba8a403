<script setup lang="ts">
/** What commands left on their generators: their log, and files they were told to bring back. */
import type { LeftoverLine } from '~~/api/answers'
import type { RunView } from '~~/api/views'
import { bytes } from '~~/core/values/said-figures'

const { run } = defineProps<{ run: RunView }>()
const left = ref<LeftoverLine[]>([])
onMounted(async () => {
  if (run.document.journeys.some(j => j.kind === 'command'))
    left.value = await api('leftovers', { run: run.line.id }).catch(() => [])
})
const address = ({ generator, group, name }: LeftoverLine) =>
  hrefTo('leftover', { run: run.line.id, generator, group, name })
</script>

<template>
  <section v-if="left.length">
    <h2>Brought back</h2>
    <ul>
      <li v-for="l in left" :key="`${l.generator} ${l.group} ${l.name}`">
        <b>{{ run.generators[l.generator]?.name }}</b> <a
          class="file"
          :href="address(l)"
          download
        >{{ l.name }}</a> <span class="q">{{ bytes(l.bytes) }}, {{ l.group }}</span>
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

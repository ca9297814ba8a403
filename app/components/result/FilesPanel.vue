<script setup lang="ts">
/** What a run measured as files, in formats that other programs read. */
import { DIMENSIONS, type Dimension } from '~~/core/result/slices'
import type { RunView } from '~~/api/views'
import { DIMENSION_WORDS } from './slice-names'

const { run } = defineProps<{ run: RunView }>()
const me = useMe()
const by = ref<Dimension>('step')
const files = computed(() => {
  const at = { run: run.line.id }
  return [
    {
      name: `Every second by ${DIMENSION_WORDS[by.value].one}, CSV`,
      href: hrefTo('secondsCsv', { ...at, by: by.value }),
      says: 'counts, percentiles and bytes of each second, one row each (RFC 4180)',
    },
    {
      name: `Every second by ${DIMENSION_WORDS[by.value].one}, JSON Lines`,
      href: hrefTo('secondsJsonLines', { ...at, by: by.value }),
      says: 'the same, one object a line',
    },
    {
      name: `Figures by ${DIMENSION_WORDS[by.value].one}, CSV`,
      href: hrefTo('figuresCsv', { ...at, rows: by.value }),
      says: 'of the whole run, a row each; two at once, and any window, by the API (RFC 4180)',
    },
    {
      name: 'All figures, OpenMetrics',
      href: hrefTo('runMetrics', at),
      says: 'by step and location, also while it loads: a metrics server can read this address (OpenMetrics 1.0)',
    },
    {
      name: 'Response times, histogram log',
      href: hrefTo('histograms', at),
      says: 'all right answers by step and ten seconds, to the histogram’s bin (histogram log V2)',
    },
    {
      name: 'Kept exchanges, HAR',
      href: hrefTo('runHar', at),
      says: 'as sent and received, secrets masked: the slowest 2 000 at most (HAR 1.2)',
    },
    {
      name: 'All of it, archive',
      href: hrefTo('runArchive', at),
      says: 'documents, frames, ledger and exchanges: another Vornak opens it as the same run (tar, gzip)',
    },
    {
      name: 'Objectives, JUnit XML',
      href: hrefTo('runJunit', at),
      says: 'a test case per objective and level, for a release pipeline',
    },
  ]
})
</script>

<template>
  <div>
    <AskLine>
      <label>every second by <PickOne
        v-model="by"
        size="sm"
        aria-label="Every second by"
        :items="DIMENSIONS.map(d => ({ value: d, label: DIMENSION_WORDS[d].one }))"
      /></label>
      <UButton v-if="me.may('operator')" size="sm" variant="link" :to="`/runs/elsewhere?joins=${run.line.id}`">Join results from elsewhere to it</UButton>
    </AskLine>
    <ul class="files">
      <li v-for="f in files" :key="f.href">
        <a class="file" :href="f.href" download>{{ f.name }}</a> <span class="q">{{ f.says }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.files {
  display: grid;
  gap: 4px;
  font-size: 12.5px;
  padding: 2px 0 4px;
}
.file {
  color: var(--act);
  font-weight: 620;
  text-decoration: underline;
  text-underline-offset: 2px;
}
</style>

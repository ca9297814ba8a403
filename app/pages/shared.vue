<script setup lang="ts">
/**
 * What a link opens, for anyone who has no account here: a run as it stands, and its report; or runs beside each other.
 */
import { useIntervalFn, useNow } from '@vueuse/core'
import type { ApiProblem, SharedView } from '~~/api/views'
import type { Wall } from '~~/core/result/wall'
import ReportSheet from '~/components/report/ReportSheet.vue'
import WallSheet from '~/components/run/WallSheet.vue'
import { dayTime } from '~/format/moments'

/** A run under way is looked at so often, ms. */
const LOOK_MS = 2000

definePageMeta({ layout: 'bare' })
/** Behind the #: it is sent to nobody but the server, and stands in no log of an address. */
const secret = useRoute().hash.slice(1)
const now = useNow({ interval: 1000 })
const view = ref<SharedView>()
const wall = ref<Wall>()
const html = ref('')
const { problem: met, guarded, reading } = useGuarded()
/** It is none that is open, or none at all. */
const isOver = computed(() => met.value?.code === 'sign-in' || met.value?.code === 'role')
const problem = computed((): ApiProblem | undefined =>
  isOver.value
    ? {
        code: 'sign-in',
        sentence: 'This link opens nothing: it has come to its end, or was taken back.',
        remedy: 'Ask the person who sent it for another.',
      }
    : met.value)
async function ask<T>(operation: 'shared' | 'sharedWall'): Promise<T> {
  // As the table of the API says of that operation.
  return (await (await apiByLink(operation, secret)).json()) as T
}
const look = () => guarded(async () => {
  const wasOver = wall.value?.isOver
  wall.value = await ask<Wall>('sharedWall')
  if (wall.value.isOver && wasOver === false) await open()
})
async function open(): Promise<void> {
  view.value = await ask<SharedView>('shared')
  if (view.value.hasAnswer) html.value = await (await apiByLink('sharedHtml', secret)).text()
}
void reading(async () => {
  await open()
  if (view.value?.kind === 'run') await look()
})
useIntervalFn(() => void (view.value?.kind === 'run' && !wall.value?.isOver && !isOver.value && look()), LOOK_MS)

const isFetching = ref(false)
/** A file as the browser keeps it: a link of its own could not carry the name of the one who asks. */
const fetchFile = (operation: 'sharedPdf' | 'sharedHtml' | 'sharedHar') => guarded(async () => {
  isFetching.value = true
  try {
    const answer = await apiByLink(operation, secret)
    const name = /filename="([^"]+)"/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? 'vornak'
    keepFile(decodeURIComponent(name), await answer.blob())
  }
  finally {
    isFetching.value = false
  }
})
const title = computed(() => view.value?.runs.map(r => r.name).join(' against ') ?? 'Shared with you')
useHead({ title: () => `${title.value} · Vornak`, meta: [{ name: 'referrer', content: 'no-referrer' }] })
</script>

<template>
  <div class="shared" :class="{ sheets: html }">
    <div v-if="problem || !(html || wall)" class="pad">
      <h1>{{ title }}</h1>
      <ProblemNote v-if="problem" :problem="problem" />
    </div>
    <template v-if="view && !isOver">
      <WallSheet v-if="wall && !wall.isOver" :wall="wall" :now="now.getTime()" />
      <template v-else-if="html">
        <header class="line s12">
          <h1>{{ title }}</h1>
          <span class="q">shared with you until {{ dayTime(view.endsAt, now.getTime()) }}</span>
          <UButton size="sm" :loading="isFetching" @click="fetchFile('sharedHtml')">One file (HTML)</UButton>
          <UButton size="sm" :loading="isFetching" @click="fetchFile('sharedPdf')">PDF</UButton>
          <UButton v-if="view.hasExchanges" size="sm" :loading="isFetching" @click="fetchFile('sharedHar')">Exchanges (HAR)</UButton>
        </header>
        <ReportSheet :html="html" :title="title" />
      </template>
      <p v-else-if="!view.hasAnswer && view.kind !== 'run'" class="pad q" role="status">
        {{ view.runs[0]!.question }} — there is no answer yet. Come back when the run has settled.
      </p>
      <p v-else class="pad q" role="status">{{ view.hasAnswer ? 'Making the report…' : 'Reading…' }}</p>
    </template>
    <p v-else-if="!problem" class="pad q" role="status">Opening…</p>
  </div>
</template>

<style scoped>
.pad {
  max-width: 900px;
  padding: 12px;
}
.sheets {
  height: 100vh;
  display: flex;
  flex-direction: column;
}
.sheets > :deep(.sheet) {
  flex: 1;
  min-height: 0;
}
header {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 12px;
  border-bottom: 1px solid var(--hair);
}
h1 {
  font-size: 14px;
  font-weight: 620;
}
header .q {
  margin-right: auto;
}
</style>

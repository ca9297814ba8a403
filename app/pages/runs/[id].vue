<script setup lang="ts">
/** One run: under way or over. */
import { useIntervalFn } from '@vueuse/core'

const route = useRoute()
const live = useLive()
const store = useRun()
const open = () => void store.open(Number(route.params.id))
onMounted(open)
watch(() => route.params.id, open)
onUnmounted(() => live.watch(undefined))
// Whatever word of it was lost on the way: what is shown of a run under way is never older than this.
useIntervalFn(() => void (store.view && !store.ended && store.reload()), 5000)
live.onNews((news) => {
  if (news.kind === 'seconds' && news.runId === store.id) store.take(news.seconds)
  if ((news.kind === 'run' && news.runId === store.id) || (news.kind === 'fleet' && !store.ended)) void store.reload()
})
useHead({ title: () => `Run ${route.params.id} · Vornak` })
</script>

<template>
  <div class="page">
    <ProblemNote v-if="store.problem" :problem="store.problem" class="trouble" />
    <ResultScreen v-if="store.view && store.ended" />
    <RunScreen v-else-if="store.view" />
    <p v-else-if="!store.problem" class="q wait">Reading run {{ route.params.id }}…</p>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  min-height: 0;
  position: relative;
}
.trouble {
  margin: 8px 12px;
}
.wait {
  padding: 14px;
}
</style>

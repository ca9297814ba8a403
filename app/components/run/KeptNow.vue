<script setup lang="ts">
/** Exchanges as they are kept, the newest first; one opens as it was sent and received. */
import type { RunView } from '~~/api/views'
import { FAILURE_WORDS } from '~~/core/journey/failure-kinds'
import { count, timeText } from '~~/core/values/said-figures'
import { runTime } from '~/format/moments'

const ExchangeView = ownPart(() => import('../journey/ExchangeView.vue'))
const { run } = defineProps<{ run: RunView }>()
const store = useRun()
const EVERY_S = 3
/** Those listed. */
const MOST = 12

const { found } = useNewestAnswer(
  () => ({ run: run.line.id, at: Math.floor(store.secondNow / EVERY_S) }),
  ({ run }) => api('exemplars', { run, newest: true, most: MOST }),
)
const records = computed(() => found.value?.records ?? [])
/** Held while it is looked at: the list goes on. */
const open = shallowRef<(typeof records.value)[number]>()
const isOpen = computed({
  get: () => open.value !== undefined,
  set: (is) => {
    if (!is) open.value = undefined
  },
})
</script>

<template>
  <div>
    <p v-if="found && records.length === 0" class="q s12">None was kept yet.</p>
    <ul v-else class="kept" aria-label="Exchanges as they are kept">
      <li v-for="r in records" :key="r.id">
        <UButton size="xs" variant="ghost" class="one" @click="open = r">
          <AGlyph
            :name="r.failure === undefined ? 'held' : 'broken'"
            :class="r.failure === undefined ? 'moss' : 'brick'"
            :word="r.failure === undefined ? 'right' : 'failed'"
          /><span class="q">{{ runTime(r.endedAtMs / 1000) }}</span><span class="clip"><b>{{ r.step }}</b> {{ r.failure ? FAILURE_WORDS[r.failure] : '' }}</span><span class="num"><span class="q">{{ r.answer?.status }}</span>&ensp;{{ timeText(r.timings.wholeMs) }}</span>
        </UButton>
      </li>
    </ul>
    <p v-if="found && found.total > records.length" class="q s11">{{ count(found.total) }} kept so far</p>
    <UModal v-model:open="isOpen" title="An exchange that was kept" :ui="{ content: 'w-[900px] max-w-[96vw]' }">
      <template #body><ExchangeView v-if="open" :record="open" /></template>
    </UModal>
  </div>
</template>

<style scoped>
.kept {
  display: grid;
}
.one {
  display: grid;
  grid-template-columns: 14px 52px minmax(0, 1fr) auto;
  gap: 6px;
  width: 100%;
  justify-content: stretch;
  text-align: left;
  font-weight: 400;
}
</style>

<script setup lang="ts">
/** A run on a wall, or in a call. */
import { useIntervalFn } from '@vueuse/core'
import WallSheet from '~/components/run/WallSheet.vue'

/** It is looked at so often, ms. */
const LOOK_MS = 1000

definePageMeta({ layout: 'bare', validate: ({ params }) => /^\d{1,9}$/.test(String(params.id)) })
const live = useLive()
onMounted(() => live.begin())
const route = useRoute()
const { problem, read } = useGuarded()
const { found: wall, load } = read('wall', { run: Number(route.params.id) })
useIntervalFn(() => void (!wall.value?.isOver && load()), LOOK_MS)
useHead({ title: () => `Watching run ${String(route.params.id)} · Vornak` })
</script>

<template>
  <div>
    <ProblemNote v-if="problem" :problem="problem" />
    <WallSheet v-if="wall" :wall="wall" :now="live.controllerNow">
      <NuxtLink :to="`/runs/${wall.run}`" class="u">All of run {{ wall.run }}</NuxtLink>
    </WallSheet>
    <p v-else-if="!problem" class="q">Reading run {{ route.params.id }}…</p>
  </div>
</template>

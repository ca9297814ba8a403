<script setup lang="ts">
/** How a program sends figures to a source: its token, which is shown once, and what to write. */
import { dayTime } from '~/format/moments'

const { targetId, source, isSaved } = defineProps<{ targetId: string, source: string, isSaved: boolean }>()
const live = useLive()
const copy = useCopy()
const { problem, guarded, read } = useGuarded()
const { found: tokens, load } = read('sourceTokens', { target: targetId })
const kept = computed(() => tokens.value?.find(t => t.source === source))
const made = ref<string>()
const make = () => guarded(async () => {
  made.value = (await api('newSourceToken', { target: targetId }, { source })).token
  await load()
})
const takeBack = () => guarded(async () => {
  await api('endSourceToken', { target: targetId }, { source })
  made.value = undefined
  await load()
})
const base = computed(() => `${location.origin}/api/sent`)
const example = computed(
  () => `echo "open_connections 12" | curl --data-binary @- -H "Authorization: Bearer ${made.value ?? 'TOKEN'}" -H "Content-Type: text/plain" ${base.value}/lines`,
)
</script>

<template>
  <div class="sent s12">
    <ProblemNote v-if="problem" :problem="problem" />
    <p v-if="kept">
      Its token is of {{ dayTime(kept.createdAt, live.controllerNow) }},
      {{ kept.usedAt === undefined ? 'and was not used yet' : `used last ${dayTime(kept.usedAt, live.controllerNow)}` }}.
      <UButton v-needs="'operator'" size="sm" variant="link" @click="make">Make another</UButton>
      <UButton v-needs="'operator'" size="sm" variant="link" @click="takeBack">Take it back</UButton>
    </p>
    <p v-else>
      Nobody can send to it yet.
      <UButton v-needs="'operator'" size="sm" :aria-disabled="!isSaved" @click="isSaved && make()">Make a token</UButton>
      <span v-if="!isSaved" class="q">Save the target first.</span>
    </p>
    <p v-if="made">
      <b class="font-mono">{{ made }}</b>
      <UButton size="sm" variant="link" @click="copy(made, 'the token')">Copy</UButton>
      <span class="q">It is shown this once.</span>
    </p>
    <p class="q">
      Lines “name value”, with labels and its moment where it has them:
      <code class="font-mono">{{ example }}</code>
      <UButton size="sm" variant="link" @click="copy(example, 'the line')">Copy</UButton>
    </p>
    <p class="q">
      Or metrics in the open telemetry protocol, over HTTP, as JSON or protobuf, to
      <code class="font-mono">{{ base }}/v1/metrics</code>, with the same header.
    </p>
  </div>
</template>

<style scoped>
.sent {
  display: grid;
  gap: 2px;
}
code {
  overflow-wrap: anywhere;
}
</style>

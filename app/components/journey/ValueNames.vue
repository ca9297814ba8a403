<script setup lang="ts">
/** The values texts can name here, to be copied with a click: captured before, from feeds, of the target, made up. */
import { isBundle, STAGES } from '~~/core/journey/journey'
import { targetValueNames } from '~~/core/journey/target'

const store = useJourney()
const names = computed(() => {
  const journey = store.http
  if (!journey) return []
  const captured = STAGES.flatMap(s => journey[s].flatMap(x => (isBundle(x) ? x.requests : [x]))).flatMap(p =>
    (p.capture ?? []).map(c => c.name),
  )
  const rows = (journey.feeds ?? []).flatMap(f =>
    (store.view?.feeds.find(x => x.id === f.feed)?.columns ?? []).map(c => `${f.as}.${c}`),
  )
  const target = store.target ? targetValueNames(store.target).map(n => `target.${n}`) : []
  return [
    ...new Set([
      ...captured,
      ...rows,
      ...target,
      'user.number',
      'pass.number',
      'random.integer(1, 100)',
      'random.uuid',
      'sequence.n',
      'now.iso',
    ]),
  ]
})
const copy = useCopy()
</script>

<template>
  <p class="names s11">
    <span class="q">Texts can name</span> <UButton
      v-for="n in names"
      :key="n"
      size="sm"
      variant="link"
      class="mono"
      :title="`Copy {{${n}}}`"
      @click="copy(`{{${n}}}`, `{{${n}}}`)"
    >
      {{ n }}
    </UButton>
  </p>
</template>

<style scoped>
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 1px 8px;
  margin: -2px 0 4px;
}
.mono {
  font-size: 11px;
  color: var(--act);
  cursor: pointer;
}
.mono:hover {
  text-decoration: underline;
}
</style>

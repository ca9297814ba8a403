<script setup lang="ts">
/** When objectives were broken: how often, how long, and each stretch with its worst. A stretch is chosen as window. */
import { sayValue } from '~~/core/objectives/judge'
import { nameOf } from '~~/core/objectives/sentence'
import type { BrokenStretch } from '~~/core/result/stretches'
import type { RunDocument } from '~~/core/run/document'
import { count } from '~~/core/values/said-figures'
import { duration, runTime } from '~/format/moments'

const { stretches, document } = defineProps<{ stretches: readonly BrokenStretch[], document: RunDocument }>()
const emit = defineEmits<{ choose: [window: { fromS: number, toS: number }] }>()

/** More than these are shown when they are asked for. */
const FEW = 4
const all = ref(false)
const lengthOf = (of: readonly BrokenStretch[]) => of.reduce((sum, s) => sum + s.toS - s.fromS, 0)
const times = (n: number) => (n === 1 ? 'once' : n === 2 ? 'twice' : `${count(n)} times`)
const judged = computed(() => stretches.filter(s => s.judged))
const others = computed(() => stretches.filter(s => !s.judged))
const said = computed(() => {
  const within = judged.value.length > 0
    ? `Broken ${times(judged.value.length)} where it is judged, ${duration(lengthOf(judged.value) * 1000)} in all`
    : 'Nowhere broken where it is judged'
  return others.value.length > 0
    ? `${within}; ${times(others.value.length)} elsewhere, ${duration(lengthOf(others.value) * 1000)}.`
    : `${within}.`
})
/** Judged ones first; within, the longest. */
const ranked = computed(() =>
  [...stretches].sort((a, b) => Number(b.judged) - Number(a.judged) || b.toS - b.fromS - (a.toS - a.fromS)))
const shown = computed(() => {
  const few = all.value ? ranked.value : ranked.value.slice(0, FEW)
  return [...few].sort((a, b) => a.fromS - b.fromS)
})
const objectiveOf = (s: BrokenStretch) => document.plan.objectives[s.objective]!
</script>

<template>
  <section v-if="stretches.length" aria-label="Broken stretches" class="stretches">
    <p><b :class="{ brick: judged.length }">{{ said }}</b></p>
    <ul>
      <li v-for="s in shown" :key="`${s.objective} ${s.fromS}`">
        <span class="bar" :class="{ hollow: !s.judged }" />
        <UButton size="xs" variant="link" class="when" @click="emit('choose', { fromS: s.fromS, toS: s.toS })">
          {{ runTime(s.fromS) }} to {{ runTime(s.toS) }}
        </UButton>
        <span class="clip">{{ nameOf(objectiveOf(s), document.journeys) }} at worst
          <b class="brick">{{ sayValue(objectiveOf(s), s.worst) }}</b>
          <span class="q"> from {{ runTime(s.worstFromS) }} to {{ runTime(s.worstToS) }}<template v-if="s.users !== undefined">, {{ count(s.users) }} users</template><template v-if="!s.judged">, not judged</template></span></span>
      </li>
    </ul>
    <UButton v-if="stretches.length > FEW" size="xs" variant="link" @click="all = !all">
      {{ all ? 'fewer' : `all ${stretches.length}` }}
    </UButton>
  </section>
</template>

<style scoped>
.stretches {
  font-size: 12.5px;
  margin-bottom: 8px;
}
.stretches ul {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 5px 16px;
}
.stretches li {
  display: flex;
  gap: 6px;
  align-items: baseline;
  white-space: nowrap;
  min-width: 0;
}
.when {
  padding: 0;
}
.bar {
  flex: none;
  width: 14px;
  height: 6px;
  background: var(--brick);
  border: 1.5px solid var(--brick);
}
.bar.hollow {
  background: transparent;
}
@media (max-width: 900px) {
  .stretches ul {
    grid-template-columns: 1fr;
  }
}
</style>

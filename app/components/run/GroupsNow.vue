<script setup lang="ts">
/** Users of each group: present in the newest second that is known, of those planned there. */
import type { RunView, SecondFigures } from '~~/api/views'
import { isByPlan } from '~~/core/load/drive'
import { levelAt } from '~~/core/load/profile'
import { latestKnown } from '~~/core/merge/second-figures'
import { count } from '~~/core/values/said-figures'

const { run, seconds } = defineProps<{ run: RunView, seconds: (SecondFigures | undefined)[] }>()
const latest = computed(() => latestKnown(seconds))
const endMs = computed(() => ((latest.value?.second ?? -1) + 1) * 1000)
const groups = computed(() =>
  run.document.plan.groups.map((group, i) => ({
    letter: group.letter,
    name: group.name,
    present: latest.value?.usersByGroup[i] ?? 0,
    // At the end of the second, as those present are counted.
    planned: isByPlan(group) ? Math.round(levelAt(group.profile, endMs.value)) : undefined,
  })),
)
</script>

<template>
  <ul class="groups" aria-label="Users by group">
    <li v-for="g in groups" :key="g.letter">
      <GroupTag :letter="g.letter" /><span class="clip">{{ g.name }}</span><span class="num"><b>{{ count(g.present) }}</b><template
        v-if="g.planned !== undefined"
      > of <span class="plantx">{{ count(g.planned) }}</span></template></span>
    </li>
  </ul>
</template>

<style scoped>
.groups {
  display: grid;
  gap: 3px;
  max-height: 116px;
  overflow: auto;
}
.groups li {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 6px;
  align-items: center;
  font-size: 12.5px;
}
</style>

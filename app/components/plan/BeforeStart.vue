<script setup lang="ts">
/** What is in the way, what weakens the answer, what is good to know: each with its remedy. */
import type { Fix, Problem } from '~~/core/checks/problem'
import { basisPoints } from '~~/core/values/said-figures'

const { problems } = defineProps<{ problems: Problem[] }>()
const emit = defineEmits<{ fix: [fix: Fix] }>()
const counted = computed(() =>
  (['inTheWay', 'costsSoundness', 'toKnow'] as const).map(w => problems.filter(p => p.weight === w).length),
)
const tone = { inTheWay: 'brick', costsSoundness: 'plantx', toKnow: 'q' } as const
const first = computed(() => problems.find(p => p.fix))

const fixes = (problem: Problem) => [...(problem.fix ? [problem.fix] : []), ...(problem.others ?? [])]
function word(fix: Fix): string {
  if (fix.kind === 'giveShare')
    return fix.bp > 0
      ? `Give ${basisPoints(fix.bp)} to ${fix.location}`
      : `Take ${basisPoints(-fix.bp)} from ${fix.location}`
  if (fix.kind === 'setMachines') return fix.machines === 'auto' ? 'Size it' : `Take ${fix.machines}`
  if (fix.kind === 'ramp') return `Ramp ${fix.overMs / 1000} s`
  if (fix.kind === 'setSizing')
    return fix.allThrough
      ? 'All through'
      : fix.spares !== undefined
        ? fix.spares === 0
          ? 'No spares'
          : `${fix.spares} spares`
        : fix.headroom !== undefined
          ? `Headroom ${Math.round(fix.headroom * 100)} %`
          : 'Allow more interruptible'
  if (fix.kind === 'takeFrom') return `Half of ${fix.from}`
  if (fix.kind === 'removeLocation') return `Remove ${fix.location}`
  return {
    rehearse: 'Rehearse',
    readTarget: 'Read the target’s own figures',
    spreadEvenly: 'Spread evenly',
    clearNetwork: 'Take the network away',
    clearClients: 'Take the clients away',
    dropPasses: 'Take passes away',
    openJourney: 'Open the journey',
    approve: 'Approval…',
    calibrate: 'Calibrate',
  }[fix.kind]
}
</script>

<template>
  <section>
    <div class="top">
      <h2>Before you start</h2>
      <span v-if="!problems.length" class="q">nothing in the way</span>
      <span v-else><b v-if="counted[0]" class="brick">{{ counted[0] }} in the way</b><span v-else>nothing in the way</span><template v-if="counted[1]">, {{ counted[1] }} {{ counted[1] === 1 ? 'weakens' : 'weaken' }} the answer</template><template v-if="counted[2]">, {{ counted[2] }} good to know</template></span>
      <span class="spring" /><span v-if="first" class="q"><UKbd>f</UKbd> fix the first</span>
    </div>
    <ul class="list">
      <li v-for="p in problems" :key="p.code + p.group + p.location + p.sentence">
        <AGlyph
          :name="p.weight"
          :class="tone[p.weight]"
          :word="{ inTheWay: 'in the way', costsSoundness: 'weakens the answer', toKnow: 'good to know' }[p.weight]"
        />
        <span
          class="clip"
          :title="`${p.sentence} ${p.remedy}`"
        ><b>{{ p.sentence }}</b> <span class="q">{{ p.remedy }}</span></span>
        <UButton
          v-for="(fix, i) in fixes(p)"
          :key="word(fix)"
          size="sm"
          :variant="p === first && i === 0 && p.weight === 'inTheWay' ? 'solid' : undefined"
          @click="emit('fix', fix)"
        >
          {{ word(fix) }}<span v-if="p.price && i === 0" class="price"> · {{ p.price }}</span>
        </UButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
section {
  min-height: 0;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.top {
  display: flex;
  gap: 14px;
  align-items: center;
  min-height: 24px;
  white-space: nowrap;
  flex-wrap: wrap;
}
.spring {
  flex: 1;
}
.list {
  overflow: auto;
  min-height: 0;
}
li {
  min-height: 28px;
  display: flex;
  align-items: center;
  gap: 8px;
  border-top: 1px solid var(--hair);
  font-size: 12.5px;
}
li .clip {
  flex: 1;
}
.price {
  font-weight: 400;
}
</style>

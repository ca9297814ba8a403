<script setup lang="ts">
/** What is in the way, what costs soundness, what is good to know: each with its remedy. */
import type { Problem } from '~~/core/checks/problem'
import { basisPoints } from '~/format/figures'

const { problems } = defineProps<{ problems: Problem[] }>()
const emit = defineEmits<{ mend: [problem: Problem] }>()
const counted = computed(() =>
  (['inTheWay', 'costsSoundness', 'toKnow'] as const).map(w => problems.filter(p => p.weight === w).length),
)
const tone = { inTheWay: 'brick', costsSoundness: 'plantx', toKnow: 'q' } as const
const first = computed(() => problems.find(p => p.mend))

function word(problem: Problem): string {
  const mend = problem.mend!
  if (mend.kind === 'giveShare')
    return mend.bp > 0
      ? `Give ${basisPoints(mend.bp)} to ${mend.location}`
      : `Take ${basisPoints(-mend.bp)} from ${mend.location}`
  if (mend.kind === 'setMachines') return mend.machines === 'auto' ? 'Size it' : `Take ${mend.machines}`
  if (mend.kind === 'ramp') return `Ramp ${mend.overMs / 1000} s`
  if (mend.kind === 'setSizing')
    return mend.allThrough
      ? 'All through'
      : mend.spares !== undefined
        ? mend.spares === 0
          ? 'No spares'
          : `${mend.spares} spares`
        : mend.headroom !== undefined
          ? `Headroom ${Math.round(mend.headroom * 100)} %`
          : 'Allow more interruptible'
  if (mend.kind === 'removeLocation') return `Remove ${mend.location}`
  return {
    rehearse: 'Rehearse',
    clearNetwork: 'Take the network away',
    dropPasses: 'Take passes away',
    openJourney: 'Open the journey',
    approve: 'Approval…',
    calibrate: 'Calibrate',
  }[mend.kind]
}
</script>

<template>
  <section>
    <div class="top">
      <h2>Before you start</h2>
      <span v-if="!problems.length" class="q">nothing in the way</span>
      <span v-else
      ><b v-if="counted[0]" class="brick">{{ counted[0] }} in the way</b><span v-else>nothing in the way</span
      ><template v-if="counted[1]">, {{ counted[1] }} {{ counted[1] === 1 ? 'costs' : 'cost' }} soundness</template
      ><template v-if="counted[2]">, {{ counted[2] }} to know</template></span
      >
      <span class="spring" /><span v-if="first" class="q"><kbd>m</kbd> mend the first</span>
    </div>
    <ul class="list">
      <li v-for="p in problems" :key="p.code + p.group + p.location + p.sentence">
        <AGlyph
          :name="p.weight"
          :class="tone[p.weight]"
          :word="{ inTheWay: 'in the way', costsSoundness: 'costs soundness', toKnow: 'to know' }[p.weight]"
        />
        <span class="clip" :title="`${p.sentence} ${p.remedy}`"
        ><b>{{ p.sentence }}</b> <span class="q">{{ p.remedy }}</span></span
        >
        <button
          v-if="p.mend"
          class="btn sm"
          :class="{ act: p === first && p.weight === 'inTheWay' }"
          @click="emit('mend', p)"
        >
          {{ word(p) }}<span v-if="p.price" class="price"> · {{ p.price }}</span>
        </button>
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
  height: 24px;
  white-space: nowrap;
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

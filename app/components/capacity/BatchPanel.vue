<script setup lang="ts">
/** A batch of calibrations: what it is at, since when, how each item stands, and the way to its figures. */
import type { CalibrationBatchView, CapacitiesView } from '~~/api/views'
import { RUN_WORDS } from '~~/core/run/life'
import { ITEM_WORDS, STEP_WORDS } from '~/format/capacity'
import { count } from '~~/core/values/said-figures'
import { dayTime, runTime } from '~/format/moments'

const { batch, view } = defineProps<{ batch: CalibrationBatchView, view: CapacitiesView }>()
const emit = defineEmits<{ stop: [] }>()
const live = useLive()
const { armed, press } = useTwice()
const journeyName = (id: string) => view.journeys.find(j => j.id === id)?.name ?? id
const networkName = (id: string) =>
  id === 'direct' ? 'no network added' : (view.networks.find(n => n.id === id)?.name ?? id)
const second = computed(() =>
  batch.run?.startAt === undefined ? undefined : Math.max(0, (live.controllerNow - batch.run.startAt) / 1000),
)
</script>

<template>
  <section class="panel pad" :aria-label="`Calibration ${batch.id}`">
    <div class="top">
      <h2>Calibration {{ batch.id }}</h2>
      <span class="q">{{ dayTime(batch.createdAt, live.controllerNow) }}, {{ batch.wish.region }},
        {{ batch.wish.sink ? 'built-in sink' : 'the target itself'
        }}{{ batch.wish.machines > 1 ? `, ${batch.wish.machines} machines of each` : '' }}</span>
      <span class="spring" />
      <UButton v-if="!batch.endedAt" v-needs="'operator'" size="sm" color="error" @click="press(() => emit('stop'))">
        {{ armed ? 'Stop it, and release its machine' : 'Stop…' }}
      </UButton>
    </div>
    <p v-if="batch.run" class="now">
      <NuxtLink
        :to="`/fleet/capacity/batch-${batch.id}`"
        class="u"
      ><b>{{ RUN_WORDS[batch.run.state] }}</b></NuxtLink>
      <template v-if="batch.seen?.step">
        · {{ count(batch.seen.step.users) }} users, {{ STEP_WORDS[batch.seen.step.kind] }}, until
        {{ runTime(batch.seen.step.toS)
        }}<span
          v-if="batch.seen.step.aside > 0"
          class="plantx"
          title="Seconds in which neighbours took CPU of the machine are not used; levels last longer instead, up to 2 min in all."
        >
          · {{ batch.seen.step.aside }} s set aside: neighbours took CPU</span></template>
      <span v-if="second !== undefined" class="q">
        · {{ runTime(second) }}, usually 2 to 4 min in all, more where its seconds scatter ·
        <NuxtLink :to="`/runs/${batch.run.id}`" class="u">run {{ batch.run.id }}</NuxtLink></span>
    </p>
    <ul>
      <li v-for="item in batch.items" :key="item.journeyId + item.machineType + item.network">
        <span class="word" :class="{ brick: item.state === 'failed' }">{{
          item.problem && item.state === 'done' ? 'inconclusive' : ITEM_WORDS[item.state]
        }}</span>
        <span class="what"><b>{{
                             item.network === 'mix' ? `The mix of ${batch.wish.verify?.location}` : journeyName(item.journeyId)
                           }}</b>
          on {{ item.machineType }}<template v-if="item.network !== 'mix'">, {{ networkName(item.network) }}</template><template v-if="item.runIds.length > 1">, begun {{ item.runIds.length }} times</template>
          <span v-if="item.verdict" class="q"> {{ item.verdict.sentence }}</span><span v-if="item.problem" class="q">
            {{ item.problem }}</span></span>
        <NuxtLink v-if="item.capacityId" :to="`/fleet/capacity/${item.capacityId}`" class="u">figures</NuxtLink>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.pad {
  padding: 8px 12px;
}
.top {
  display: flex;
  gap: 10px;
  align-items: center;
}
.spring {
  flex: 1;
}
.now {
  margin-top: 4px;
}
li {
  display: grid;
  grid-template-columns: 88px 1fr auto;
  gap: 8px;
  border-top: 1px solid var(--hair);
  padding: 4px 0;
  font-size: 12.5px;
}
ul {
  margin-top: 6px;
}
</style>

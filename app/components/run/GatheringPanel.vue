<script setup lang="ts">
/**
 * A run that gathers its machines: how far each location is, what it waits for and since when, and the ways out of
 * waiting.
 */
import type { ListColumn } from '../marks/list-table'
import type { GatheringView } from '~~/api/views'
import { share } from '~~/core/values/said-figures'
import { duration } from '~/format/moments'
import { MACHINE_WORDS } from '~~/core/run/machine-life'

const { gathering } = defineProps<{ gathering: GatheringView, cost: string }>()
const emit = defineEmits<{ go: [] }>()
const live = useLive()
const there = computed(() => gathering.orders.reduce((sum, o) => sum + o.there, 0))
const wanted = computed(() => gathering.orders.reduce((sum, o) => sum + o.wanted, 0))
const short = computed(() => there.value < wanted.value)
const COLUMNS: ListColumn<GatheringView['orders'][number]>[] = [
  { id: 'location', head: '', value: o => o.location },
  { id: 'there', head: '', value: o => o.there },
  { id: 'waiting', head: '', wide: true, value: o => o.waiting.length },
  { id: 'usual', head: '', num: true, value: o => o.usualMs },
]
</script>

<template>
  <section class="panel pad" aria-label="Gathering">
    <div class="row">
      <h2 class="whole">{{ there }} of {{ wanted }} machines are there</h2>
      <span class="q clip">for {{ duration(live.controllerNow - gathering.since) }}; should they stay short, it gives up in
        {{ duration(gathering.deadlineAt - live.controllerNow) }} · {{ cost }} so far</span><span class="spring" />
      <UButton
        v-if="short"

        :aria-disabled="gathering.goFactor === undefined"
        :title="
          gathering.goFactor === undefined
            ? 'A location has no machine at all: without it the shares cannot be kept'
            : undefined
        "
        @click="gathering.goFactor !== undefined && emit('go')"
      >
        {{
          gathering.goFactor === undefined
            ? 'Cannot go yet: a location has nobody'
            : `Go with ${there}, load at ${share(gathering.goFactor, 0)}`
        }}
      </UButton>
    </div>
    <ListTable plain name="what is awaited" :rows="gathering.orders" :columns="COLUMNS" :row-key="o => gathering.orders.indexOf(o)">
      <template #location="{ row }"><LocationCode :code="row.location" /></template>
      <template #there="{ row }">
        <b>{{ row.there }}</b> of {{ row.wanted }} × {{ row.type }}
      </template>
      <template #waiting="{ row }">
        <div v-for="w in row.waiting" :key="w.name" class="clip" :class="{ brick: w.sentence !== '' }">
          {{ w.name }} {{ w.sentence === '' ? MACHINE_WORDS[w.state] : `waits: ${w.sentence}` }}
          <span class="q clip">for {{ duration(live.controllerNow - w.since) }}</span>
        </div>
        <span v-if="!row.waiting.length" class="q">all there</span>
      </template>
      <template #usual="{ row }"><span class="q">
        <template v-if="row.usualMs">usually {{ duration(row.usualMs) }}</template>
      </span></template>
    </ListTable>
  </section>
</template>

<style scoped>
.pad {
  padding: 8px 12px;
}
.row {
  display: flex;
  gap: 12px;
  align-items: center;
}
.spring {
  flex: 1;
}
.whole,
.loc {
  width: 56px;
}
.many {
  width: 130px;
  text-align: left !important;
}
.usual {
  width: 120px;
}
</style>

<script setup lang="ts">
/**
 * A run that gathers its machines: how far each location is, what it waits for and since when, and the ways out of
 * waiting.
 */
import type { GatheringView } from '~~/api/views'
import { share } from '~/format/figures'
import { duration } from '~/format/moments'
import { MACHINE_WORDS } from '~~/core/run/machine-life'

const { gathering } = defineProps<{ gathering: GatheringView, cost: string }>()
const emit = defineEmits<{ go: [] }>()
const live = useLive()
const there = computed(() => gathering.orders.reduce((sum, o) => sum + o.there, 0))
const wanted = computed(() => gathering.orders.reduce((sum, o) => sum + o.wanted, 0))
const short = computed(() => there.value < wanted.value)
</script>

<template>
  <section class="panel pad" aria-label="Gathering">
    <div class="row">
      <h2 class="whole">{{ there }} of {{ wanted }} machines are there</h2>
      <span class="q clip"
      >for {{ duration(live.controllerNow - gathering.since) }}; should they stay short, it gives up in
        {{ duration(gathering.deadlineAt - live.controllerNow) }} · {{ cost }} so far</span
      ><span class="spring" />
      <button
        v-if="short"
        class="btn"
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
      </button>
    </div>
    <table class="table">
      <tbody>
        <tr v-for="(o, i) in gathering.orders" :key="o.location + i">
          <td class="loc"><LocationCode :code="o.location" /></td>
          <td class="num many">
            <b>{{ o.there }}</b> of {{ o.wanted }} × {{ o.type }}
          </td>
          <td>
            <div v-for="w in o.waiting" :key="w.name" class="clip" :class="{ brick: w.sentence !== '' }">
              {{ w.name }} {{ w.sentence === '' ? MACHINE_WORDS[w.state] : `waits: ${w.sentence}` }}
              <span class="q clip">for {{ duration(live.controllerNow - w.since) }}</span>
            </div>
            <span v-if="!o.waiting.length" class="q">all there</span>
          </td>
          <td class="num q usual">
            <template v-if="o.usualMs">usually {{ duration(o.usualMs) }}</template>
          </td>
        </tr>
      </tbody>
    </table>
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
.row .btn {
  white-space: nowrap;
  flex: none;
}
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

<script setup lang="ts">
/** What a start would order, send and cost, before it does. */
import { count, euro } from '~~/core/values/said-figures'
import { clockTime, duration } from '~/format/moments'
import { machinesOf } from '~/format/sizing'
import { peakOfPlan } from '~~/core/plan/peak'

const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ start: [] }>()
const store = usePlan()
const live = useLive()
// It is offered only once the plan was checked.
const check = computed(() => store.check!)
const machines = computed(() => check.value.sizes.reduce((sum, s) => sum + machinesOf(s), 0))
const target = computed(() => store.view?.targets.find(t => t.id === store.plan?.targetId))
const peak = computed(() => (store.inUsers ? peakOfPlan(store.inUsers) : 0))
const endsAt = computed(() => live.controllerNow + (check.value.gatherS + check.value.lengthS) * 1000)

function start(): void {
  open.value = false
  emit('start')
}
</script>

<template>
  <UModal v-model:open="open" :title="`Start ${store.plan?.name}`" :description="store.plan?.question">
    <template #body>
      <ul class="says">
        <li>
          <b>{{ machines }} {{ machines === 1 ? 'machine is' : 'machines are' }} ordered</b>: about
          <b class="planned">{{ euro(check.forecast) }}</b> in all, {{ euro(check.perHour) }}/h while they are out.
        </li>
        <li>
          <b>Up to {{ count(peak) }} users</b> are sent to {{ target?.name }}, {{ target?.environment }}, for
          {{ duration(check.lengthS * 1000) }}.
        </li>
        <li>
          Gathering usually takes {{ duration(check.gatherS * 1000) }}; it would end about
          {{ clockTime(endsAt).slice(0, 5) }}.
        </li>
        <li v-if="store.changed" class="plantx">What was changed is saved first, as the next version.</li>
      </ul>
    </template>
    <template #footer>
      <UButton @click="open = false">Cancel</UButton>
      <UButton v-needs="'operator'" variant="solid" data-focus-first @click="start">Start: {{ euro(check.forecast) }}</UButton>
    </template>
  </UModal>
</template>

<style scoped>
.says {
  display: grid;
  gap: 4px;
}
</style>

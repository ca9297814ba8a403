<script setup lang="ts">
/** What this run's own load says of the capacities it was sized by: offered, never taken over in silence. */
import type { CapacitySuggestion } from '~~/core/soundness/suggestions'
import { count } from '~~/core/values/said-figures'

const { suggests, runId } = defineProps<{ suggests: CapacitySuggestion[], runId: number }>()
const { problem, guarded } = useGuarded()
const taken = ref<string[]>([])
async function take({ capacityId, suggests: users }: CapacitySuggestion): Promise<void> {
  if (await guarded(() => api('refineCapacity', {}, { capacityId, users, runId }))) taken.value.push(capacityId)
}
</script>

<template>
  <section class="band">
    <div class="bandh">
      <h2>Capacity</h2>
      <span class="q">as this run’s own load has it</span>
    </div>
    <ul class="panel pad across">
      <li v-if="problem"><ProblemNote :problem="problem" /></li>
      <li v-for="s in suggests" :key="s.capacityId">
        <span><NuxtLink
                :to="`/fleet/capacity/${s.capacityId}`"
                class="u"
              ><b>{{ s.journeyName }}</b> on {{ s.machineType }}</NuxtLink>
          {{ s.sentence }}</span>
        <span
          v-if="taken.includes(s.capacityId)"
          class="q"
          role="status"
        >Taken over: fleets are sized by {{ count(s.suggests) }} from now on.</span>
        <UButton v-else v-needs="'operator'" size="sm" @click="take(s)">Size by {{ count(s.suggests) }} from now on</UButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.bandh {
  display: flex;
  gap: 14px;
  align-items: center;
  height: 26px;
}
.pad {
  padding: 6px 12px;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  align-items: center;
  padding: 3px 0;
}
</style>

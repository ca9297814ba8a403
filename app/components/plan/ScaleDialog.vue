<script setup lang="ts">
/**
 * What the plan would need for more or fewer users: every level by one factor, seen before it is kept. Its table is our
 * own: now beside then, of users, machines and money, with nothing to sort.
 */
import { watchDebounced } from '@vueuse/core'
import type { PlanCheck } from '~~/api/views'
import { peakOfPlan } from '~~/core/plan/peak'
import { planInUsers } from '~~/core/plan/expected'
import { MOST_SCALED_USERS, scaledTo } from '~~/core/plan/scale'
import { count, euro } from '~~/core/values/said-figures'
import { machinesOf } from '~/format/sizing'

const open = defineModel<boolean>({ required: true })
const store = usePlan()
const users = ref<number>()
const after = ref<PlanCheck>()
const problem = ref('')

/** Pause after the last change before the scaled plan is checked, ms. */
const CHECK_AFTER_MS = 150
const peak = computed(() => (store.inUsers ? peakOfPlan(store.inUsers) : 0))
const scaled = computed(() =>
  users.value && store.plan && store.inUsers ? scaledTo(store.plan, store.inUsers, users.value) : undefined)
const inUsers = (plan: typeof store.plan) => plan && planInUsers(plan, store.view?.journeys ?? [])
const groups = computed(() => {
  const then = inUsers(scaled.value)
  return (store.plan?.groups ?? []).map(({ letter, name }) => {
    const peakIn = (plan: ReturnType<typeof inUsers>) =>
      plan ? peakOfPlan({ ...plan, groups: plan.groups.filter(g => g.letter === letter) }) : undefined
    return { letter, name, now: peakIn(store.inUsers), then: peakIn(then) }
  })
})
const machines = (check: PlanCheck | undefined) => check?.sizes.reduce((sum, s) => sum + machinesOf(s), 0)
const inTheWay = computed(() => after.value?.problems.filter(p => p.weight === 'inTheWay') ?? [])
const factor = computed({
  get: () => users.value && peak.value ? Number((users.value / peak.value).toPrecision(4)) : undefined,
  set: (n) => {
    if (n && n !== factor.value) users.value = Math.max(1, Math.round(peak.value * n))
  },
})

watch(open, (is) => {
  if (!is) return
  users.value = peak.value
  after.value = store.check
}, { immediate: true })
const newest = newestOnly()
watchDebounced(scaled, async (plan) => {
  if (!plan) return
  try {
    after.value = (await newest(() => api('checkPlan', {}, { plan }))) ?? after.value
    problem.value = ''
  }
  catch (error) {
    problem.value = problemOf(error).sentence
  }
}, { debounce: CHECK_AFTER_MS })

function keep(): void {
  const plan = scaled.value
  if (!plan) return
  open.value = false
  store.edit((p) => {
    p.groups = plan.groups
  })
}
</script>

<template>
  <UModal v-model:open="open" title="Scale the load" description="Every level by the same factor. Shapes, durations and shares stay as they are.">
    <template #body>
      <form id="scale" class="dialog-form" @submit.prevent="keep">
        <div class="pair">
          <UFormField label="Users at the peak" required>
            <NumberInput v-model="users" :min="1" :max="MOST_SCALED_USERS" whole data-focus-first />
          </UFormField>
          <UFormField label="which is times">
            <NumberInput v-model="factor" :min="0.001" :max="10_000" :step="0.5" />
          </UFormField>
        </div>
        <table class="tb" aria-label="What it would be">
          <thead><tr><th scope="col" class="left">at the peak</th><th scope="col" class="num">now</th><th scope="col" class="num">then</th></tr></thead>
          <tbody>
            <tr v-for="g in groups" :key="g.letter">
              <th scope="row">{{ g.letter }} {{ g.name }}</th>
              <td class="num">{{ count(g.now ?? 0) }}</td>
              <td class="num planned">{{ g.then === undefined ? '–' : count(g.then) }}</td>
            </tr>
            <tr>
              <th scope="row">machines</th>
              <td class="num">{{ machines(store.check) }}</td>
              <td class="num planned">{{ machines(after) ?? '–' }}</td>
            </tr>
            <tr>
              <th scope="row">cost, forecast</th>
              <td class="num">{{ euro(store.check?.forecast ?? 0) }}</td>
              <td class="num planned">{{ after ? euro(after.forecast) : '–' }}</td>
            </tr>
          </tbody>
        </table>
        <ul v-if="inTheWay.length" class="brick s12" role="status">
          <li v-for="p in inTheWay" :key="p.sentence">
            <AGlyph name="inTheWay" word="in the way" /> {{ p.sentence }} <span class="q">{{ p.remedy }}</span>
          </li>
        </ul>
        <p v-if="problem" class="brick s12" role="alert">{{ problem }}</p>
      </form>
    </template>
    <template #footer>
      <UButton @click="open = false">Cancel</UButton>
      <UButton variant="solid" type="submit" form="scale" :disabled="!scaled">
        Scale to {{ count(users ?? 0) }} users
      </UButton>
    </template>
  </UModal>
</template>

<style scoped>
.left,
th[scope="row"] {
  text-align: left;
  font-weight: 400;
}
</style>

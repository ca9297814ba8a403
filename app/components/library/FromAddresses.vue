<script setup lang="ts">
/**
 * From addresses to a first answer on one way: a journey, a target with what its owner has agreed to, a plan of a few
 * users from these places; tried with one user here before anything is ordered.
 */
import type { ApiProblem, TriedView } from '~~/api/views'
import { proposedApproval, type Target } from '~~/core/journey/target'
import type { RegionOffer } from '~~/core/offers/machine-type'
import { readUrls } from '~~/core/formats/pasted-urls'
import { count } from '~~/core/values/said-figures'
import { dayTime } from '~/format/moments'
import { present } from '~~/core/values/present'

const open = defineModel<boolean>({ required: true })
const live = useLive()
const text = ref('')
const ask = reactive({ users: 10, holdMs: 60_000, contact: '' })
const places = ref<string[]>([])
const targets = shallowRef<Target[]>([])
const offers = shallowRef<Record<string, RegionOffer[] | undefined>>({})
const problem = ref<ApiProblem>()
const busy = ref<'making' | 'trying'>()
const made = ref<{ journeyId: string, targetId: string, planId: string }>()
const tried = ref<TriedView>()

const LEAST_HOLD_MS = 10_000
const MOST_HOLD_MS = 86_400_000
const MOST_USERS = 1_000_000

watch(open, async (is) => {
  if (!is) return
  problem.value = undefined
  made.value = undefined
  tried.value = undefined
  try {
    const [known, rented] = await Promise.all([api('targets'), api('offers')])
    targets.value = known
    offers.value = rented
    places.value = offered.value.slice(0, 1).map(p => p.value)
  }
  catch (error) {
    problem.value = problemOf(error)
  }
}, { immediate: true })

const offered = computed(() =>
  Object.entries(offers.value).flatMap(([provider, regions]) =>
    (regions ?? []).map(r => ({
      value: `${provider}/${r.region}`,
      label: `${r.region}, ${provider}`,
      place: { provider, region: r.region },
    }))))
/** Where the first address stands, as far as it can be read yet. */
const origin = computed(() => {
  try {
    return readUrls(text.value)[0]!.origin
  }
  catch {
    return undefined
  }
})
const known = computed(() =>
  targets.value.find(t => origin.value !== undefined && new URL(t.baseUrl).origin === origin.value))
const approval = computed(() =>
  origin.value === undefined
    ? undefined
    : {
        ...proposedApproval({ baseUrl: origin.value }, live.controllerNow),
        mostUsers: ask.users,
        contact: ask.contact.trim(),
      })
const failed = computed(() => tried.value?.records.filter(r => r.failure !== undefined) ?? [])

async function begin(): Promise<void> {
  if (busy.value) return
  problem.value = undefined
  try {
    busy.value = 'making'
    made.value = await api('importAddresses', {}, {
      text: text.value,
      users: ask.users,
      holdS: Math.round(ask.holdMs / 1000),
      places: offered.value.filter(o => places.value.includes(o.value)).map(o => o.place),
      ...(approval.value && !known.value?.approval ? { approval: approval.value } : {}),
    })
    busy.value = 'trying'
    const { journey } = await api('journey', { journey: made.value.journeyId })
    tried.value = await api('tryJourney', {}, { journey, targetId: made.value.targetId })
    if (failed.value.length === 0 && !tried.value.problem) await toPlan()
  }
  catch (error) {
    problem.value = problemOf(error)
  }
  finally {
    busy.value = undefined
  }
}
/** Where it can be started: what that orders and costs is said there, and confirmed. */
async function toPlan(): Promise<void> {
  const { planId } = present(made.value, 'what was made of the addresses')
  open.value = false
  await goTo({ path: `/plans/${planId}`, query: { open: 'start' } })
}
async function toJourney(): Promise<void> {
  const { journeyId, targetId } = present(made.value, 'what was made of the addresses')
  open.value = false
  await goTo({ path: `/journeys/${journeyId}`, query: { target: targetId } })
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="From addresses"
    description="One or several, one a line. They become the steps of a journey and a first plan, and are tried once, here, before any machine is ordered."
  >
    <template #body>
      <FaultForm v-if="!made" id="from-addresses" :problem="problem" class="dialog-form" @submit="begin">
        <UFormField name="text" label="Addresses" required>
          <UTextarea
            v-model="text"
            class="font-mono"
            :rows="4"
            placeholder="https://portal.example/timetable"
            data-focus-first
            required
            @keydown.ctrl.enter="begin"
          />
        </UFormField>
        <div class="pair">
          <UFormField name="users" label="Users" required>
            <NumberInput v-model="ask.users" :min="1" :max="MOST_USERS" whole />
          </UFormField>
          <UFormField name="holdS" label="Held for" required>
            <DurationInput v-model="ask.holdMs" :min="LEAST_HOLD_MS" :max="MOST_HOLD_MS" :grain="1000" />
          </UFormField>
        </div>
        <UFormField label="From" required>
          <USelectMenu
            v-model="places"
            multiple
            value-key="value"
            :items="offered"
            placeholder="no provider answers"
          />
        </UFormField>
        <p v-if="known?.approval" class="q s12">
          The owner of {{ known.name }} has agreed to {{ count(known.approval.mostUsers) }} users until
          {{ dayTime(Date.parse(known.approval.until), live.controllerNow) }}.
        </p>
        <UFormField v-else name="approval.contact" label="Who agreed to it" required>
          <UInput v-model="ask.contact" maxlength="200" required />
          <template #help>
            <template v-if="approval">
              A load test is an attack on what has not agreed to it. Recorded: {{ approval.hosts.join() }}, at most
              {{ count(approval.mostUsers) }} users, until {{ dayTime(Date.parse(approval.until), live.controllerNow) }}.
            </template>
            <template v-else>A load test is an attack on what has not agreed to it.</template>
          </template>
        </UFormField>
      </FaultForm>
      <div v-else class="tried" role="status">
        <ProblemNote v-if="problem" :problem="problem" />
        <p v-else-if="!tried" class="q">Trying it with one user, here…</p>
        <template v-else>
          <p><b class="brick">{{ tried.problem || `${failed.length} of ${tried.records.length} did not answer as a page should.` }}</b>
            No machine has been ordered.</p>
          <ul>
            <li v-for="(r, i) in failed.slice(0, 8)" :key="i">
              <AGlyph name="broken" class="brick" word="failed" /> <b>{{ r.step }}</b>
              <span class="mono"> {{ r.request.method }} {{ r.request.url }}</span>
              {{ r.answer ? `answered ${r.answer.status}` : 'gave no answer' }}: {{ r.problem }}
            </li>
          </ul>
        </template>
      </div>
    </template>
    <template #footer>
      <template v-if="!made">
        <UButton @click="open = false">Cancel</UButton>
        <UButton variant="solid" type="submit" form="from-addresses" :aria-disabled="busy !== undefined">
          {{ busy ? 'Making the plan…' : 'Make the plan and try it' }}
        </UButton>
      </template>
      <template v-else-if="tried || problem">
        <UButton @click="toPlan">To the plan all the same</UButton>
        <UButton variant="solid" @click="toJourney">Open the journey</UButton>
      </template>
    </template>
  </UModal>
</template>

<style scoped>
.tried {
  display: grid;
  gap: 8px;
  font-size: 12.5px;
}
</style>

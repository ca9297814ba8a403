<script setup lang="ts">
/**
 * Chooses a batch of calibrations: journeys, machine types and networks, where, against what; says what it would take
 * before anything is asked for.
 */
import type { CapacitiesView } from '~~/api/views'
import { STOLEN_ASIDE_SHARE } from '~~/core/capacity/estimate'
import { forecastBatch } from '~~/core/checks/forecast-batch'
import { SIGNAL_LIMITS } from '~~/core/capacity/signals'
import type { CalibrationPreset } from '~/format/capacity'
import { euro } from '~~/core/values/said-figures'

const { view, preset } = defineProps<{ view: CapacitiesView, preset: CalibrationPreset }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ begun: [id: number] }>()
const { problem, guarded } = useGuarded()
const draft = reactive({
  journeys: [] as string[],
  types: [] as string[],
  networks: ['direct'],
  place: '',
  machines: 1,
  targetId: '',
  sink: true,
  mostStolen: STOLEN_ASIDE_SHARE,
})
/** Usual first; machines that share their CPU by design are never without. */
const STOLEN_CHOICES = [
  ...[STOLEN_ASIDE_SHARE, SIGNAL_LIMITS.stolenShare].map(share => ({ share, words: `over ${share * 100} %` })),
  { share: 1, words: 'nothing: all count' },
]
const busy = ref(false)
const places = computed(() =>
  Object.entries(view.offers).flatMap(([provider, regions]) =>
    (regions ?? []).filter(r => !r.selfEnrolled).map(r => ({ provider, ...r })),
  ),
)
const place = computed(() => places.value.find(p => `${p.provider}/${p.region}` === draft.place))
const http = computed(() => view.journeys.filter(j => j.kind === 'http'))
const networks = computed(() => [{ id: 'direct', name: 'none added' }, ...view.networks])
const items = computed(() => draft.journeys.length * draft.types.length * draft.networks.length)
const forecast = computed(() =>
  forecastBatch(
    (place.value?.types ?? []).filter(t => draft.types.includes(t.name)),
    draft.journeys.length * draft.networks.length,
    draft.machines,
  ),
)

watch(
  open,
  (is) => {
    if (!is) return
    problem.value = undefined
    draft.journeys =
      preset.journeys?.filter(id => http.value.some(j => j.id === id)) ?? http.value.slice(0, 1).map(j => j.id)
    const at = places.value.find(p => p.provider === preset.provider && p.quota.most > p.quota.used) ?? places.value[0]
    draft.place = at ? `${at.provider}/${at.region}` : ''
    draft.types = preset.types ?? place.value?.types.slice(0, 1).map(t => t.name) ?? []
    draft.networks = preset.networks ?? ['direct']
    draft.targetId = view.targets[0]?.id ?? ''
    draft.sink = preset.sink ?? true
    draft.mostStolen = preset.mostStolen ?? STOLEN_ASIDE_SHARE
  },
  { immediate: true },
)
function flip(list: 'journeys' | 'types' | 'networks', id: string): void {
  draft[list] = draft[list].includes(id) ? draft[list].filter(x => x !== id) : [...draft[list], id]
}
const ANSWERED_BY = [
  { value: 'sink', label: 'the built-in sink: answers as the journey’s try was answered, in size and delay' },
  { value: 'target', label: 'the target itself, within its approval' },
]
async function begin(): Promise<void> {
  // Pressed twice it is still one batch: each takes machines.
  if (busy.value || items.value === 0) return
  busy.value = true
  const { journeys, types, networks: on, machines, targetId, sink, mostStolen } = draft
  await guarded(async () => {
    const { id } = await api('calibrate', {}, {
      journeys,
      types,
      networks: on,
      provider: place.value?.provider ?? '',
      region: place.value?.region ?? '',
      machines,
      targetId,
      sink,
      mostStolenShare: mostStolen,
    })
    open.value = false
    emit('begun', id)
  })
  busy.value = false
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="Calibrate"
    description="One machine of each type carries more and more users of each journey, until one of its signals meets its limit."
  >
    <template #body>
      <FaultForm :problem="problem" class="dialog-form" @submit="begin">
        <fieldset>
          <legend>Journeys</legend>
          <UCheckbox
            v-for="j in http"
            :key="j.id"
            :model-value="draft.journeys.includes(j.id)"
            :label="j.name"
            @update:model-value="flip('journeys', j.id)"
          />
        </fieldset>
        <UFormField label="Region">
          <PickOne
            v-model="draft.place"
            :items="places.map(p => ({ value: `${p.provider}/${p.region}`, label: `${p.region}, ${p.provider}: ${p.quota.most - p.quota.used} of ${p.quota.most} machines free` }))"
          />
        </UFormField>
        <fieldset>
          <legend>Machine types</legend>
          <UCheckbox
            v-for="t in place?.types ?? []"
            :key="t.name"
            :model-value="draft.types.includes(t.name)"
            @update:model-value="flip('types', t.name)"
          ><template #label>{{ t.name }} <span class="q">{{ t.vcpu }} vCPU, {{ euro(t.pricePerHour) }}/h</span></template></UCheckbox>
        </fieldset>
        <fieldset>
          <legend>Networks</legend>
          <UCheckbox
            v-for="n in networks"
            :key="n.id"
            :model-value="draft.networks.includes(n.id)"
            :label="n.name"
            @update:model-value="flip('networks', n.id)"
          />
        </fieldset>
        <URadioGroup
          legend="Answered by"
          :model-value="draft.sink ? 'sink' : 'target'"
          :items="ANSWERED_BY"
          @update:model-value="value => (draft.sink = value === 'sink')"
        />
        <div class="three">
          <UFormField label="Target">
            <PickOne
              v-model="draft.targetId"
              :items="view.targets.map(t => ({ value: t.id, label: t.name }))"
            />
          </UFormField>
          <UFormField
            title="Seconds in which more is stolen are not used. Neighbours on the same computer delay everything and make each request dearer. Where they always take some, it is part of what such a machine carries."
            label="Set aside: CPU stolen"
          >
            <PickOne
              v-model="draft.mostStolen"
              :items="STOLEN_CHOICES.map(o => ({ value: o.share, label: o.words }))"
            />
          </UFormField>
          <UFormField
            title="Several at once show how far siblings are apart; the slowest counts."
            label="Machines of each"
          >
            <NumberInput v-model="draft.machines" :min="1" :max="10" />
          </UFormField>
        </div>
        <p class="q s12">
          {{
            items === 0
              ? 'Choose a journey, a type and a network.'
              : `${items === 1 ? '1 item' : `${items} items, one after the other`}: about ${forecast.minutes} min, ${euro(forecast.cost)}. Each journey is tried once first.`
          }}
        </p>
        <UButton
          variant="solid"
          type="submit"
          :aria-disabled="busy || items === 0"
          :data-focus-first="items > 0 ? '' : undefined"
        >
          {{ busy ? 'Trying the journey…' : 'Begin' }}
        </UButton>
      </FaultForm>
    </template>
  </UModal>
</template>

<style scoped>
fieldset {
  border: 1px solid var(--hair);
  border-radius: 4px;
  padding: 4px 10px 6px;
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
}
legend {
  padding: 0 4px;
  font-size: 12px;
  color: var(--quiet);
}
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
  align-items: end;
}
</style>

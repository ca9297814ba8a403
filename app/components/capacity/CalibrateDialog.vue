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
import { euro } from '~/format/figures'

const { view, preset } = defineProps<{ view: CapacitiesView, preset: CalibrationPreset }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ begun: [id: number] }>()
const { problem, guarded } = useGuarded()
const draft = reactive({
  journeys: [] as string[],
  types: [] as string[],
  networks: ['direct'] as string[],
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
async function begin(): Promise<void> {
  // Pressed twice it is still one batch: each takes machines.
  if (busy.value || items.value === 0) return
  busy.value = true
  const { journeys, types, networks: on, machines, targetId, sink, mostStolen } = draft
  await guarded(async () => {
    const { id } = await api<{ id: number }>('calibrations', 'POST', {
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
      <form class="dialog-form" @submit.prevent="begin">
        <ProblemNote v-if="problem" :problem="problem" />
        <fieldset>
          <legend>Journeys</legend>
          <label v-for="j in http" :key="j.id" class="tick"
          ><input type="checkbox" :checked="draft.journeys.includes(j.id)" @change="flip('journeys', j.id)">
            {{ j.name }}</label
          >
        </fieldset>
        <label
        >Region
          <select v-model="draft.place" class="field">
            <option v-for="p in places" :key="p.provider + p.region" :value="`${p.provider}/${p.region}`">
              {{ p.region }}, {{ p.provider }}: {{ p.quota.most - p.quota.used }} of {{ p.quota.most }} machines free
            </option>
          </select></label
        >
        <fieldset>
          <legend>Machine types</legend>
          <label v-for="t in place?.types ?? []" :key="t.name" class="tick"
          ><input type="checkbox" :checked="draft.types.includes(t.name)" @change="flip('types', t.name)">
            {{ t.name }} <span class="q">{{ t.vcpu }} vCPU, {{ euro(t.pricePerHour) }}/h</span></label
          >
        </fieldset>
        <fieldset>
          <legend>Networks</legend>
          <label v-for="n in networks" :key="n.id" class="tick"
          ><input type="checkbox" :checked="draft.networks.includes(n.id)" @change="flip('networks', n.id)">
            {{ n.name }}</label
          >
        </fieldset>
        <fieldset>
          <legend>Answered by</legend>
          <label class="tick"
          ><input v-model="draft.sink" type="radio" :value="true"> the built-in sink: answers as the journey’s try
            was answered, in size and delay</label
          >
          <label class="tick"
          ><input v-model="draft.sink" type="radio" :value="false"> the target itself, within its approval</label
          >
        </fieldset>
        <div class="three">
          <label
          >Target
            <select v-model="draft.targetId" class="field">
              <option v-for="t in view.targets" :key="t.id" :value="t.id">{{ t.name }}</option>
            </select></label
          >
          <label
            title="Seconds in which more is stolen are not used. Neighbours on the same computer delay everything and make each request dearer. Where they always take some, it is part of what such a machine carries."
          >Set aside: CPU stolen
            <select v-model="draft.mostStolen" class="field">
              <option v-for="o in STOLEN_CHOICES" :key="o.share" :value="o.share">{{ o.words }}</option>
            </select></label
          >
          <label title="Several at once show how far siblings are apart; the slowest counts."
          >Machines of each
            <input v-model.number="draft.machines" class="field" type="number" min="1" max="10" required
            ></label>
        </div>
        <p class="q s12">
          {{
            items === 0
              ? 'Choose a journey, a type and a network.'
              : `${items === 1 ? '1 item' : `${items} items, one after the other`}: about ${forecast.minutes} min, ${euro(forecast.cost)}. Each journey is tried once first.`
          }}
        </p>
        <button class="btn act" type="submit" :aria-disabled="busy || items === 0">
          {{ busy ? 'Trying the journey…' : 'Begin' }}
        </button>
      </form>
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
  gap: 2px 16px;
}
legend {
  padding: 0 4px;
  font-size: 12px;
  color: var(--quiet);
}
.tick {
  display: flex !important;
  align-items: center;
  gap: 6px !important;
  font-size: 12.5px;
}
.three {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 10px;
  align-items: end;
}
</style>

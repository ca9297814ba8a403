<script setup lang="ts">
/** One location: where its machines are taken, and by which three letters it goes. Also adds one. */
import { removeLocation } from '~~/core/checks/apply-fix'
import type { Location } from '~~/core/plan/document'
import { freeCode } from '~~/core/plan/location-code'
import { present } from '~~/core/values/present'

/** Code of the location; empty to add one; undefined: closed. */
const open = defineModel<string | undefined>({ required: true })
const store = usePlan()
const plan = () => present(store.plan, 'the plan on the sheet')
const draft = ref<Location>({ code: '', provider: '', region: '', machineType: '', machines: 'auto' })
const complaint = ref<{ region?: string, code?: string }>({})
const shown = computed({
  // An address may name a location that is not there, or not any more.
  get: () => open.value === '' || plan().locations.some(l => l.code === open.value),
  set: (is) => {
    if (!is) open.value = undefined
  },
})
const adding = computed(() => open.value === '')
const offers = computed(() =>
  Object.entries(store.view?.offers ?? {}).flatMap(([provider, regions]) =>
    (regions ?? []).map(r => ({ provider, ...r })),
  ),
)
const offer = computed(() =>
  offers.value.find(o => o.provider === draft.value.provider && o.region === draft.value.region),
)

const interruptiblePrice = computed(
  () => offer.value?.types.find(t => t.name === draft.value.machineType)?.interruptiblePerHour,
)
const others = computed(() =>
  offer.value?.attachments || interruptiblePrice.value !== undefined
    ? offers.value
        .filter(o => o.provider === draft.value.provider && o.region !== draft.value.region)
        .map(o => o.region)
    : [],
)
function setInterruptible(is: boolean): void {
  if (is) draft.value.interruptible = true
  else Reflect.deleteProperty(draft.value, 'interruptible')
}
function setCheapest(is: boolean): void {
  if (is) draft.value.choose = 'cheapest'
  else Reflect.deleteProperty(draft.value, 'choose')
}
function setElsewhere(region: string): void {
  if (region) draft.value.elsewhere = [region]
  else Reflect.deleteProperty(draft.value, 'elsewhere')
}

watch(open, (code) => {
  if (code === undefined) return
  complaint.value = {}
  const known = plan().locations.find(l => l.code === code)
  if (known) {
    draft.value = structuredClone(known)
    return
  }
  draft.value = { code: '', provider: '', region: '', machineType: '', machines: 'auto' }
  const free =
    offers.value.find(o => !plan().locations.some(l => l.region === o.region && l.provider === o.provider)) ??
    offers.value[0]
  take(free ? `${free.provider}/${free.region}` : '/')
}, { immediate: true })

function take(place: string): void {
  const [provider = '', region = ''] = place.split('/')
  if (provider !== draft.value.provider)
    for (const own of ['attached', 'interruptible', 'elsewhere']) Reflect.deleteProperty(draft.value, own)
  const there = offers.value.find(o => o.provider === provider && o.region === region)
  draft.value = {
    ...draft.value,
    provider,
    region,
    machineType: there?.types.some(t => t.name === draft.value.machineType)
      ? draft.value.machineType
      : (there?.types[0]?.name ?? ''),
    ...(adding.value ? { code: freeCode(region, new Set(plan().locations.map(l => l.code))) } : {}),
  }
}

function done(): void {
  const code = draft.value.code.trim().toUpperCase()
  if (!/^[A-Z]{3}$/.test(code)) {
    complaint.value = { code: 'Give it three letters.' }
    return
  }
  if (code !== open.value && plan().locations.some(l => l.code === code)) {
    complaint.value = { code: `${code} is taken already.` }
    return
  }
  if (draft.value.region === '') {
    complaint.value = { region: 'No provider offers a region now: start one, then add the location.' }
    return
  }
  const before = open.value ?? ''
  store.edit((p) => {
    const location = { ...draft.value, code }
    if (adding.value) {
      p.locations.push(location)
      return
    }
    p.locations = p.locations.map(l => (l.code === before ? location : l))
    // Shares and networks keep to the location under its new letters.
    for (const row of [...Object.values(p.placement), ...Object.values(p.networks ?? {})] as Record<
      string,
      unknown
    >[]) {
      if (before === code || !(before in row)) continue
      row[code] = row[before]
      Reflect.deleteProperty(row, before)
    }
  })
  open.value = undefined
}

function remove(): void {
  const code = open.value ?? ''
  open.value = undefined
  store.edit(p => removeLocation(p, code))
}
</script>

<template>
  <UModal
    v-model:open="shown"
    :title="adding ? 'Add a location' : `Location ${open}`"
    description="A place where generators run."
  >
    <template #body>
      <FaultForm class="dialog-form" @submit="done">
        <UFormField label="Region" :error="complaint.region">
          <PickOne
            :model-value="`${draft.provider}/${draft.region}`"
            :items="[
              ...(!offer ? [{ value: `${draft.provider}/${draft.region}`, label: draft.region || 'no provider answers' }] : []),
              ...offers.map(o => ({ value: `${o.provider}/${o.region}`, label: `${o.region}, ${o.provider}: ${o.quota.most - o.quota.used} of ${o.quota.most} machines free` })),
            ]"
            @update:model-value="value => take(value)"
          />
        </UFormField>
        <UFormField label="Three letters" name="code" required :error="complaint.code">
          <UInput v-model="draft.code" maxlength="3" required />
        </UFormField>
        <UCheckbox
          :model-value="draft.choose === 'cheapest'"
          label="Take the cheapest types that carry its users"
          @update:model-value="setCheapest($event === true)"
        />
        <UFormField v-if="draft.choose !== 'cheapest'" label="Machine type">
          <PickOne
            v-model="draft.machineType"
            :items="[
              ...(offer?.types ?? []).map(t => ({ value: t.name, label: `${t.name}: ${t.vcpu} vCPU, €${t.pricePerHour}/h` })),
            ]"
          />
        </UFormField>
        <UCheckbox
          v-if="interruptiblePrice !== undefined || draft.choose === 'cheapest'"
          :model-value="draft.interruptible"
          @update:model-value="setInterruptible($event === true)"
        ><template #label><template v-if="draft.choose === 'cheapest'">Some may be interruptible: their provider may take them back at short notice</template><template v-else>Interruptible at €{{ interruptiblePrice }}/h: its provider may take it back at short notice</template></template></UCheckbox>
        <UFormField v-if="others.length" label="After a failed boot, try">
          <PickOne
            :model-value="draft.elsewhere?.[0] ?? ''"
            :items="[
              { value: '', label: 'the same region again' },
              ...others.map(r => ({ value: r, label: `${r} instead` })),
            ]"
            @update:model-value="value => setElsewhere(value)"
          />
        </UFormField>
        <fieldset v-if="offer?.attachments" class="attached">
          <legend>What {{ draft.provider }} attaches to each machine</legend>
          <AttachedForm
            :schema="offer.attachments"
            :value="draft.attached ?? {}"
            @change="
              attached => {
                draft.attached = attached
              }
            "
          />
        </fieldset>
        <div class="ends">
          <UButton v-if="!adding" color="error" @click="remove">Remove the location</UButton><span v-else /><UButton variant="solid" type="submit">{{ adding ? 'Add it' : 'Done' }}</UButton>
        </div>
      </FaultForm>
    </template>
  </UModal>
</template>

<style scoped>
.attached {
  border: 1px solid var(--hair);
  border-radius: 4px;
  padding: 6px 10px 10px;
}
.attached legend {
  padding: 0 4px;
  font-size: 12px;
  color: var(--quiet);
}
.ends {
  display: flex;
  justify-content: space-between;
}
</style>

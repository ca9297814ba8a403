<script setup lang="ts">
/** One location: where its machines are taken, and by which three letters it goes. Also adds one. */
import type { Location } from '~~/core/plan/document'

/** Code of the location; empty to add one; undefined: closed. */
const open = defineModel<string | undefined>({ required: true })
const store = usePlan()
const draft = ref<Location>({ code: '', provider: '', region: '', machineType: '', machines: 'auto' })
const complaint = ref('')
const shown = computed({
  get: () => open.value !== undefined,
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
  complaint.value = ''
  const known = store.plan!.locations.find(l => l.code === code)
  if (known) {
    draft.value = structuredClone(toRaw(known))
    return
  }
  draft.value = { code: '', provider: '', region: '', machineType: '', machines: 'auto' }
  const free =
    offers.value.find(o => !store.plan!.locations.some(l => l.region === o.region && l.provider === o.provider)) ??
    offers.value[0]
  take(free ? `${free.provider}/${free.region}` : '/')
})

/** Three letters made of the region's name, not taken yet. */
function codeFor(region: string): string {
  const taken = new Set(store.plan!.locations.map(l => l.code))
  const letters = region
    .toUpperCase()
    .replace(/[^A-Z]/g, '')
    .padEnd(3, 'X')
  if (!taken.has(letters.slice(0, 3))) return letters.slice(0, 3)
  for (let n = 0; n < 676; n++) {
    const code = letters[0]! + String.fromCharCode(65 + Math.floor(n / 26), 65 + (n % 26))
    if (!taken.has(code)) return code
  }
  return ''
}

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
    ...(adding.value ? { code: codeFor(region) } : {}),
  }
}

function done(): void {
  const code = draft.value.code.trim().toUpperCase()
  if (!/^[A-Z]{3}$/.test(code)) {
    complaint.value = 'Give it three letters.'
    return
  }
  if (code !== open.value && store.plan!.locations.some(l => l.code === code)) {
    complaint.value = `${code} is taken already.`
    return
  }
  if (draft.value.region === '') {
    complaint.value = 'No provider offers a region now: start one, then add the location.'
    return
  }
  const before = open.value!
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
  const code = open.value!
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
      <form class="dialog-form" @submit.prevent="done">
        <label
        >Region
          <select
            class="field"
            :value="`${draft.provider}/${draft.region}`"
            @change="take(($event.target as HTMLSelectElement).value)"
          >
            <option v-if="!offer" :value="`${draft.provider}/${draft.region}`">
              {{ draft.region || 'no provider answers' }}
            </option>
            <option v-for="o in offers" :key="o.provider + o.region" :value="`${o.provider}/${o.region}`">
              {{ o.region }}, {{ o.provider }}: {{ o.quota.most - o.quota.used }} of {{ o.quota.most }} machines free
            </option>
          </select></label
        >
        <label>Three letters <input v-model="draft.code" class="field" maxlength="3" required></label>
        <label class="tick"
        ><input
          type="checkbox"
          :checked="draft.choose === 'cheapest'"
          @change="setCheapest(($event.target as HTMLInputElement).checked)"
        >
          Take the cheapest types that carry its users</label
        >
        <label v-if="draft.choose !== 'cheapest'"
        >Machine type
          <select v-model="draft.machineType" class="field">
            <option v-if="!offer?.types.some(t => t.name === draft.machineType)">{{ draft.machineType }}</option>
            <option v-for="t in offer?.types ?? []" :key="t.name" :value="t.name">
              {{ t.name }}: {{ t.vcpu }} vCPU, €{{ t.pricePerHour }}/h
            </option>
          </select></label
        >
        <label v-if="interruptiblePrice !== undefined || draft.choose === 'cheapest'" class="tick"
        ><input
          type="checkbox"
          :checked="draft.interruptible"
          @change="setInterruptible(($event.target as HTMLInputElement).checked)"
        > <template v-if="draft.choose === 'cheapest'"
        >Some may be interruptible: their provider may take them back at short notice</template
        ><template v-else
        >Interruptible at €{{ interruptiblePrice }}/h: its provider may take it back at short notice</template
        ></label
        >
        <label v-if="others.length"
        >After a failed boot, try
          <select
            class="field"
            :value="draft.elsewhere?.[0] ?? ''"
            @change="setElsewhere(($event.target as HTMLSelectElement).value)"
          >
            <option value="">the same region again</option>
            <option v-for="r in others" :key="r" :value="r">{{ r }} instead</option>
          </select></label
        >
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
        <p v-if="complaint" class="brick s12" role="alert">{{ complaint }}</p>
        <div class="ends">
          <button v-if="!adding" type="button" class="btn broken" @click="remove">Remove the location</button
          ><span v-else /><button class="btn act" type="submit">{{ adding ? 'Add it' : 'Done' }}</button>
        </div>
      </form>
    </template>
  </UModal>
</template>

<style scoped>
.tick {
  display: flex !important;
  align-items: center;
  gap: 6px;
}
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

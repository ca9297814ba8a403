<script setup lang="ts">
/** A profile of one's own: typed, with what is wrong said at each field. */
import { faultsOfProfile, type NetworkProfile } from '~~/core/network/profile'

const { profile, taken } = defineProps<{ profile: NetworkProfile | undefined, taken: string[] }>()
const emit = defineEmits<{ saved: [id: string], cancelled: [] }>()
const { problem, guarded } = useGuarded()
const draft = reactive({ id: '', name: '', latencyMs: '', jitterMs: '0', loss: '0', down: '', up: '', source: '' })
const tried = ref(false)

watch(
  () => profile,
  (p) => {
    tried.value = false
    Object.assign(draft, {
      id: p?.id ?? '',
      name: p?.name ?? '',
      latencyMs: String(p?.latencyMs ?? ''),
      jitterMs: String(p?.jitterMs ?? 0),
      loss: String((p?.loss ?? 0) * 100),
      down: rate(p?.downBps),
      up: rate(p?.upBps),
      source: p?.source ?? '',
    })
  },
  { immediate: true },
)

function rate(bps: number | undefined): string {
  return bps === undefined ? '' : String(bps / 1e6)
}
const number = (text: string) =>
  text.trim() === '' ? Number.NaN : Number(text.replace(',', '.').replace(/\s*(ms|%|mbit\/s)$/i, ''))
const bps = (text: string) => (text.trim() === '' ? {} : { bps: number(text) * 1e6 })
const made = computed((): NetworkProfile => {
  const [down, up] = [bps(draft.down), bps(draft.up)]
  return {
    id: draft.id.trim(),
    name: draft.name.trim(),
    latencyMs: number(draft.latencyMs),
    jitterMs: number(draft.jitterMs),
    loss: number(draft.loss) / 100,
    ...('bps' in down ? { downBps: down.bps } : {}),
    ...('bps' in up ? { upBps: up.bps } : {}),
    ...(draft.source.trim() ? { source: draft.source.trim() } : {}),
  }
})
const faults = computed(() => [
  ...faultsOfProfile(made.value),
  ...(taken.includes(made.value.id)
    ? [{ field: 'id' as const, sentence: 'There is a profile of this short name: choose another.' }]
    : []),
])
const fault = (field: keyof NetworkProfile) =>
  tried.value ? faults.value.find(f => f.field === field)?.sentence : undefined

async function save(): Promise<void> {
  tried.value = true
  if (faults.value.length > 0) return
  const { id } = made.value
  if (await guarded(() => api('saveNetwork', { network: id }, { profile: made.value }))) emit('saved', id)
}
const FIELDS = [
  ['name', 'name', 'Name', ''],
  ['id', 'id', 'Short name, typed in cells', ''],
  ['latencyMs', 'latencyMs', 'Added round trip', 'ms'],
  ['jitterMs', 'jitterMs', 'Jitter (standard deviation)', 'ms'],
  ['loss', 'loss', 'Loss each way', '%'],
  ['down', 'downBps', 'Download, empty for no limit', 'Mbit/s'],
  ['up', 'upBps', 'Upload, empty for no limit', 'Mbit/s'],
  ['source', 'source', 'Where the values come from', ''],
] as const
</script>

<template>
  <form class="panel form dialog-form" @submit.prevent="save">
    <ProblemNote v-if="problem" :problem="problem" />
    <UFormField
      v-for="[key, field, word, unit] in FIELDS"
      :key="key"
      :label="unit ? `${word}, ${unit}` : word"
      :error="fault(field)"
    >
      <UInput
        v-model="draft[key]"
        :disabled="key === 'id' && profile !== undefined"
        :inputmode="unit ? 'decimal' : 'text'"
      />
    </UFormField>
    <div class="ends">
      <UButton @click="emit('cancelled')">Cancel</UButton><UButton v-needs="'operator'" variant="solid" type="submit">Save the profile</UButton>
    </div>
  </form>
</template>

<style scoped>
.form {
  padding: 12px;
}
.ends {
  display: flex;
  gap: 8px;
}
[aria-invalid='true'] {
  border-color: var(--brick);
}
</style>

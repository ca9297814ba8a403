<script setup lang="ts">
/** Sets a capacity by hand: marked as what it is wherever it is used. */
import type { CapacitiesView } from '~~/api/views'

const { view } = defineProps<{ view: CapacitiesView }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ saved: [] }>()
const { problem, guarded } = useGuarded()
const draft = reactive({ journeyId: view.journeys[0]?.id ?? '', network: 'direct', type: '', users: 100, note: '' })
const types = computed(() =>
  Object.entries(view.offers).flatMap(([provider, regions]) => {
    const all = (regions ?? []).flatMap(r => r.types)
    return all.filter((t, i) => all.findIndex(o => o.name === t.name) === i).map(t => ({ provider, ...t }))
  }),
)
async function save(): Promise<void> {
  const type = types.value.find(t => `${t.provider}/${t.name}` === draft.type) ?? types.value[0]
  if (!type) return
  if (
    await guarded(() =>
      api('setCapacity', {}, {
        journeyId: draft.journeyId,
        network: draft.network,
        provider: type.provider,
        machineType: type.name,
        vcpu: type.vcpu,
        users: draft.users,
        ...(draft.note.trim() ? { note: draft.note.trim() } : {}),
      }),
    )
  ) {
    open.value = false
    emit('saved')
  }
}
</script>

<template>
  <UModal
    v-model:open="open"
    title="Set a capacity by hand"
    description="What somebody knows and nobody has measured here. Fleets sized by it say so."
  >
    <template #body>
      <FaultForm :problem="problem" class="dialog-form" @submit="save">
        <UFormField label="Journey">
          <PickOne
            v-model="draft.journeyId"
            :items="view.journeys.map(j => ({ value: j.id, label: j.name }))"
          />
        </UFormField>
        <UFormField label="Network">
          <PickOne
            v-model="draft.network"
            :items="[
              { value: 'direct', label: 'none added' },
              ...view.networks.map(n => ({ value: n.id, label: n.name })),
            ]"
          />
        </UFormField>
        <UFormField label="Machine type">
          <PickOne
            v-model="draft.type"
            :items="types.map(t => ({ value: `${t.provider}/${t.name}`, label: `${t.name}, ${t.provider}` }))"
          />
        </UFormField>
        <UFormField name="users" label="Users one generator carries, before headroom">
          <NumberInput
            v-model="draft.users"
            :min="0"
            :max="1000000"
          />
        </UFormField>
        <UFormField name="note" label="Why">
          <UInput
            v-model="draft.note"
            maxlength="300"
            placeholder="for example: measured elsewhere in June"
          />
        </UFormField>
        <UButton v-needs="'operator'" variant="solid" type="submit">Set it</UButton>
      </FaultForm>
    </template>
  </UModal>
</template>

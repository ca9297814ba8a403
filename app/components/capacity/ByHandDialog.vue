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
      api('capacities/by-hand', 'POST', {
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
      <form class="dialog-form" @submit.prevent="save">
        <ProblemNote v-if="problem" :problem="problem" />
        <label
        >Journey
          <select v-model="draft.journeyId" class="field">
            <option v-for="j in view.journeys" :key="j.id" :value="j.id">{{ j.name }}</option>
          </select></label
        >
        <label
        >Network
          <select v-model="draft.network" class="field">
            <option value="direct">none added</option>
            <option v-for="n in view.networks" :key="n.id" :value="n.id">{{ n.name }}</option>
          </select></label
        >
        <label
        >Machine type
          <select v-model="draft.type" class="field">
            <option v-for="t in types" :key="t.provider + t.name" :value="`${t.provider}/${t.name}`">
              {{ t.name }}, {{ t.provider }}
            </option>
          </select></label
        >
        <label
        >Users one generator carries, before headroom
          <input v-model.number="draft.users" class="field" type="number" min="0" max="1000000" required
          ></label>
        <label
        >Why
          <input
            v-model="draft.note"
            class="field"
            maxlength="300"
            placeholder="for example: measured elsewhere in June"
          ></label>
        <button class="btn act" type="submit">Set it</button>
      </form>
    </template>
  </UModal>
</template>

<script setup lang="ts">
/**
 * A form made from what a provider publishes of what it wants attached to a machine: one field for each property of its
 * schema.
 */
import type { Attached, AttachmentSchema } from '~~/core/offers/machine-type'

const { schema, value } = defineProps<{ schema: AttachmentSchema, value: Attached }>()
const emit = defineEmits<{ change: [attached: Attached] }>()
/** What is the provider's own default is not written down: it may change its mind. */
function set(name: string, given: string | number | boolean): void {
  const next = { ...value, [name]: given }
  if (given === schema.properties[name]!.default || given === '') Reflect.deleteProperty(next, name)
  emit('change', next)
}
const now = (name: string) => value[name] ?? schema.properties[name]!.default
/** As its own kind of field takes it. */
const word = (name: string) => {
  const value = now(name)
  return typeof value === 'boolean' || value === undefined ? '' : value
}
const figure = (name: string) => {
  const value = now(name)
  return typeof value === 'number' ? value : undefined
}
</script>

<template>
  <div class="fields">
    <template v-for="(about, name) in schema.properties" :key="name">
      <UCheckbox
        v-if="about.type === 'boolean'"
        :title="about.description"
        :model-value="now(String(name)) === true"
        :label="about.title ?? String(name)"
        @update:model-value="set(String(name), $event === true)"
      />
      <UFormField v-else :title="about.description" :label="about.title ?? String(name)">
        <PickOne
          v-if="about.enum"
          :model-value="word(String(name))"
          :items="about.enum.map(o => ({ value: o, label: String(o) }))"
          @update:model-value="value => set(String(name), value)"
        />
        <UInput
          v-else-if="about.type === 'string'"
          :model-value="String(now(String(name)) ?? '')"
          @change="set(String(name), ($event.target as HTMLInputElement).value)"
        />
        <NumberInput
          v-else
          optional
          :model-value="figure(String(name))"
          :min="about.minimum"
          :max="about.maximum"
          :placeholder="about.minimum !== undefined ? `${about.minimum} to ${about.maximum ?? '…'}` : ''"
          @update:model-value="value => set(String(name), value ?? '')"
        />
      </UFormField>
    </template>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 12px;
}
</style>

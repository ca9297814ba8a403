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
function number(name: string, text: string): void {
  const n = Number(text)
  if (text.trim() !== '' && Number.isFinite(n)) set(name, n)
}
</script>

<template>
  <div class="fields">
    <template v-for="(about, name) in schema.properties" :key="name">
      <label v-if="about.type === 'boolean'" class="tick" :title="about.description"
      ><input
         type="checkbox"
         :checked="now(String(name)) === true"
         @change="set(String(name), ($event.target as HTMLInputElement).checked)"
       >
        {{ about.title ?? name }}</label
      >
      <label v-else :title="about.description"
      >{{ about.title ?? name }}
        <select
          v-if="about.enum"
          class="field"
          :value="now(String(name))"
          @change="set(String(name), ($event.target as HTMLSelectElement).value)"
        >
          <option v-for="o in about.enum" :key="o" :value="o">{{ o }}</option>
        </select>
        <input
          v-else-if="about.type === 'string'"
          class="field"
          :value="now(String(name)) ?? ''"
          @change="set(String(name), ($event.target as HTMLInputElement).value)"
        >
        <input
          v-else
          class="field"
          inputmode="decimal"
          :value="now(String(name)) ?? ''"
          :placeholder="about.minimum !== undefined ? `${about.minimum} to ${about.maximum ?? '…'}` : ''"
          @change="number(String(name), ($event.target as HTMLInputElement).value)"
        >
      </label>
    </template>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 12px;
}
.tick {
  display: flex !important;
  align-items: center;
  gap: 6px;
}
</style>

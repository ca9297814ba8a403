<script setup lang="ts">
/**
 * A number, typed as people write it and stepped with the arrow keys; each number on the way is handed on. Nuxt UI's
 * own number input reads “12,5” as 125, snaps to steps and turns with the wheel: this one is a text that knows numbers.
 */
import { readNumber } from '~/format/numbers'

const model = defineModel<number | undefined>({ required: true })
const {
  min,
  max,
  step = 1,
  whole = false,
  optional = false,
} = defineProps<{
  min?: number
  max?: number
  step?: number
  whole?: boolean
  /** May be left empty. */
  optional?: boolean
}>()
const text = ref(String(model.value ?? ''))
const fault = ref<string>()

/** @returns the number, undefined for none where there may be none, or what is wrong */
function read(): number | string | undefined {
  return text.value.trim() === '' && optional ? undefined : readNumber(text.value, { min, max, whole })
}

watch(text, () => {
  fault.value = undefined
  const now = read()
  if (typeof now !== 'string') model.value = now
})
watch(model, (now) => {
  // What is being typed stays as it is written.
  if (read() !== now) text.value = String(now ?? '')
})

function done(): void {
  const now = read()
  if (typeof now === 'string') fault.value = now
  else text.value = String(now ?? '')
}

function stepBy(by: number): void {
  const next = Math.min(max ?? Infinity, Math.max(min ?? -Infinity, (model.value ?? min ?? 0) + by))
  text.value = String(Number(next.toPrecision(12)))
}
</script>

<template>
  <FaultInput
    v-model="text"
    :fault="fault"
    role="spinbutton"
    :inputmode="whole ? 'numeric' : 'decimal'"
    :aria-valuenow="model"
    :aria-valuemin="min"
    :aria-valuemax="max"
    @change="done"
    @keydown.up.prevent="stepBy(step)"
    @keydown.down.prevent="stepBy(-step)"
    @keydown.esc="done"
  />
</template>

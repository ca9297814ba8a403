<script setup lang="ts">
/** A duration, typed as people write it and handed on in ms. */
import { lengthText, readLength, type ShownDurationUnit } from '~/format/durations'

/** ms */
const model = defineModel<number>({ required: true })
const { min = 0, max = Number.POSITIVE_INFINITY, unit = 's', grain = 1 } = defineProps<{
  /** ms */
  min?: number
  max?: number
  /** Of a number without one. */
  unit?: ShownDurationUnit
  /** What it has to be a whole number of, ms. */
  grain?: number
}>()
const text = ref(lengthText(model.value))
const fault = ref<string>()
const read = () => readLength(text.value, { min, max, unit, grain })

watch(text, () => {
  fault.value = undefined
  const now = read()
  if (typeof now !== 'string') model.value = now
})
watch(model, (now) => {
  // What is being typed stays as it is written.
  if (read() !== now) text.value = lengthText(now)
})
function done(): void {
  const now = read()
  if (typeof now === 'string') fault.value = now
  else text.value = lengthText(now)
}
</script>

<template>
  <FaultInput v-model="text" :fault="fault" @change="done" @keydown.esc="done" />
</template>

<script setup lang="ts">
/** A time of day, `HH:MM`, 24 hours. */
import { parseTime, type Time } from '@internationalized/date'

const model = defineModel<string>({ required: true })
const time = computed(() => parseTime(model.value))
</script>

<template>
  <UInputTime
    :model-value="time"
    locale="en-GB"
    :hour-cycle="24"
    class="w-full"
    @update:model-value="value => value && (model = (value as Time).toString().slice(0, 5))"
  />
</template>

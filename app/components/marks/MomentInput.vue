<script setup lang="ts">
/** A moment to the minute, typed part by part or chosen from a calendar, in the zone of the one who looks. */
import { parseAbsolute, type DateValue } from '@internationalized/date'

/** ISO 8601; empty: none yet. */
const model = defineModel<string>({ required: true })
const open = ref(false)
const zone = Intl.DateTimeFormat().resolvedOptions().timeZone
const moment = computed<DateValue | undefined>(() => (model.value ? parseAbsolute(model.value, zone) : undefined))

function set(value: DateValue | undefined | null): void {
  // Seconds that are not shown must not be kept either.
  model.value = value
    ? new Date(Math.floor(value.toDate(zone).getTime() / 60_000) * 60_000).toISOString()
    : ''
}

/** The chosen day, at the time of day there was. */
function setDay(day: DateValue): void {
  const at = moment.value ?? parseAbsolute(new Date().toISOString(), zone)
  set(at.set({ year: day.year, month: day.month, day: day.day }))
  open.value = false
}
</script>

<template>
  <UInputDate
    :model-value="moment"
    granularity="minute"
    locale="en-GB"
    :hour-cycle="24"
    :placeholder-value="moment"
    hide-time-zone
    class="w-full"
    @update:model-value="value => set(value as DateValue | undefined)"
  >
    <template #trailing>
      <UPopover v-model:open="open">
        <UButton size="xs" variant="ghost" square icon="i-lucide-calendar" aria-label="Choose a day" />
        <template #content>
          <UCalendar
            class="p-2"
            :model-value="moment"
            locale="en-GB"
            :week-starts-on="1"
            @update:model-value="value => setDay(value as DateValue)"
          />
        </template>
      </UPopover>
    </template>
  </UInputDate>
</template>

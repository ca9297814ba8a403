<script setup lang="ts">
/** What a target's owner has agreed to: where, how much, until when, at which hours, and who said so. */
import type { Approval } from '~~/core/journey/target'

const approval = defineModel<Approval>({ required: true })
/** `at`: where it goes in what is sent, a dot after it. */
const { at = '' } = defineProps<{ at?: string }>()
const here = Intl.DateTimeFormat().resolvedOptions().timeZone
const zones = [...new Set([here, 'UTC', ...Intl.supportedValuesOf('timeZone')])].map(z => ({ value: z, label: z }))
const HOURS = [
  { value: 'any', label: 'any' },
  { value: 'some', label: 'from … to …' },
]

function setRanges(text: string): void {
  const ranges = text.split(/[\s,]+/).filter(Boolean)
  if (ranges.length > 0) approval.value.addressRanges = ranges
  else delete approval.value.addressRanges
}

function setReadFrom(text: string): void {
  const hosts = text.split(/[\s,]+/).filter(Boolean)
  if (hosts.length > 0) approval.value.readFrom = hosts
  else delete approval.value.readFrom
}

function setHours(which: string): void {
  if (which === 'some') approval.value.window ??= { from: '20:00', to: '06:00', zone: here }
  else delete approval.value.window
}
</script>

<template>
  <div class="grid">
    <UFormField class="full" :name="`${at}hosts`" label="Hosts with port, one a line" required>
      <UTextarea
        class="font-mono"
        :rows="3"
        :model-value="approval.hosts.join('\n')"
        @change="approval.hosts = ($event.target as HTMLTextAreaElement).value.split(/\s+/).filter(Boolean)"
      />
    </UFormField>
    <UFormField :name="`${at}mostUsers`" label="Most users at once" required>
      <NumberInput v-model="approval.mostUsers" :min="1" whole />
    </UFormField>
    <UFormField :name="`${at}until`" :label="`Until (${here})`" required>
      <MomentInput v-model="approval.until" />
    </UFormField>
    <UFormField :name="`${at}contact`" label="Who agreed" required>
      <UInput v-model="approval.contact" maxlength="200" :data-focus-first="approval.contact ? undefined : ''" />
    </UFormField>
    <UFormField label="Hours of the day">
      <PickOne :model-value="approval.window ? 'some' : 'any'" :items="HOURS" @update:model-value="setHours" />
    </UFormField>
    <template v-if="approval.window">
      <UFormField label="From"><TimeInput v-model="approval.window.from" /></UFormField>
      <UFormField label="To"><TimeInput v-model="approval.window.to" /></UFormField>
      <UFormField label="Zone"><PickOne v-model="approval.window.zone" :items="zones" /></UFormField>
    </template>
    <UFormField
      class="full"
      :name="`${at}readFrom`"
      label="Figures may be read from"
      hint="hosts with port"
      help="Besides the hosts above, which may be read anyway. No load goes there."
    >
      <UTextarea
        class="font-mono"
        :rows="1"
        autoresize
        :model-value="approval.readFrom?.join('\n')"
        @change="setReadFrom(($event.target as HTMLTextAreaElement).value)"
      />
    </UFormField>
    <UFormField
      class="full"
      :name="`${at}addressRanges`"
      label="Private addresses its names may stand for"
      hint="ranges like 10.1.0.0/16"
      help="A name can be pointed anywhere. Public addresses need nothing here; of private ones only these are connected to."
    >
      <UTextarea
        class="font-mono"
        :rows="1"
        autoresize
        :model-value="approval.addressRanges?.join('\n')"
        @change="setRanges(($event.target as HTMLTextAreaElement).value)"
      />
    </UFormField>
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 10px;
}
.full {
  grid-column: 1 / 3;
}
</style>

<script setup lang="ts">
/** Every standard part in every state, in our own look. In development only: `nuxt.config` leaves it out elsewhere. */
import type { ListColumn } from '~/components/marks/list-table'

const on = ref(true)
const which = ref('reyk')
const long = ref('UTC')
const radio = ref('cloud')
const share = ref(35)
const users = ref<number | undefined>(240)
const until = ref('2026-12-26T15:59:00.000Z')
const time = ref('20:00')
const text = ref('portal.example:443')
const tab = ref('users')
const modal = ref(false)
const aside = ref(false)
const colour = useColorMode()
const toast = useToast()
const PLACES = ['reyk', 'tavira', 'osaki'].map(value => ({ value, label: `${value}, Nimbral` }))
const ZONES = Intl.supportedValuesOf('timeZone').map(value => ({ value, label: value }))
interface Host {
  name: string
  cores: number
  users: number | undefined
}
const HOSTS: Host[] = Array.from({ length: 12 }, (_, i) => ({
  name: `ovk-${String.fromCharCode(97 + i)}`,
  cores: 4 * (1 + (i % 4)),
  users: i % 5 === 4 ? undefined : 5270 - 311 * i,
}))
const COLUMNS: ListColumn<Host>[] = [
  { id: 'name', head: 'Name', value: h => h.name },
  { id: 'cores', head: 'Cores', num: true, value: h => h.cores },
  { id: 'users', head: 'Users', num: true, value: h => h.users },
]
const MENU = [
  [{ label: 'Open', icon: 'i-lucide-arrow-right', kbds: ['o'] }, { label: 'Clone', kbds: ['c'] }],
  [{ label: 'Only problems', type: 'checkbox' as const, checked: true }, { label: 'Not while it runs', disabled: true }],
  [{ label: 'Remove…', color: 'error' as const, kbds: ['Del'] }],
]
</script>

<template>
  <div class="screen">
    <div class="screen-head row">
      <h1>Parts</h1>
      <UButton size="sm" @click="colour.preference = colour.value === 'dark' ? 'light' : 'dark'">Light or dark</UButton>
    </div>
    <div class="body three">
      <section class="panel pad">
        <h2>Buttons</h2>
        <div class="row">
          <UButton variant="solid">Start <UKbd>s</UKbd></UButton>
          <UButton>Try all <UKbd>y</UKbd></UButton>
          <UButton variant="ghost">Clone</UButton>
          <UButton variant="link">Add a step</UButton>
        </div>
        <div class="row">
          <UButton color="error">Remove the site</UButton>
          <UButton color="error" variant="solid">Abort</UButton>
          <UButton variant="soft">Chosen</UButton>
        </div>
        <div class="row">
          <UButton aria-disabled="true">Nothing to save</UButton>
          <UButton variant="solid" aria-disabled="true">Trying…</UButton>
          <UButton loading>Trying 3</UButton>
          <UButton square icon="i-lucide-search" aria-label="Find" />
        </div>
        <div class="row">
          <UButton size="sm">24 px</UButton>
          <UButton size="xs">20 px</UButton>
          <UButton size="xs" variant="link">in a row</UButton>
          <FileButton label="Open a file" accept=".yaml" />
        </div>
        <h2>Choices</h2>
        <div class="row">
          <UCheckbox v-model="on" label="only count" />
          <UCheckbox :model-value="false" label="off" />
          <UCheckbox model-value="indeterminate" label="some" />
          <UCheckbox disabled label="not now" />
        </div>
        <div class="row">
          <USwitch v-model="on" label="spares" /> <USwitch :model-value="false" label="keys" />
          <USwitch disabled label="not now" />
        </div>
        <URadioGroup
          v-model="radio"
          legend="Machines"
          orientation="horizontal"
          :items="['cloud', 'private', 'both'].map(value => ({ value, label: value }))"
        />
        <div class="row"><USlider v-model="share" aria-label="Headroom, %" /> <span>{{ share }} %</span></div>
        <h2>How far, what kind</h2>
        <div class="row"><UProgress :model-value="62" aria-label="Gathered" /> <span>62 %</span></div>
        <USkeleton class="h-4 w-40" />
        <div class="row">
          <UBadge>private</UBadge> <UBadge color="error" variant="solid">broken</UBadge>
          <UBadge color="success">held</UBadge> <UBadge color="warning">qualified</UBadge>
          <UTooltip text="Held means every objective was met in every second judged."><UButton size="xs">why?</UButton></UTooltip>
        </div>
        <div class="row">
          <UDropdownMenu :items="MENU"><UButton trailing-icon="i-lucide-chevron-down">More</UButton></UDropdownMenu>
          <UPopover>
            <UButton>p95 of Enrol</UButton>
            <template #content><p class="pad">What this staff draws.</p></template>
          </UPopover>
          <UContextMenu :items="MENU"><span class="q">right here: the menu of a machine</span></UContextMenu>
        </div>
        <div class="row">
          <UButton @click="modal = true">A dialog</UButton>
          <UButton @click="aside = true">At the side</UButton>
          <UButton @click="toast.add({ title: 'Saved as version 5.', actions: [{ label: 'Undo' }] })">A toast</UButton>
        </div>
      </section>
      <section class="panel pad">
        <h2>Fields</h2>
        <div class="two">
          <UFormField label="Name" hint="on the sheet"><UInput model-value="Ostervik computing centre" /></UFormField>
          <UFormField label="Not now"><UInput disabled model-value="by the plan" /></UFormField>
          <UFormField label="Users at once" help="The owner allows 600.">
            <NumberInput v-model="users" :min="1" :max="600" whole />
          </UFormField>
          <UFormField label="Port" error="Ports end at 65 535."><UInput model-value="70000" /></UFormField>
          <UFormField label="Location"><PickOne v-model="which" :items="PLACES" /></UFormField>
          <UFormField label="Zone"><PickOne v-model="long" :items="ZONES" /></UFormField>
          <UFormField label="Until"><MomentInput v-model="until" /></UFormField>
          <UFormField label="From"><TimeInput v-model="time" /></UFormField>
          <UFormField label="Name" required error="A host needs a name."><UInput /></UFormField>
          <UFormField label="Find"><UInput icon="i-lucide-search" placeholder="name, address" /></UFormField>
        </div>
        <UFormField label="Hosts with port, one a line"><UTextarea v-model="text" class="font-mono" /></UFormField>
        <FilePick label="A HAR file" accept=".har" />
        <UCalendar class="w-60" />
      </section>
      <section class="panel pad">
        <UTabs
          v-model="tab"
          :content="false"
          :items="[{ label: 'Users', value: 'users' }, { label: 'Failures', value: 'failures', badge: '3' }, { label: 'not yet', value: 'no', disabled: true }]"
        />
        <UTabs
          v-model="tab"
          variant="pill"
          :content="false"
          :items="[{ label: 'by step', value: 'users' }, { label: 'by location', value: 'failures' }]"
        />
        <ListTable name="hosts" :rows="HOSTS" :columns="COLUMNS" :row-key="h => h.name" height="300px">
          <template #head><h2>A list</h2></template>
        </ListTable>
        <UPagination :total="50" :default-page="3" />
        <UBreadcrumb :items="[{ label: 'Journeys', to: '/journeys' }, { label: 'Targets', to: '/targets' }, { label: 'Portal' }]" />
        <UAlert color="error" title="ovk-c refused the key." description="Its host key changed. Accept it, or take the host out." />
        <UAlert color="warning" title="60 users per vCPU is assumed." description="The run can be qualified at best." />
        <UAlert title="Two look at this run." />
        <ProblemNote :problem="{ code: 'silent', sentence: 'Nimbral does not answer.', remedy: 'It is asked again.' }" />
        <UEmpty title="No run yet" description="A run answers the question of a plan." />
      </section>
    </div>
    <UModal v-model:open="modal" title="Release 3 machines" description="What would end now, and what keeping it costs.">
      <template #body><UCheckbox v-model="on" label="Let users finish first" /></template>
      <template #footer>
        <UButton data-focus-first>Keep them</UButton><UButton color="error" variant="solid">Release</UButton>
      </template>
    </UModal>
    <USlideover v-model:open="aside" title="Plan as text" description="Both sides stay the same document.">
      <template #body><UTextarea :rows="8" /></template>
    </USlideover>
  </div>
</template>

<style scoped>
.three {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 12px;
  align-items: start;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}
.pad {
  padding: 10px 12px;
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
</style>

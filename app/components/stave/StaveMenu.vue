<script setup lang="ts">
/** Staffs are added here, and whole staves chosen: ready ones, and those somebody kept under a name. */
import type { DropdownMenuItem } from '@nuxt/ui'
import type { ChosenStave } from './chosen-stave'
import { MOST_STAFFS, printStave } from './stave-staffs'

const { stave } = defineProps<{ stave: ChosenStave }>()
const emit = defineEmits<{ added: [key: string] }>()
const naming = ref(false)
const name = ref('')
const items = computed((): DropdownMenuItem[][] => [
  [
    {
      label: 'Add a staff',
      kbds: ['+'],
      disabled: stave.entries.value.length >= MOST_STAFFS,
      onSelect: () => emit('added', stave.add()),
    },
  ],
  stave.targets.value.length === 0
    ? []
    : [
        {
          label: 'The target’s own',
          children: stave.targets.value.map(name => ({ label: name, onSelect: () => stave.addTarget(name) })),
        },
      ],
  [
    { label: 'Show', type: 'label' },
    { label: 'as the plan asks', onSelect: () => stave.set(stave.usual.value) },
    ...stave.ready.map(({ name, staffs }) => ({ label: name, onSelect: () => stave.show(staffs) })),
  ],
  Object.keys(stave.kept.value).map(name => ({
    label: name,
    children: [
      { label: 'Show', onSelect: () => stave.show(stave.kept.value[name]!) },
      { label: 'Forget', color: 'error' as const, onSelect: () => stave.forget(name) },
    ],
  })),
  [
    {
      label: 'Keep these staffs…',
      onSelect: () => {
        name.value = ''
        naming.value = true
      },
    },
  ],
// Entries are written as the menu takes them.
].filter(group => group.length > 0) as DropdownMenuItem[][])
const replaces = computed(() => name.value.trim() in stave.kept.value)
function keep(): void {
  if (name.value.trim() === '') return
  stave.keep(name.value.trim())
  naming.value = false
}
</script>

<template>
  <UDropdownMenu :items="items" :content="{ align: 'start' }">
    <UButton size="xs" variant="link" class="open" aria-label="Staffs">staffs</UButton>
  </UDropdownMenu>
  <UModal v-if="naming" v-model:open="naming" title="Keep these staffs" description="In this browser, for any run.">
    <template #body>
      <form id="keep-stave" class="dialog-form" @submit.prevent="keep">
        <UFormField label="Name" :hint="replaces ? 'the one of this name is replaced' : undefined">
          <UInput v-model="name" maxlength="60" autofocus />
        </UFormField>
        <p class="q">{{ printStave(stave.entries.value) }}</p>
      </form>
    </template>
    <template #footer>
      <UButton @click="naming = false">Cancel</UButton>
      <UButton type="submit" form="keep-stave" variant="solid" :disabled="name.trim() === ''">Keep</UButton>
    </template>
  </UModal>
</template>

<style scoped>
.open {
  padding: 0;
  height: 18px;
  font-size: 11.5px;
}
</style>

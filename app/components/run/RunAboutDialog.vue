<script setup lang="ts">
/** What people say of a run: its name, notes, tags, the build that was under load, and whether it is pinned. */
import { readTags } from '~~/core/values/tags'
import type { RunView } from '~~/api/views'

const open = defineModel<boolean>('open', { required: true })
const { run } = defineProps<{ run: Pick<RunView, 'line' | 'notes'> }>()
const emit = defineEmits<{ saved: [] }>()
const { problem, guarded } = useGuarded()
const draft = reactive({ name: '', notes: '', tags: '', pinned: false, build: '' })
const saving = ref(false)
watch(
  open,
  (is) => {
    const { name, tags, pinned, build } = run.line
    if (is) Object.assign(draft, { name, notes: run.notes, tags: tags.join(', '), pinned, build })
  },
  { immediate: true },
)
async function save(): Promise<void> {
  saving.value = true
  const saved = await guarded(() =>
    api('describeRun', { run: run.line.id }, { ...draft, tags: readTags(draft.tags) }))
  saving.value = false
  if (!saved) return
  open.value = false
  emit('saved')
}
</script>

<template>
  <UModal v-model:open="open" :title="`About run ${run.line.id}`" description="Nothing is measured or judged by this.">
    <template #body>
      <FaultForm id="about-run" :problem="problem" class="dialog-form" @submit="save">
        <UFormField name="name" label="Name" hint="left empty, its question stands for it">
          <UInput v-model="draft.name" maxlength="80" autofocus />
        </UFormField>
        <UFormField name="build" label="Build under load" hint="runs of one build repeat each other">
          <UInput v-model="draft.build" maxlength="80" class="font-mono" />
        </UFormField>
        <UFormField name="tags" label="Tags, with commas between">
          <UInput v-model="draft.tags" />
        </UFormField>
        <UFormField name="notes" label="Notes">
          <UTextarea v-model="draft.notes" :rows="6" maxlength="10000" />
        </UFormField>
        <UCheckbox v-model="draft.pinned" label="Pinned: the list can show pinned runs alone" />
      </FaultForm>
    </template>
    <template #footer>
      <UButton @click="open = false">Cancel</UButton>
      <UButton v-needs="'operator'" type="submit" form="about-run" variant="solid" :loading="saving">Save</UButton>
    </template>
  </UModal>
</template>

<script setup lang="ts">
/** A place to choose a file or drop one on, that sends it and says how far it has come. */
import type { ApiProblem, UploadedFile } from '~~/api/views'
import { bytes } from '~/format/figures'

const { label, accept } = defineProps<{ label: string, accept: string }>()
const emit = defineEmits<{ sent: [file: UploadedFile], failed: [problem: ApiProblem | undefined] }>()
const sending = ref<{ name: string, size: number, share: number }>()
const over = ref(false)
const input = useTemplateRef<HTMLInputElement>('input')

async function take(list: FileList | null | undefined): Promise<void> {
  const file = list?.[0]
  if (!file) return
  emit('failed', undefined)
  sending.value = { name: file.name, size: file.size, share: 0 }
  try {
    emit(
      'sent',
      await upload(file, (share) => {
        if (sending.value) sending.value.share = share
      }),
    )
  }
  catch (error) {
    emit('failed', problemOf(error))
  }
  sending.value = undefined
  if (input.value) input.value.value = ''
}
</script>

<template>
  <label
    class="pick"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="
      over = false;
      take($event.dataTransfer?.files)
    "
  >
    <input
      ref="input"
      type="file"
      class="sr"
      :accept="accept"
      @change="take(($event.target as HTMLInputElement).files)"
    >
    <template v-if="sending"
    ><b>{{ sending.name }}</b> <span class="q"
    >{{ bytes(sending.size) }}, {{ Math.round(sending.share * 100) }} % sent{{
      sending.share === 1 ? ', being read' : ''
    }}</span
    ></template
    >
    <template v-else
    ><b>{{ label }}</b> <span class="q">choose one, or drop it here</span></template
    >
  </label>
</template>

<style scoped>
.pick {
  display: block;
  border: 1px dashed var(--edge);
  border-radius: 4px;
  background: var(--panel);
  padding: 10px 12px;
  cursor: pointer;
}
.pick.over,
.pick:hover {
  border-color: var(--act);
  background: var(--sel);
}
.pick:focus-within {
  outline: 2px solid var(--act);
  outline-offset: 1px;
}
</style>

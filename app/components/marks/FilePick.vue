<script setup lang="ts">
/** A place to choose a file or drop one on, that sends it and says how far it has come. */
import type { ApiProblem, UploadedFile } from '~~/api/views'
import { bytes } from '~~/core/values/said-figures'

const { label, accept } = defineProps<{ label: string, accept: string }>()
const emit = defineEmits<{ sent: [file: UploadedFile], failed: [problem: ApiProblem | undefined] }>()
const file = ref<File | null>()
const share = ref(0)
watch(file, now => now && void send(now))

async function send(now: File): Promise<void> {
  emit('failed', undefined)
  share.value = 0
  try {
    emit(
      'sent',
      await upload(now, (part) => {
        share.value = part
      }),
    )
  }
  catch (error) {
    emit('failed', problemOf(error))
  }
  file.value = null
}
</script>

<template>
  <UFileUpload
    v-model="file"
    class="w-full"
    :label="label"
    description="choose one, or drop it here"
    :aria-label="label"
    :accept="accept"
    :disabled="!!file"
    :preview="false"
  >
    <template v-if="file" #label>{{ file.name }}</template>
    <template v-if="file" #description>
      {{ bytes(file.size) }}, {{ Math.round(share * 100) }} % sent{{ share === 1 ? ', being read' : '' }}
    </template>
  </UFileUpload>
</template>

<script setup lang="ts">
/** A text input with the reason why what it holds could not be taken, under it. */
import type { StyleValue } from 'vue'

defineOptions({ inheritAttrs: false })
const text = defineModel<string>({ required: true })
const { fault, toldElsewhere = false } = defineProps<{
  fault: string | undefined
  /** The reason is said by what refused it. */
  toldElsewhere?: boolean
}>()
const attrs = useAttrs()
const id = useId()
/** What shapes the whole is its; the rest is the input's. */
const ofInput = computed(() => {
  const { class: _class, style: _style, ...rest } = attrs
  return { ...rest, ...(fault ? { 'aria-invalid': true, 'aria-describedby': id } : {}) }
})
/** A form around it is not sent while it holds what could not be taken. */
const input = useTemplateRef<{ inputRef: HTMLInputElement | null }>('input')
watch(
  () => fault,
  now => input.value?.inputRef?.setCustomValidity(now ?? ''),
)
</script>

<template>
  <span class="whole" :class="attrs.class" :style="attrs.style as StyleValue">
    <UInput ref="input" v-model="text" v-bind="ofInput" class="w-full" />
    <span v-if="fault && !toldElsewhere" :id="id" class="fault s12 brick" role="alert">{{ fault }}</span>
  </span>
</template>

<style scoped>
.whole {
  display: inline-block;
  min-width: 0;
}
.fault {
  display: block;
  margin-top: 2px;
  white-space: normal;
}
</style>

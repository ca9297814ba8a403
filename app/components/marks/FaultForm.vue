<script setup lang="ts">
/**
 * A form that says at each field why what is in it cannot be taken: what a field asks for by itself as one leaves it or
 * sends the form, the rest as the server found it by the schema of the request. A field’s name is where it goes in that
 * request: `profile.name`.
 */
import type { ApiProblem, BodyFault } from '~~/api/views'

const { problem } = defineProps<{ problem?: ApiProblem | undefined }>()
const emit = defineEmits<{ submit: [] }>()
interface FieldError {
  name: string
  message: string
}
const form = useTemplateRef<{
  $el: HTMLFormElement
  setErrors: (errors: FieldError[]) => void
  clear: (name: string) => void
}>('form')
type Field = HTMLInputElement | HTMLTextAreaElement
const isField = (e: Element): e is Field => e instanceof HTMLInputElement || e instanceof HTMLTextAreaElement
const fields = () => [...(form.value?.$el.elements ?? [])].filter(isField)
/** Faults of fields that say theirs themselves have no name here: the form is held back, and nothing is said twice. */
const SAID_THERE = ''

function ownFaults(): FieldError[] {
  return fields()
    .filter(field => !field.validity.valid)
    .map(field => ({ name: field.validity.customError ? SAID_THERE : field.name, message: inWords(field) }))
}
function inWords({ validity, type, maxLength, title }: Field): string {
  if (validity.valueMissing) return 'This is needed.'
  if (validity.typeMismatch && type === 'url') return 'This is no address: it begins with http:// or https://.'
  if (validity.typeMismatch && type === 'email') return 'This is no address of mail.'
  if (validity.tooLong) return `At most ${maxLength} letters.`
  return title || 'This cannot be taken as it is.'
}

/** As the server found them. */
const faults = ref<readonly BodyFault[]>([])
/** A list is one field: what is wrong with one of its parts is said at the whole. */
const fieldOf = (at: string) => {
  const names = fields().map(field => field.name).filter(Boolean)
  return names.find(name => at === name) ?? names.find(name => at.startsWith(`${name}.`))
}
/** None of the fields is where it is. */
const isElsewhere = computed(() => faults.value.length === 0 || faults.value.some(f => fieldOf(f.at) === undefined))
watch(
  () => problem,
  async (now) => {
    faults.value = now?.faults ?? []
    await nextTick()
    form.value?.setErrors(faults.value.map(({ at, sentence }) => ({ name: fieldOf(at) ?? at, message: sentence })))
    if (faults.value.length > 0) focusFirst()
  },
)
/** What is being corrected is not called wrong any more. */
const correct = ({ target }: Event) => (target as Field).name && form.value?.clear((target as Field).name)
async function focusFirst(): Promise<void> {
  await nextTick()
  form.value?.$el.querySelector<HTMLElement>('[aria-invalid=true]')?.focus()
}
</script>

<template>
  <UForm
    ref="form"
    novalidate
    :loading-auto="false"
    :validate-on-input-delay="0"
    :validate="ownFaults"
    :validate-on="['blur', 'change', 'input']"
    @input="correct"
    @submit="emit('submit')"
    @error="focusFirst"
  >
    <ProblemNote v-if="problem && isElsewhere" :problem="problem" />
    <slot />
  </UForm>
</template>

<script setup lang="ts" generic="T extends string | number">
/** One of several: a list, with a search in it where there are more than seven. */
interface Choice {
  value: T
  label: string
  disabled?: boolean
}

defineOptions({ inheritAttrs: false })
const model = defineModel<T>({ required: true })
const { items, placeholder } = defineProps<{ items: readonly Choice[], placeholder?: string }>()

/** More than these are searched. */
const MOST_UNSEARCHED = 7
/** More than these are not all drawn. */
const MOST_UNVIRTUAL = 200
/** The lists below take no empty value; here it stands for “nothing in particular”. */
const NOTHING = '—'
const inside = (value: string | number) => (value === '' ? NOTHING : value)
/** What is chosen and no longer offered is still shown. */
const offered = computed<readonly Choice[]>(() =>
  model.value === '' || items.some(c => c.value === model.value)
    ? items
    : [{ value: model.value, label: String(model.value) }, ...items],
)
/** The list makes every line of itself even while it is closed: until somebody comes near, only the one it shows. */
const isNear = ref(false)
const lines = computed(() =>
  offered.value
    .filter(c => isNear.value || c.value === model.value)
    .map(c => ({ ...c, value: inside(c.value) })),
)
const chosen = computed<string | number | undefined>({
  get: () => (offered.value.some(c => c.value === model.value) ? inside(model.value) : undefined),
  set: (value) => {
    // The list offers these alone.
    model.value = (value === NOTHING ? '' : value) as T
  },
})
</script>

<template>
  <USelectMenu
    v-if="items.length > MOST_UNSEARCHED"
    v-model="chosen"
    v-bind="$attrs"
    :items="lines"
    :placeholder="placeholder"
    value-key="value"
    :virtualize="items.length > MOST_UNVIRTUAL"
    @focus="isNear = true"
    @pointerenter="isNear = true"
    @update:open="isNear = true"
  />
  <USelect
    v-else
    v-model="chosen"
    v-bind="$attrs"
    :items="lines"
    :placeholder="placeholder"
    @focus="isNear = true"
    @pointerenter="isNear = true"
    @update:open="isNear = true"
  />
</template>

<script setup lang="ts">
/** Any number of several, none of them meaning all: a list with check marks, searched where it is long. */
const model = defineModel<string[]>({ required: true })
const { items, all } = defineProps<{
  items: readonly { value: string, label: string }[]
  /** What is said while nothing is chosen: “all groups”. */
  all: string
}>()

/** More than these are searched. */
const MOST_UNSEARCHED = 7
const said = computed(() =>
  model.value.length > 2
    ? `${model.value.length} of ${items.length}`
    : model.value.map(v => items.find(c => c.value === v)?.label ?? v).join(', '),
)
</script>

<template>
  <USelectMenu
    v-model="model"
    multiple
    :items="[...items]"
    value-key="value"
    :search-input="items.length > MOST_UNSEARCHED"
  >
    <span :class="{ q: model.length === 0 }">{{ said || all }}</span>
    <template #content-bottom>
      <UButton v-if="model.length" class="every" size="xs" variant="link" @click="model = []">{{ all }}</UButton>
    </template>
  </USelectMenu>
</template>

<style scoped>
.every {
  margin: 2px 6px 4px;
}
</style>

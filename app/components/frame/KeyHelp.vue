<script setup lang="ts">
/** The keys there are on this screen, and how the screen looks. */
const open = defineModel<boolean>({ required: true })
const { acts, off } = useActList()
const keyed = computed(() => acts.value.filter(a => a.key))
const colour = useColorMode()
const THEMES = [
  { value: 'system', label: 'as the system' },
  { value: 'light', label: 'light' },
  { value: 'dark', label: 'dark' },
]
</script>

<template>
  <UModal v-model:open="open" title="Keys and look" description="Single keys never fire while you type.">
    <template #body>
      <dl class="keys">
        <template v-for="a in keyed" :key="a.key">
          <dt><UKbd v-for="k in a.key!.split('+')" :key="k">{{ k }}</UKbd></dt>
          <dd>{{ a.says }}</dd>
        </template>
      </dl>
      <USwitch v-model="off" label="Single keys are switched off" class="row" />
      <URadioGroup
        v-model="colour.preference"
        legend="Theme"
        orientation="horizontal"
        class="row"
        :items="THEMES"
      />
    </template>
  </UModal>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: max-content 1fr;
  gap: 5px 14px;
}
dt {
  display: flex;
  gap: 3px;
}
.row {
  margin-top: 12px;
}
</style>

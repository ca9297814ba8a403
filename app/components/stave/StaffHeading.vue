<script setup lang="ts">
/** The heading of a staff: its name, which opens what can be changed of it, what its values are of, and the values. */
import type { NamedValues } from '~~/core/result/staff'
import { timeText } from '~~/core/values/said-figures'
import type { ChosenStave } from './chosen-stave'
import type { StavePlace } from './stave-geometry'
import StaffEditor from './StaffEditor.vue'

const { place, stave, named, title, of, unloadedMs = undefined } = defineProps<{
  place: StavePlace
  stave: ChosenStave
  named: NamedValues
  title: string
  /** What its values are of. */
  of: string
  /** Where its dotted line is, if it has one. */
  unloadedMs?: number | undefined
}>()
const UNLOADED = 'What it took with nobody else there: one user, once from each location, in the rehearsal; no network added.'
/** A lower staff has no room to say what its values are of: its name does, to anyone who points at it. */
const LEAST_WITH_OF_PX = 46
/** The staff whose editor is open, by its key. */
const edited = defineModel<string | undefined>('edited', { required: true })
const open = computed({
  get: () => edited.value === place.entry.key,
  set: (is) => {
    if (is) edited.value = place.entry.key
    else if (open.value) edited.value = undefined
  },
})
</script>

<template>
  <div class="heading" :style="{ top: `${place.top}px`, height: `${place.height}px` }" @mousedown.stop @mouseup.stop>
    <h2 :class="{ bare: place.height < LEAST_WITH_OF_PX }">
      <UPopover v-model:open="open" :content="{ side: 'bottom', align: 'start' }" :ui="{ content: 'max-w-none' }">
        <button class="name" :title="`${title}: ${of}`">{{ title }}</button>
        <template #content>
          <StaffEditor
            :entry="place.entry"
            :stave="stave"
            :named="named"
            @renamed="edited = $event"
            @close="edited = undefined"
          />
        </template>
      </UPopover>
    </h2>
    <span v-if="place.height >= LEAST_WITH_OF_PX" class="q clip of" :title="of">{{ of }}</span>
    <slot />
    <span v-if="unloadedMs !== undefined" class="legend" :title="UNLOADED"><i class="bare-dots" />unloaded<b>{{ timeText(unloadedMs) }}</b></span>
  </div>
</template>

<style scoped>
.heading {
  position: absolute;
  left: 0;
  width: 134px;
  display: flex;
  flex-direction: column;
  font-size: 11.5px;
  line-height: 14px;
  overflow: hidden;
  cursor: default;
}
.heading h2 {
  white-space: nowrap;
  min-width: 0;
}
.heading h2.bare {
  margin-bottom: 6px;
}
.of {
  flex: none;
  width: 104px;
}
.name {
  font-size: 12.5px;
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  cursor: pointer;
  font-weight: inherit;
  color: inherit;
}
.name:hover {
  text-decoration: underline;
  text-decoration-color: var(--act);
}
.heading .legend,
.heading :slotted(.legend) {
  display: flex;
  align-items: center;
  gap: 4px;
  color: var(--quiet);
  height: 14px;
  width: 104px;
  flex: none;
}
.heading .legend b,
.heading :slotted(.legend b) {
  margin-left: auto;
  color: var(--ink);
  font-weight: 620;
  white-space: nowrap;
}
.heading :slotted(.legend b.brick) {
  color: var(--brick);
}
.heading :slotted(.legend b.plantx) {
  color: var(--plantx);
}
.heading .legend i,
.heading :slotted(.legend i) {
  width: 14px;
  flex: none;
}
.heading :slotted(.legend .dash) {
  border-top: 2px dashed var(--plan);
}
.heading :slotted(.legend .ink) {
  border-top: 1.6px solid var(--ink);
}
.heading :slotted(.legend .dots) {
  border-top: 2px dotted var(--brick);
}
.heading .bare-dots {
  border-top: 2px dotted var(--quiet);
}
.heading :slotted(.legend .thin) {
  border-top: 1px solid var(--quiet);
}
.heading :slotted(.legend .block) {
  height: 7px;
  width: 7px;
  background: var(--brick);
  margin: 0 3px;
}
.heading :slotted(.legend .arrow) {
  width: 14px;
  height: 16px;
  cursor: pointer;
  color: var(--act);
  font-weight: 700;
  flex: none;
}
</style>

<script setup lang="ts">
/**
 * What the report shows, in its order: switched on and off, dragged, or moved by Alt with the arrows; under the section
 * that is open, its note and what else belongs to it.
 */
import { VueDraggable } from 'vue-draggable-plus'
import { SECTION_NAMES, type ReportWish, type SectionId, type SectionWish } from '~~/core/report/wish'

const sections = defineModel<SectionWish[]>({ required: true })
const steps = defineModel<ReportWish['steps']>('steps', { required: true })
const opened = ref<SectionId>()

function set(id: SectionId, change: Partial<SectionWish>): void {
  sections.value = sections.value.map(s => (s.id === id ? { ...s, ...change } : s))
}
function move(at: number, by: number): void {
  const to = at + by
  if (to < 0 || to >= sections.value.length) return
  const next = [...sections.value]
  next.splice(to, 0, ...next.splice(at, 1))
  sections.value = next
}
function key(event: KeyboardEvent, at: number): void {
  // Of most keys there is none.
  const by = ({ ArrowUp: -1, ArrowDown: 1 } as Record<string, number>)[event.key]
  if (!by || !event.altKey) return
  event.preventDefault()
  move(at, by)
}
</script>

<template>
  <VueDraggable
    v-model="sections"
    handle=".grip"
    :animation="0"
    tag="ul"
    class="choices"
    aria-label="Sections of the report"
  >
    <li v-for="(s, at) in sections" :key="s.id" :class="{ here: opened === s.id }" @keydown="key($event, at)">
      <div class="line">
        <span class="grip" title="Drag to move; Alt and arrows move it too" aria-hidden="true">≡</span>
        <UCheckbox
          :model-value="s.isShown"
          :label="SECTION_NAMES[s.id]"
          @update:model-value="set(s.id, { isShown: $event === true })"
        />
        <span class="spring" />
        <UButton
          size="xs"
          variant="link"
          :aria-expanded="opened === s.id"
          :aria-label="`${s.note ? 'Change the note' : 'Write a note'} under ${SECTION_NAMES[s.id]}`"
          @click="opened = opened === s.id ? undefined : s.id"
        >
          {{ s.note ? 'note' : '+ note' }}
        </UButton>
      </div>
      <div v-if="s.id === 'steps' && s.isShown" class="own">
        <UFormField label="steps told" orientation="horizontal">
          <NumberInput
            v-model="steps"
            :min="1"
            :max="500"
            whole
            size="xs"
            class="few"
          />
        </UFormField>
      </div>
      <div v-if="opened === s.id" class="own">
        <UTextarea
          :model-value="s.note ?? ''"
          :rows="4"
          :maxlength="4000"
          size="sm"
          class="w-full"
          placeholder="Stands under the title: Markdown"
          :aria-label="`Note under ${SECTION_NAMES[s.id]}`"
          @update:model-value="set(s.id, { note: String($event) })"
        />
      </div>
    </li>
  </VueDraggable>
</template>

<style scoped>
.choices {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
  border-top: 1px solid var(--hair);
}
.choices li {
  border-bottom: 1px solid var(--hair);
  padding: 3px 0;
}
.choices li.here {
  background: var(--sel);
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 24px;
}
.spring {
  flex: 1;
}
.grip {
  cursor: grab;
  color: var(--edge);
  user-select: none;
}
.own {
  padding: 2px 4px 4px 20px;
}
.few {
  width: 64px;
}
</style>

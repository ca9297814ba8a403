<script setup lang="ts" generic="T">
/**
 * A list of rows one of which is chosen: one stop of the Tab key, arrows choose. The headless listbox under Nuxt UI
 * takes the focus when its value changes, and letters to search by, which are keys of the screen here.
 */
const at = defineModel<number>({ required: true })
const { rows, rowKey, label } = defineProps<{
  rows: readonly T[]
  rowKey: (row: T, index: number) => string | number
  /** Its accessible name. */
  label: string
}>()
defineSlots<{ row(props: { row: T, index: number }): unknown, after?(): unknown }>()
const list = useTemplateRef('list')

const KEYS: Partial<Record<string, (at: number, last: number) => number>> = {
  ArrowUp: at => at - 1,
  ArrowDown: at => at + 1,
  Home: () => 0,
  End: (_, last) => last,
  PageUp: at => at - 10,
  PageDown: at => at + 10,
}
async function move(event: KeyboardEvent): Promise<void> {
  const to = KEYS[event.key]?.(at.value, rows.length - 1)
  if (to === undefined) return
  event.preventDefault()
  at.value = Math.max(0, Math.min(rows.length - 1, to))
  await nextTick()
  list.value?.querySelector<HTMLElement>('[aria-selected=true]')?.focus()
}
</script>

<template>
  <div ref="list" class="list" role="listbox" :aria-label="label" @keydown="move">
    <button
      v-for="(row, i) in rows"
      :key="rowKey(row, i)"
      class="row"
      role="option"
      :aria-selected="i === at"
      :tabindex="i === at ? 0 : -1"
      @click="at = i"
    >
      <slot name="row" :row="row" :index="i" />
    </button>
    <slot name="after" />
  </div>
</template>

<style scoped>
.list {
  overflow: auto;
  min-height: 0;
}
.row {
  width: 100%;
  text-align: left;
  padding: 4px 10px;
  border-bottom: 1px solid var(--hair);
  cursor: pointer;
}
.row[aria-selected='true'] {
  background: var(--sel);
  box-shadow: inset 3px 0 var(--act);
}
</style>

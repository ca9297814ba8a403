<script setup lang="ts" generic="Row extends object">
/**
 * A list: sorted by its heads, searched, with the columns one wants (remembered), copied as CSV, virtual when long; its
 * rows may unfold into further ones. Arrow keys go from row to row. Slots: a cell by its column's id, its foot as
 * `foot-` and the id, the head of one that is not sorted as `head-` and the id.
 */
import type { DropdownMenuItem, TableColumn } from '@nuxt/ui'
import { useLocalStorage } from '@vueuse/core'
import { CELLS, ListCell } from './list-cell'
import { compareValues, rowsWith, toCsv, type ListColumn } from './list-table'
import { present } from '~~/core/values/present'

const {
  name,
  rows,
  columns,
  rowKey,
  sortedBy,
  height = 'none',
  search = 'Find',
  plain = false,
  empty = 'None.',
  parts,
} = defineProps<{
  /** Says what it lists, and under which name the chosen columns are remembered. */
  name: string
  rows: readonly Row[]
  columns: readonly ListColumn<Row>[]
  rowKey: (row: Row) => string | number
  sortedBy?: { id: string, desc?: boolean }
  /** It scrolls by itself above this height, as CSS says it. */
  height?: string
  /** What the search says while it is empty. */
  search?: string
  /** A few rows inside something larger: without tools, and without heads where they have no words. */
  plain?: boolean
  /** What is said where there is no row. */
  empty?: string
  /** What a row unfolds into; undefined or empty: nothing. */
  parts?: (row: Row) => Row[] | undefined
}>()
const slots = defineSlots<
  Record<string, (at: { row: Row }) => unknown> & { head?: () => unknown, tools?: () => unknown }
>()

/** More rows than these are searched; more than those are not all drawn. */
const MOST_UNSEARCHED = 7
const MOST_DRAWN = 200
/** Of the width, what wide columns have together, %. */
const WIDE_SHARE = 70
/** Height of a row, px. */
const ROW_PX = 29

const wanted = defineModel<string>('wanted', { default: '' })
/** What was chosen; a column of which nothing was said is shown unless it must be asked for. */
const shown = useLocalStorage<Record<string, boolean>>(`vornak.columns.${name}`, {})
const sorting = ref(sortedBy ? [{ id: sortedBy.id, desc: sortedBy.desc ?? false }] : [])
const isShown = (c: ListColumn<Row>) => shown.value[c.id] ?? !c.asked
const visibility = computed(() => Object.fromEntries(columns.map(c => [c.id, isShown(c)])))
const found = computed(() => rowsWith(rows, columns, wanted.value, parts))
/** Which rows are unfolded, by their keys; or all. */
const unfolded = ref<true | Record<string, boolean>>({})
const headless = computed(() => plain && columns.every(c => c.head === ''))
const footed = computed(() => columns.some(c => slots[`foot-${c.id}`]))
const wideOnes = computed(() => columns.filter(c => c.wide && isShown(c)).length)
const order = computed<TableColumn<Row>[]>(() =>
  columns.map(c => ({
    id: c.id,
    header: c.head,
    ...(footed.value ? { footer: c.head } : {}),
    accessorFn: c.value ?? (() => undefined),
    enableSorting: c.value !== undefined,
    sortUndefined: 'last',
    sortingFn: (a, b, id) => compareValues(a.getValue(id), b.getValue(id)),
    meta: {
      class: {
        th: c.num || !c.value ? 'text-right' : '',
        td: `${c.num || !c.value ? 'text-right whitespace-nowrap' : ''} ${c.wide ? 'max-w-0 truncate' : ''}`,
      },
      ...(c.wide ? { style: { th: { width: `${WIDE_SHARE / wideOnes.value}%` } } } : {}),
    },
  })),
)
const choices = computed<DropdownMenuItem[]>(() =>
  columns
    .filter(c => c.head && c.value)
    .map(c => ({
      label: c.head,
      type: 'checkbox',
      checked: isShown(c),
      onUpdateChecked: (is: boolean) => (shown.value = { ...shown.value, [c.id]: is }),
      // The menu stays open: several are chosen at once.
      onSelect: (event: Event) => event.preventDefault(),
    })),
)

provide(CELLS, (column, row) => {
  // Cells are those of this table’s own rows.
  const slot = slots[column]?.({ row: row as Row })
  // As above.
  return Array.isArray(slot) ? slot : [columns.find(c => c.id === column)?.value?.(row as Row) ?? '–']
})
/** How often it was drawn: cells may show what changed around it. */
let stamp = 0
onBeforeUpdate(() => {
  stamp++
})
const copy = useCopy()
const table = useTemplateRef<{ tableApi: { getSortedRowModel: () => { flatRows: { original: Row }[] } } }>('table')
/** What rows unfold into too, whether it is to be seen or not. */
function copyAll(): void {
  const { tableApi } = present(table.value, 'the table whose rows are copied')
  const sorted = tableApi.getSortedRowModel().flatRows.map(r => r.original)
  void copy(toCsv(sorted, columns.filter(isShown)), `${sorted.length} ${sorted.length === 1 ? 'row' : 'rows'} as CSV`)
}

/** From row to row, in the column in which one is. */
function onKey(event: KeyboardEvent): void {
  const by =
    event.key === 'ArrowDown' ? 'nextElementSibling' : event.key === 'ArrowUp' ? 'previousElementSibling' : undefined
  // Keys are pressed in elements.
  const pressedIn = event.target as HTMLElement
  const row = pressedIn.closest('tbody tr')
  if (!by || !row || pressedIn.matches('input, [role=combobox]')) return
  const stops = (r: Element) => [...r.querySelectorAll<HTMLElement>('a, button')]
  const at = stops(row).indexOf(pressedIn)
  const next = row[by] && stops(row[by])
  if (!next?.length) return
  event.preventDefault()
  next[Math.max(0, Math.min(at, next.length - 1))]!.focus()
}
</script>

<template>
  <div @keydown="onKey">
    <div v-if="!plain || slots.head" class="tools">
      <slot name="head" />
      <span class="spring" />
      <slot name="tools" />
      <UButton
        v-if="parts && rows.some(r => parts!(r)?.length)"
        size="sm"
        @click="unfolded = unfolded === true ? {} : true"
      >
        {{ unfolded === true ? 'Fold all' : 'Unfold all' }}
      </UButton>
      <UInput
        v-if="!plain && (rows.length > MOST_UNSEARCHED || wanted)"
        v-model="wanted"
        size="sm"
        icon="i-lucide-search"
        type="search"
        :placeholder="search"
        :aria-label="`Search ${name}`"
      />
      <UDropdownMenu v-if="!plain" :items="choices" :content="{ align: 'end' }">
        <UButton size="sm" trailing-icon="i-lucide-chevron-down" :aria-label="`Columns of ${name}`">Columns</UButton>
      </UDropdownMenu>
      <UButton v-if="!plain" size="sm" :aria-label="`Copy ${name} as CSV`" @click="copyAll">CSV</UButton>
    </div>
    <UTable
      :key="String(rows.length > MOST_DRAWN)"
      ref="table"
      v-model:sorting="sorting"
      v-model:expanded="unfolded"
      :column-visibility="visibility"
      :data="found"
      :columns="order"
      :get-row-id="row => String(rowKey(row))"
      :get-sub-rows="parts"
      :caption="name"
      :class="{ panel: height !== 'none' }"
      sticky="header"
      :ui="headless ? { thead: 'hidden' } : undefined"
      :style="{ maxHeight: height === 'none' ? undefined : height }"
      :virtualize="rows.length > MOST_DRAWN ? { estimateSize: ROW_PX } : false"
      :watch-options="{ deep: false }"
    >
      <template v-for="c in columns" :key="c.id" #[`${c.id}-header`]="{ column }">
        <UButton
          v-if="c.value && c.head && !plain"
          class="head"
          size="xs"
          variant="ghost"
          :trailing-icon="
            { asc: 'i-lucide-arrow-up', desc: 'i-lucide-arrow-down' }[String(column.getIsSorted())]
          "
          @click="column.toggleSorting(column.getIsSorted() === 'asc')"
        >
          {{ c.head }}
        </UButton>
        <slot v-else :name="`head-${c.id}`" :row="undefined as never"><span :class="{ sr: !c.head }">{{ c.head || 'Acts' }}</span></slot>
      </template>
      <template v-for="c in columns" :key="c.id" #[`${c.id}-cell`]="{ row }">
        <UButton
          v-if="parts && c === columns[0] && row.depth === 0"
          class="fold"
          size="xs"
          variant="ghost"
          :icon="row.getIsExpanded() ? 'i-lucide-chevron-down' : 'i-lucide-chevron-right'"
          :disabled="!row.getCanExpand()"
          :aria-expanded="row.getIsExpanded()"
          :aria-label="`Unfold ${c.value?.(row.original)}`"
          @click="row.toggleExpanded()"
        />
        <span v-else-if="parts && c === columns[0]" class="inner" />
        <ListCell :column="c.id" :row="row.original" :stamp="stamp" />
      </template>
      <template v-for="c in footed ? columns : []" :key="c.id" #[`${c.id}-footer`]>
        <slot :name="`foot-${c.id}`" :row="undefined as never"><span class="sr">no sum</span></slot>
      </template>
      <template #empty>
        <span class="q">{{ wanted ? `No row has “${wanted}”.` : empty }}</span>
      </template>
    </UTable>
  </div>
</template>

<style scoped>
.fold {
  margin: -3px 2px -3px -6px;
  vertical-align: middle;
}
/* The table puts a row for a slot of its own below each unfolded one; here further rows follow instead. */
:deep(tr[data-expanded='true'] + tr:not([data-expanded])) {
  display: none;
}
.inner {
  display: inline-block;
  width: 18px;
}
.tools {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 30px;
}
.spring {
  flex: 1;
}
.head {
  font-weight: 400;
  color: var(--quiet);
  margin: 0 -6px;
}
</style>

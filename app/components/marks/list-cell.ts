import { defineComponent, inject, type InjectionKey, type VNodeArrayChildren } from 'vue'

/** What a cell of a list shows, by its column and row. */
export const CELLS: InjectionKey<(column: string, row: object) => VNodeArrayChildren> = Symbol('cells of a list')

/**
 * A cell that is drawn anew when its row, or what it reads, is another; not whenever the list scrolls, as the rows of
 * the table are. `stamp`: how often the list itself was drawn.
 */
export const ListCell = defineComponent({
  name: 'ListCell',
  props: { column: { type: String, required: true }, row: { type: Object, required: true }, stamp: Number },
  setup(props) {
    // Its table provides it.
    const cells = inject(CELLS)!
    return () => cells(props.column, props.row)
  },
})

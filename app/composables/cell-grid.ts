/**
 * A grid of cells one edits like a spreadsheet: arrows move, Shift widens what is chosen, typing replaces, Enter edits,
 * Esc leaves; blocks are copied and pasted. What the cells mean is the caller's.
 */

export interface CellGrid {
  rows: () => number
  columns: () => number
  /** What is typed to get this cell. */
  textAt: (row: number, column: number) => string
  /** Writes all of these at once, or none. @returns what is wrong with one, with its place */
  write: (
    cells: { row: number, column: number, text: string }[],
  ) => { row: number, column: number, problem: string } | undefined
  /** May not be emptied or filled from its neighbour. */
  fixed?: (column: number) => boolean
}

/** What the rows of a grid need of it. */
export type CellGridHands = ReturnType<typeof useCellGrid>

export function useCellGrid(grid: CellGrid, frame: Ref<HTMLElement | null>) {
  const at = ref({ row: 0, column: 0 })
  /** The other corner of what is chosen. */
  const corner = ref({ row: 0, column: 0 })
  const editing = ref<string>()
  const complaint = ref<string>()
  const remark = ref<string>()

  const block = computed(() => ({
    top: Math.min(at.value.row, corner.value.row),
    bottom: Math.max(at.value.row, corner.value.row),
    left: Math.min(at.value.column, corner.value.column),
    right: Math.max(at.value.column, corner.value.column),
  }))
  const isAt = (row: number, column: number) => at.value.row === row && at.value.column === column
  const clamp = (n: number, most: number) => Math.min(most - 1, Math.max(0, n))

  function choose(row: number, column: number): void {
    at.value = corner.value = { row, column }
  }

  function move(row: number, column: number, widen = false): void {
    at.value = { row: clamp(row, grid.rows()), column: clamp(column, grid.columns()) }
    if (!widen) corner.value = { ...at.value }
    const cell = frame.value?.querySelector<HTMLElement>(`[data-cell="${at.value.row}-${at.value.column}"]`)
    cell?.focus()
    cell?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }

  function write(cells: { row: number, column: number, text: string }[]): boolean {
    const wrong = grid.write(cells)
    complaint.value = wrong?.problem
    if (wrong) move(wrong.row, wrong.column)
    return !wrong
  }

  function begin(text: string): void {
    editing.value = text
    remark.value = undefined
    void nextTick(() => frame.value?.querySelector<HTMLInputElement>('input.edit')?.focus())
  }

  function finish(keep: boolean, then?: [rows: number, columns: number]): void {
    const { row, column } = at.value
    if (editing.value === undefined) return
    if (keep) {
      const wrong = grid.write([{ row, column, text: editing.value }])
      complaint.value = wrong?.problem
      if (wrong) return
    }
    else complaint.value = undefined
    editing.value = undefined
    void nextTick(() => move(row + (then?.[0] ?? 0), column + (then?.[1] ?? 0)))
  }

  const STEPS: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
  }

  function onCellKey(event: KeyboardEvent): void {
    if (editing.value !== undefined || event.altKey) return
    const { row, column } = at.value
    if (event.ctrlKey || event.metaKey) {
      if (event.key !== 'a') return
      at.value = { row: 0, column: 0 }
      corner.value = { row: grid.rows() - 1, column: grid.columns() - 1 }
      return event.preventDefault()
    }
    const by = STEPS[event.key]
    if (by) move(row + by[0], column + by[1], event.shiftKey)
    else if (event.key === 'Home') move(row, 0)
    else if (event.key === 'End') move(row, grid.columns() - 1)
    else if (event.key === 'Enter' || event.key === 'F2') begin(grid.textAt(row, column))
    // Keys are pressed in elements.
    else if (event.key === 'Escape') (event.target as HTMLElement).blur()
    else if (event.key === '>') fillRight()
    else if (event.key === 'Delete' || event.key === 'Backspace')
      write(
        chosen()
          .filter(c => !grid.fixed?.(c.column))
          .map(c => ({ ...c, text: '' })),
      )
    else if (event.key.length === 1) begin(event.key)
    else return
    event.preventDefault()
  }

  function chosen(): { row: number, column: number }[] {
    const { top, bottom, left, right } = block.value
    return range(top, bottom).flatMap(row => range(left, right).map(column => ({ row, column })))
  }

  /** Every chosen row's first chosen cell, into all cells to the right of it: of the choice, or of the row. */
  function fillRight(): void {
    const { top, bottom, left, right } = block.value
    if (grid.fixed?.(left)) return
    const last = right > left ? right : grid.columns() - 1
    write(
      range(top, bottom).flatMap(row =>
        range(left + 1, last).map(column => ({ row, column, text: grid.textAt(row, left) })),
      ),
    )
  }

  function onEditKey(event: KeyboardEvent): void {
    event.stopPropagation()
    if (event.key === 'Enter') finish(true, [1, 0])
    else if (event.key === 'Tab') {
      event.preventDefault()
      finish(true, [0, event.shiftKey ? -1 : 1])
    }
    else if (event.key === 'Escape') finish(false)
  }

  function onPaste(event: ClipboardEvent): void {
    if (editing.value !== undefined) return
    event.preventDefault()
    const lines = (event.clipboardData?.getData('text/plain') ?? '')
      .replace(/\r?\n$/, '')
      .split(/\r?\n/)
      .map(r => r.split('\t'))
    const { top, left } = block.value
    const cells = lines.flatMap((line, r) => line.map((text, c) => ({ row: top + r, column: left + c, text })))
    const inside = cells.filter(c => c.row < grid.rows() && c.column < grid.columns())
    if (!write(inside)) return
    const outside = cells.length - inside.length
    remark.value =
      outside > 0 ? `${outside} of the ${cells.length} pasted cells lie outside the grid and were left out.` : undefined
  }

  function onCopy(event: ClipboardEvent): void {
    if (editing.value !== undefined) return
    event.preventDefault()
    const { top, bottom, left, right } = block.value
    event.clipboardData?.setData(
      'text/plain',
      range(top, bottom)
        .map(row =>
          range(left, right)
            .map(column => grid.textAt(row, column))
            .join('\t'),
        )
        .join('\n'),
    )
  }

  return {
    at,
    block,
    textAt: grid.textAt,
    editing,
    complaint,
    remark,
    isAt,
    choose,
    move,
    begin,
    finish,
    onCellKey,
    onEditKey,
    onPaste,
    onCopy,
  }
}

function range(from: number, to: number): number[] {
  return Array.from({ length: Math.max(0, to - from + 1) }, (_, i) => from + i)
}

/** As much of an element as is asked of it here: this file is read where there is no document, too. */
interface Place {
  querySelector(selector: string): Place | null
  focus(): void
}

/**
 * Where the focus goes when a dialog opens: to what is marked for it, else to its first field, else to its main act;
 * never to the cross that closes it.
 */
export function focusFirst(event: { target: unknown, preventDefault(): void }): void {
  // The dialog itself tells of its opening.
  const dialog = event.target as Place | null
  const first = dialog?.querySelector('[data-focus-first]')
    ?? dialog?.querySelector(
      '[data-slot=body] :is(input, textarea, [role=combobox], [role=checkbox], [role=radio], [role=switch]):not(:disabled)',
    )
    ?? dialog?.querySelector('[data-slot=footer] button:last-of-type')
  if (!first) return
  event.preventDefault()
  first.focus()
}

/** Puts the focus somewhere, once what is there has been drawn. @param selector of the first element meant */
export async function focusOn(selector: string): Promise<void> {
  await nextTick()
  document.querySelector<HTMLElement>(selector)?.focus()
}

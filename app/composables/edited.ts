/** A document on the screen that is being edited: every change can be undone, and is checked once one pauses. */

/** Pause after the last change before the document is checked, ms. */
const CHECK_AFTER_MS = 150
const MOST_UNDO = 200

/** @param check asks the server what is wrong with the document as it is now */
export function useEdited<T extends object>(check: () => Promise<void>) {
  const now = ref<T>() as Ref<T | undefined>
  const past = ref<string[]>([])
  let timer: ReturnType<typeof setTimeout> | undefined

  /** Begins with a document as it was saved; undefined while it is on its way. */
  function begin(saved: T | undefined): void {
    clearTimeout(timer)
    now.value = saved && structuredClone(saved)
    past.value = []
  }

  function edit(change: (document: T) => void): void {
    if (!now.value) return
    const before = JSON.stringify(now.value)
    change(now.value)
    if (JSON.stringify(now.value) === before) return
    past.value.push(before)
    if (past.value.length > MOST_UNDO) past.value.shift()
    checkSoon()
  }

  function undo(): void {
    const before = past.value.pop()
    if (before === undefined) return
    now.value = JSON.parse(before) as T
    checkSoon()
  }

  function checkSoon(): void {
    clearTimeout(timer)
    timer = setTimeout(() => void check(), CHECK_AFTER_MS)
  }

  return { now, past, begin, edit, undo }
}

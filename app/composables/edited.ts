import type { Draft } from './drafts'

/**
 * A document on the screen that is being edited: every change can be undone and done again, is checked once one pauses,
 * and is kept in this browser until it is saved, so that leaving loses nothing.
 */

/** Pause after the last change before the document is checked, ms. */
const CHECK_AFTER_MS = 150
const MOST_UNDO = 200

/**
 * @param kind of document, as drafts are told apart
 * @param check asks the server what is wrong with the document as it is now
 */
export function useEdited<T extends object>(kind: string, check: () => Promise<void>) {
  const now = ref<T>() as Ref<T | undefined>
  const past = ref<string[]>([])
  const future = ref<string[]>([])
  const drafts = draftStore(kind)
  let timer: ReturnType<typeof setTimeout> | undefined
  let base = { on: 0, saved: '' }

  /**
   * Begins with a document as it was saved; undefined while it is on its way.
   *
   * @param id under which its draft is kept; left out: none is
   * @param on version that was saved
   * @returns the draft that came back: when and on which version it was made; undefined where there was none
   */
  function begin(saved: T | undefined, id?: string, on = 0): Draft | undefined {
    clearTimeout(timer)
    if (JSON.stringify(now.value) !== JSON.stringify(saved)) now.value = saved && structuredClone(saved)
    past.value = []
    future.value = []
    base = { on, saved: JSON.stringify(saved) }
    const draft = drafts.open(id)
    if (!draft || draft.document === base.saved) return undefined
    // Somebody may have saved since: it stays on its own version, so that saving tells.
    base.on = draft.on
    past.value = [base.saved]
    now.value = JSON.parse(draft.document) as T
    keep()
    return draft
  }

  function edit(change: (document: T) => void): void {
    if (!now.value) return
    const before = JSON.stringify(now.value)
    change(now.value)
    if (JSON.stringify(now.value) === before) return
    past.value.push(before)
    future.value = []
    if (past.value.length > MOST_UNDO) past.value.shift()
    keep()
  }

  function step(from: string[], to: string[]): void {
    const other = from.pop()
    if (other === undefined) return
    to.push(JSON.stringify(now.value))
    now.value = JSON.parse(other) as T
    keep()
  }
  const undo = () => step(past.value, future.value)
  const redo = () => step(future.value, past.value)

  function keep(): void {
    clearTimeout(timer)
    timer = setTimeout(() => void check(), CHECK_AFTER_MS)
    const document = JSON.stringify(now.value)
    if (document === base.saved) drafts.drop()
    else drafts.keep(document, base.on)
  }

  /** It was saved, as a version: nothing of it is a draft any more. */
  function settled(saved: T, on: number): void {
    base = { on, saved: JSON.stringify(saved) }
    drafts.drop()
  }

  return { now, past, future, begin, settled, edit, undo, redo }
}

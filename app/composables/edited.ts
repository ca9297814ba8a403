import type { Draft } from './drafts'

/**
 * A document on the screen that is being edited: every change can be undone and done again, is checked once one pauses,
 * and is kept in this browser until it is saved, so that leaving loses nothing. Of a change only the parts it touched
 * are new objects.
 */

/** Pause after the last change before the document is checked, ms. */
const CHECK_AFTER_MS = 150
const MOST_UNDO = 200

/**
 * @param kind of document, as drafts are told apart
 * @param check asks the server what is wrong with the document as it is now
 */
export function useEdited<T extends object>(kind: string, check: () => Promise<void>) {
  const now = shallowRef<T>()
  /** The same as text. */
  let text: string | undefined
  /** What the last change was made along. */
  let goesOn: object | undefined
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
    goesOn = undefined
    show(JSON.stringify(saved))
    past.value = []
    future.value = []
    base = { on, saved: text ?? '' }
    const draft = drafts.open(id)
    if (!draft || draft.document === base.saved) return undefined
    // Somebody may have saved since: it stays on its own version, so that saving tells.
    base.on = draft.on
    past.value = [base.saved]
    show(draft.document)
    keep()
    return draft
  }

  function show(document: string | undefined): void {
    if (document === text) return
    text = document
    now.value = document === undefined ? undefined : keepingUnchanged(now.value, read(document))
  }

  /**
   * @param change makes of the document it is given what it is to be
   * @param along changes that are made along one thing, such as a drag, are one step to undo
   */
  function edit(change: (document: T) => void, along?: object): void {
    if (text === undefined) return
    const before = text
    const document = read(before)
    change(document)
    show(JSON.stringify(document))
    if (text === before) return
    if (along === undefined || along !== goesOn) past.value.push(before)
    goesOn = along
    // It came back to where it had begun.
    if (along && past.value.at(-1) === text) {
      past.value.pop()
      goesOn = undefined
    }
    future.value = []
    if (past.value.length > MOST_UNDO) past.value.shift()
    keep()
  }

  function step(from: string[], to: string[]): void {
    if (text === undefined) return
    const other = from.pop()
    if (other === undefined) return
    to.push(text)
    goesOn = undefined
    show(other)
    keep()
  }
  const undo = () => step(past.value, future.value)
  const redo = () => step(future.value, past.value)

  function keep(): void {
    clearTimeout(timer)
    timer = setTimeout(() => void check(), CHECK_AFTER_MS)
    if (text === base.saved) drafts.drop()
    else if (text !== undefined) drafts.keep(text, base.on)
  }

  /** It was saved, as a version: nothing of it is a draft any more. */
  function settled(saved: T, on: number): void {
    base = { on, saved: JSON.stringify(saved) }
    drafts.drop()
  }

  /** It was written from one. */
  function read(document: string): T {
    return JSON.parse(document)
  }

  return { now, past, future, begin, settled, edit, undo, redo }
}

/**
 * What is edited and not saved, kept in this browser. A draft belongs to the tab that writes it as long as that tab is
 * there: another that opens the same document begins with what was saved.
 */

/** A tab says this often that it is there, and is gone when it has not for so long, ms. */
const ALIVE_EVERY_MS = 4000
const GONE_AFTER_MS = 10_000

export interface Draft {
  /** Version it was made on. */
  on: number
  document: string
  at: number
  tab: string
  aliveAt: number
}

const tab = Math.random().toString(36).slice(2)

export function draftStore(kind: string) {
  let place = ''
  let timer: ReturnType<typeof setInterval> | undefined

  // A browser that keeps nothing, or no more, or kept rubbish, must not stand in the way of editing.
  function read(): Draft | null {
    try {
      // Written here, by this release or an earlier one.
      return JSON.parse(localStorage.getItem(place) ?? 'null') as Draft | null
    }
    catch {
      return null
    }
  }
  function write(draft: Draft): void {
    try {
      localStorage.setItem(place, JSON.stringify(draft))
    }
    catch {
      stop()
    }
  }
  const stop = () => clearInterval(timer)
  /** Closed or gone to another page, the tab has no draft any more: the next to come may have it. */
  const release = () => {
    stop()
    const draft = place ? read() : null
    if (draft?.tab === tab) write({ ...draft, aliveAt: 0 })
  }
  window.addEventListener('pagehide', release)

  return {
    /** The draft of a document, unless another tab is at it. It may be of an older version than is saved by now. */
    open(id: string | undefined): Draft | undefined {
      release()
      place = id === undefined ? '' : `vornak.draft.${kind}.${id}`
      const draft = place ? read() : null
      return !draft || (draft.tab !== tab && Date.now() - draft.aliveAt < GONE_AFTER_MS) ? undefined : draft
    },
    keep(document: string, on: number): void {
      if (!place) return
      write({ on, document, at: Date.now(), tab, aliveAt: Date.now() })
      stop()
      timer = setInterval(() => {
        const draft = read()
        if (draft?.tab === tab) write({ ...draft, aliveAt: Date.now() })
      }, ALIVE_EVERY_MS)
    },
    drop(): void {
      stop()
      if (place && (read()?.tab ?? tab) === tab) localStorage.removeItem(place)
    },
  }
}

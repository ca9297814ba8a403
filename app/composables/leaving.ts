/** Leaving a screen with what is not saved: asked once, by the browser where it is closed, by a dialog elsewhere. */

export interface Leaving {
  /** What is not saved, as the sentence names it: “the plan”. */
  what: string
  /** Whether it comes back when one returns. */
  draft: boolean
  save: () => Promise<boolean>
  answer: (leave: boolean) => void
}

const leaving = shallowRef<Leaving>()
/** What is being asked now; shown by the frame. */
export const useLeavingQuestion = () => leaving

export function useLeaving(what: string, changed: () => boolean, save: () => Promise<boolean>, draft = true): void {
  const closing = (event: BeforeUnloadEvent) => {
    if (changed()) event.preventDefault()
  }
  onMounted(() => window.addEventListener('beforeunload', closing))
  onUnmounted(() => window.removeEventListener('beforeunload', closing))
  onBeforeRouteLeave(() => {
    if (!changed()) return true
    return new Promise<boolean>((resolve) => {
      leaving.value = {
        what,
        draft,
        save,
        answer(leave) {
          leaving.value = undefined
          resolve(leave)
        },
      }
    })
  })
}

/**
 * What is open or chosen on a page as part of its address: it survives a reload, can be sent to somebody, and *Back*
 * closes it.
 */
import { isNavigationFailure, NavigationFailureType } from 'vue-router'

/** What the address is to say in one turn: several changes of one moment are one step of the history. */
let wanted: Record<string, string | undefined> | undefined
/** The address is being made to say so; going elsewhere meanwhile waits until that is done. */
let writing: Promise<void> | undefined

/** Somebody is on their way to another page. */
let leaving = false

/** A step back in the history takes no longer: turns of {@link TURN_MS}, so that a busy page is not taken for late. */
const MOST_BACK_TURNS = 30
const TURN_MS = 100

/** @param name in the address @returns what it says there; undefined: nothing */
export function useInAddress(name: string): WritableComputedRef<string | undefined> {
  const route = useRoute()
  const router = useRouter()
  return computed({
    get: () => {
      const value = route.query[name]
      return typeof value === 'string' ? value : undefined
    },
    set: (value) => {
      wanted ??= {}
      wanted[name] = value
      writing ??= Promise.resolve()
        .then(() => write(router))
        .finally(() => {
          writing = undefined
        })
    },
  })
}

/** The same of something that is open or not. */
export function useOpenInAddress(name: string, value: string): WritableComputedRef<boolean> {
  const now = useInAddress(name)
  return computed({
    get: () => now.value === value,
    set: (is) => {
      if (is) now.value = value
      else if (now.value === value) now.value = undefined
    },
  })
}

/** The same of things of a kind, one of which may be open: `group:A`. @returns which; empty: a new one */
export function useOneInAddress(name: string, kind: string): WritableComputedRef<string | undefined> {
  const now = useInAddress(name)
  const before = `${kind}:`
  return computed({
    get: () => (now.value?.startsWith(before) ? now.value.slice(before.length) : undefined),
    set: (which) => {
      if (which !== undefined) now.value = before + which
      else if (now.value?.startsWith(before)) now.value = undefined
    },
  })
}

async function write(router: ReturnType<typeof useRouter>): Promise<void> {
  while (wanted) {
    const changes = wanted
    wanted = undefined
    // What the address of a page says that is being left, nobody reads.
    if (leaving) return
    const { query, path, hash, fullPath } = router.currentRoute.value
    const after = Object.fromEntries(Object.entries({ ...query, ...changes }).filter(([, v]) => v !== undefined))
    const to = router.resolve({ path, hash, query: after })
    if (to.fullPath === fullPath) continue
    // The router keeps that there.
    const { back } = history.state as { back?: string | null }
    if (Object.values(changes).some(value => value !== undefined)) await router.push(to)
    else if (back === to.fullPath) await goBackTo(to.fullPath, router)
    else await router.replace(to)
  }
}

function goBackTo(fullPath: string, router: ReturnType<typeof useRouter>): Promise<void> {
  return new Promise((resolve) => {
    const done = () => {
      stop()
      clearInterval(late)
      resolve()
    }
    // Anyone who was turned away meanwhile is told here too.
    const stop = router.afterEach(to => to.fullPath === fullPath && done())
    // A browser that does not go back must not keep everybody waiting.
    let turns = 0
    const late = setInterval(() => ++turns > MOST_BACK_TURNS && done(), TURN_MS)
    router.back()
  })
}

/**
 * Anyone who is sent elsewhere while a dialog closes gets there, and not back, whichever of the two begins first.
 * Called by the frame.
 */
export function keepBackInOrder(): void {
  const router = useRouter()
  const goLater = (to: string) => void writing?.then(() => router.push(to))
  const stops = [
    router.beforeEach((to, from) => {
      if (to.path === from.path) return true
      if (!writing) {
        leaving = true
        return true
      }
      goLater(to.fullPath)
      return false
    }),
    router.afterEach((to, from, failure) => {
      if (to.path === from.path) return
      leaving = false
      // A step in the address began between, and called it off.
      if (isNavigationFailure(failure, NavigationFailureType.cancelled)) goLater(to.fullPath)
    }),
  ]
  onUnmounted(() => {
    for (const stop of stops) stop()
  })
}

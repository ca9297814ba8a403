/**
 * What stood on a screen when one was last there: shown at once, and replaced as soon as it has been read again. Parts
 * that have not changed stay the same objects, so that only what is new is drawn.
 *
 * @param what names it; kept for the one who sits here now alone, and in this tab
 */
export function useLastSeen<T>(what: string): WritableComputedRef<T | undefined> {
  const key = `${useMe().view?.person?.name ?? ''} ${what}`
  // What is kept under a name is what was kept under it.
  const now = shallowRef(seen.get(key) as T | undefined)
  return computed({
    get: () => now.value,
    set: (value) => {
      now.value = keepingUnchanged(now.value, value)
      seen.set(key, now.value)
    },
  })
}

const seen = new Map<string, unknown>()

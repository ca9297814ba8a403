/**
 * Two pages of one kind share a store, and from one to the next both are there for a moment. What would take away what
 * the one shows waits until that has gone; where there is none, it begins before the page is drawn.
 *
 * @returns whether it has begun: until then the store has what the other page shows
 */
export function whenAlone(kind: string, act: () => void): Readonly<Ref<boolean>> {
  const others = here.get(kind) ?? 0
  here.set(kind, others + 1)
  onUnmounted(() => here.set(kind, (here.get(kind) ?? 1) - 1))
  const hasBegun = ref(others === 0)
  if (hasBegun.value) act()
  else
    onMounted(() => {
      act()
      hasBegun.value = true
    })
  return hasBegun
}

/** Pages that are there, by kind. */
const here = new Map<string, number>()

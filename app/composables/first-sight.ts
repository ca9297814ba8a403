/**
 * What lies below the first sight of a long screen is made once that is there: the screen is usable sooner.
 *
 * @returns whether it may be made now
 */
export function useAfterFirstSight(): Readonly<Ref<boolean>> {
  const now = ref(false)
  // The first frame shows what was made with the screen; the second begins once that was drawn.
  onMounted(() => requestAnimationFrame(() => requestAnimationFrame(() => {
    now.value = true
  })))
  return now
}

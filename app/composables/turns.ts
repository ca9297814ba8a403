/**
 * Heavy parts of a screen are made one after the other: between two of them the browser draws, and answers keys.
 *
 * @returns whether it is the calling part’s turn, or was
 */
export function useTurn(): Readonly<Ref<boolean>> {
  const isMade = ref(false)
  const take = () => {
    isMade.value = true
  }
  onMounted(() => {
    if (waiting.push(take) === 1) next()
  })
  onUnmounted(() => {
    const at = waiting.indexOf(take)
    if (at >= 0) waiting.splice(at, 1)
  })
  return isMade
}

/** Whose turn comes, in the order of the screen. */
const waiting: (() => void)[] = []

/** After the next frame was drawn. One who went meanwhile leaves the turn to nobody: the queue goes on all the same. */
function next(): void {
  requestAnimationFrame(() =>
    setTimeout(() => {
      waiting.shift()?.()
      if (waiting.length > 0) next()
    }),
  )
}

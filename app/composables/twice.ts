/**
 * What cannot be undone is pressed twice: the first time arms it for a moment, and the button says what the second
 * would do.
 */

/** How long it stays armed, ms. */
const ARMED_MS = 4000

export function useTwice() {
  /** What is armed now: a name where there are several such buttons. */
  const armed = ref<string>()
  let timer: ReturnType<typeof setTimeout> | undefined

  function press(act: () => unknown, name = 'it'): void {
    clearTimeout(timer)
    if (armed.value === name) {
      armed.value = undefined
      act()
      return
    }
    armed.value = name
    timer = setTimeout(() => {
      armed.value = undefined
    }, ARMED_MS)
  }
  onUnmounted(() => clearTimeout(timer))
  return { armed, press }
}

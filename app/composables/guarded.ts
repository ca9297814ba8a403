/** Runs what may fail and keeps what went wrong for the screen; a success takes it away. */
import type { ApiProblem } from '~~/api/views'

export function useGuarded() {
  const problem = ref<ApiProblem>()

  /** @returns whether it went well */
  async function guarded(act: () => Promise<unknown>): Promise<boolean> {
    try {
      await act()
      problem.value = undefined
      return true
    }
    catch (error) {
      problem.value = problemOf(error)
      return false
    }
  }

  /** What is read when the screen opens. @returns undefined while it is on its way, or when it failed */
  function read<T>(path: string) {
    const found = ref<T>()
    const load = () => guarded(async () => { found.value = await api<T>(path) })
    onMounted(load)
    return { found, load }
  }

  return { problem, guarded, read }
}

/**
 * Runs what may fail and keeps what went wrong for the screen; a success takes away what went wrong before, an act that
 * of acts, a reading that of readings.
 */
import type { ApiProblem } from '~~/api/views'

export function useGuarded() {
  const ofActs = ref<ApiProblem>()
  const ofReading = ref<ApiProblem>()
  const problem = computed({
    get: () => ofActs.value ?? ofReading.value,
    set: (value) => {
      ofActs.value = value
      ofReading.value = undefined
    },
  })

  /** @returns whether it went well */
  function guarded(act: () => Promise<unknown>): Promise<boolean> {
    return guardedInto(ofActs, act)
  }

  /** What is read when the screen opens. @returns undefined while it is on its way, or when it failed */
  function read<T>(path: string) {
    const found = ref<T>()
    const load = () =>
      guardedInto(ofReading, async () => {
        found.value = await api<T>(path)
      })
    onMounted(load)
    return { found, load }
  }

  return { problem, guarded, read }
}

async function guardedInto(problem: Ref<ApiProblem | undefined>, act: () => Promise<unknown>): Promise<boolean> {
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

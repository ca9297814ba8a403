/**
 * Runs what may fail and keeps what went wrong for the screen; a success takes away what went wrong before, an act that
 * of acts, a reading that of readings. What is read when a screen opens is asked for until the server answers.
 */
import type { Answers } from '~~/api/answers'
import type { JsonOperation } from '~~/api/operations'
import type { ApiProblem } from '~~/api/views'

/** A server that did not answer is asked again after this, ms. */
const AGAIN_MS = 3000

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

  /**
   * What is read when the screen opens, and again whenever news says so: an older answer never replaces a newer one.
   *
   * @returns undefined while it is on its way, or when it failed
   */
  function read<K extends JsonOperation>(operation: K, ...sent: Sent<K>) {
    const found = ref<Answers[K]>()
    const newest = newestOnly()
    let gone = false
    const load = async (): Promise<boolean> => {
      const ok = await guardedInto(ofReading, async () => {
        const answer = await newest(() => api(operation, ...sent))
        if (answer !== undefined) found.value = answer
      })
      // As the sentence says: this page tries again.
      if (ofReading.value?.code === 'silent') setTimeout(() => void (gone || load()), AGAIN_MS)
      return ok
    }
    onMounted(load)
    onUnmounted(() => {
      gone = true
    })
    return { found, load }
  }

  return { problem, guarded, read }
}

async function guardedInto(problem: Ref<ApiProblem | undefined>, act: () => Promise<unknown>): Promise<boolean> {
  const before = problem.value
  try {
    await act()
    // What went wrong meanwhile, with another act, stays.
    if (problem.value === before) problem.value = undefined
    return true
  }
  catch (error) {
    problem.value = problemOf(error)
    return false
  }
}

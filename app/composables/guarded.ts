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

  let gone = false
  onScopeDispose(() => {
    gone = true
  })
  /** @returns reads, and asks for the same until the server answers, or it is asked for anew, or the screen is gone */
  function reader() {
    let again: ReturnType<typeof setTimeout> | undefined
    return async function reading(act: () => Promise<unknown>): Promise<boolean> {
      clearTimeout(again)
      const ok = await guardedInto(ofReading, act)
      // As the sentence says: this page tries again.
      if (!ok && !gone && ofReading.value?.code === 'silent') {
        clearTimeout(again)
        again = setTimeout(() => void (gone || reading(act)), AGAIN_MS)
      }
      return ok
    }
  }
  /** What a screen reads in its own way, one thing at a time. */
  const reading = reader()

  /**
   * What is read as the screen opens, and again whenever news says so: an older answer never replaces a newer one.
   *
   * @returns undefined while it is on its way, or when it failed
   */
  function read<K extends JsonOperation>(operation: K, ...sent: Sent<K>) {
    return readInto<K>(ref(), operation, sent)
  }
  /** The same, beginning with what was there when one last looked; nothing of it may be changed in place. */
  function readSeen<K extends JsonOperation>(operation: K, ...sent: Sent<K>) {
    return readInto<K>(useLastSeen(`${operation} ${JSON.stringify(sent)}`), operation, sent)
  }
  function readInto<K extends JsonOperation>(found: Ref<Answers[K] | undefined>, operation: K, sent: Sent<K>) {
    const newest = newestOnly()
    const reading = reader()
    const load = () =>
      reading(async () => {
        const answer = await newest(() => api(operation, ...sent))
        if (answer !== undefined) found.value = answer
      })
    void load()
    return { found, load }
  }

  return { problem, guarded, reading, read, readSeen }
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

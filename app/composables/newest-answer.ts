/**
 * The answer to a question that changes as one chooses: the newest, whichever comes last. The one before stays until
 * then.
 *
 * @param question asked anew whenever it is another, told apart by its JSON
 * @param ask may tell what is known so far, to be shown until all is
 */
import type { ApiProblem } from '~~/api/views'

export function useNewestAnswer<Question, Answer>(
  question: () => Question,
  ask: (of: Question, tell: (soFar: Answer) => void) => Promise<Answer>,
) {
  const found = shallowRef<Answer>()
  const problem = ref<ApiProblem>()
  const newest = newestOnly()
  async function load(): Promise<void> {
    try {
      const show = (answer: Answer) => {
        found.value = answer
      }
      const answer = await newest(isNewest => ask(question(), soFar => void (isNewest() && show(soFar))))
      if (answer === undefined) return
      show(answer)
      problem.value = undefined
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }
  watch(() => JSON.stringify(question()), load, { immediate: true })
  return { found, problem }
}

/**
 * The answer to a question that changes as one chooses: the newest, whichever comes last. The one before stays until
 * then.
 *
 * @param question asked anew whenever it is another, told apart by its JSON
 */
import type { ApiProblem } from '~~/api/views'

export function useNewestAnswer<Question, Answer>(question: () => Question, ask: (of: Question) => Promise<Answer>) {
  const found = shallowRef<Answer>()
  const problem = ref<ApiProblem>()
  const newest = newestOnly()
  async function load(): Promise<void> {
    try {
      const answer = await newest(() => ask(question()))
      if (answer === undefined) return
      found.value = answer
      problem.value = undefined
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }
  watch(() => JSON.stringify(question()), load, { immediate: true })
  return { found, problem }
}

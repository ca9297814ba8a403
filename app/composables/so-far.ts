/** The objectives of the run on the screen, held against the last merged seconds, once a second. */
import { useIntervalFn } from '@vueuse/core'
import { answerSoFar } from '~~/core/objectives/so-far'

export const SO_FAR_WORDS = {
  held: 'So far, yes.',
  short: 'So far, but not at the load that was asked for.',
  broken: 'Not so far.',
  none: '',
}

export function useSoFar() {
  const store = useRun()
  useIntervalFn(() => void store.reloadRecent(), 1000)
  return computed(() => {
    if (!store.view || !store.recent) return undefined
    const { document, planned } = store.view
    const answer = answerSoFar(
      document.plan.objectives,
      store.recent,
      planned[store.recent.toS - 1] ?? 0,
      document.journeys,
    )
    return answer && {
      verdict: answer.verdict,
      word: SO_FAR_WORDS[answer.verdict],
      sentence: answer.sentence.replace(/^(Yes|No): /, '').replace(/\.$/, ''),
    }
  })
}

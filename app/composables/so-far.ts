/** The objectives of the run on the screen, held against the last merged seconds, once a second. */
import { useIntervalFn } from '@vueuse/core'
import { answerSoFar } from '~~/core/objectives/so-far'
import { TargetValues } from '~~/core/objectives/target-values'

export const SO_FAR_WORDS = {
  held: 'So far, yes.',
  short: 'So far, but not at the load that was asked for.',
  broken: 'Not so far.',
  none: '',
}

export function useSoFar() {
  const store = useRun()
  useIntervalFn(() => void store.reloadRecent(), 1000)
  /** Series that objectives are about. */
  const judged = computed(() => [...new Set(store.view?.document.plan.objectives.flatMap(o => o.target?.series ?? []))])
  const { view: told } = useTargetAccount(
    () => store.view?.line.id ?? 0,
    () => judged.value,
    () => store.view?.line.endedAt === undefined,
  )
  const targetValues = computed(() =>
    new TargetValues(told.value?.series.flatMap(({ name, everyS, lines }) =>
      lines.map(({ split, atS, values }) => ({ series: name, split, everyS, atS, values })))))
  return computed(() => {
    if (!store.view || !store.recent) return undefined
    const { document, planned } = store.view
    const { objectives } = document.plan
    const { recent } = store
    const evidence = recent.objectives.map((of, i) => {
      const target = targetValues.value.of(objectives[i]!, recent)
      return target === undefined ? of : { ...of, target }
    })
    const answer = answerSoFar(
      objectives,
      { ...recent, objectives: evidence },
      planned[recent.toS - 1] ?? 0,
      document.journeys,
    )
    return answer && {
      verdict: answer.verdict,
      word: SO_FAR_WORDS[answer.verdict],
      sentence: answer.sentence.replace(/^(Yes|No): /, '').replace(/\.$/, ''),
    }
  })
}

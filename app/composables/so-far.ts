/** The objectives of the run on the screen, held against the last merged seconds, once a second. */
import { useIntervalFn } from '@vueuse/core'
import { saySoFar } from '~~/core/objectives/so-far'
import { TargetValues } from '~~/core/objectives/target-values'

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
    const { view, recent } = store
    return view && recent ? saySoFar(view.document, recent, view.planned, targetValues.value) : undefined
  })
}

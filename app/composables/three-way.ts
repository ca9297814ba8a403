/** How a run's target counts what we sent: asked for again for as long as the target is read. */
import type { ApiProblem, ThreeWayView } from '~~/api/views'
import { accountOfAll } from '~~/core/result/three-way'

/** Between two times, ms: as often as it is asked what the target says of itself. */
const AGAIN_MS = 2000

/** @param run its number; undefined: nothing is asked */
export function useThreeWay(run: () => number | undefined) {
  const view = shallowRef<ThreeWayView>()
  const problem = ref<ApiProblem>()
  const newest = newestOnly()
  let timer: ReturnType<typeof setTimeout> | undefined

  async function ask(): Promise<void> {
    clearTimeout(timer)
    const id = run()
    if (id === undefined) return
    try {
      const found = await newest(() => api('threeWay', { run: id }))
      if (found === undefined) return
      view.value = keepingUnchanged(view.value, found)
      problem.value = undefined
    }
    catch (error) {
      problem.value = problemOf(error)
    }
    if (view.value?.isReading || problem.value?.code === 'silent') timer = setTimeout(() => void ask(), AGAIN_MS)
  }
  watch(run, () => {
    view.value = undefined
    void ask()
  }, { immediate: true })
  onUnmounted(() => clearTimeout(timer))

  /** All steps in one sentence; undefined: there is none to be had. */
  const all = computed(() =>
    view.value === undefined || view.value.missing !== undefined ? undefined : accountOfAll(view.value.steps))
  return { view, all, problem }
}

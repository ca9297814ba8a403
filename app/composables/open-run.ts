/** Opens the run that the address names, and keeps it as it is for as long as the calling page is there. */
import { useIntervalFn } from '@vueuse/core'

/** What is shown of a run under way is never older than this, whatever word of it was lost on the way, ms. */
const OLDEST_MS = 5000

export function useOpenRun() {
  const route = useRoute()
  const live = useLive()
  const store = useRun()
  let opened: number | undefined
  const open = () => {
    opened = Number(route.params.id)
    void store.open(opened)
  }
  const isOpen = whenAlone('run', open)
  watch(() => route.params.id, open)
  onUnmounted(() => live.unwatch(opened))
  useIntervalFn(() => void (store.view && !store.ended && store.reload()), OLDEST_MS)
  live.onNews((news) => {
    if (news.kind === 'seconds' && news.runId === store.id) store.take(news.seconds)
    if ((news.kind === 'run' && news.runId === store.id) || (news.kind === 'fleet' && !store.ended)) void store.reload()
  })
  return { store, isOpen }
}

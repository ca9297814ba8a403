/** The run on the screen: what it is, its seconds as they come, and windows of it. */
import { defineStore } from 'pinia'
import { ENDED, UNDER_LOAD } from '~~/core/run/life'
import type { ApiProblem, RunView, SecondFigures, WindowView } from '~~/api/views'

/** Seconds merged for the figures of a running run, and how far behind now they end: the last ones are provisional. */
const RECENT_S = 10
const BEHIND_S = 2

export const useRun = defineStore('run', () => {
  const live = useLive()
  const id = ref<number>()
  const view = ref<RunView>()
  const problem = ref<ApiProblem>()
  /** By run second; holes where nothing came. */
  const seconds = shallowRef<(SecondFigures | undefined)[]>([])
  const recent = ref<WindowView>()
  /** The window chosen in a result, and its figures. */
  const chosen = ref<{ fromS: number, toS: number }>()
  const chosenWindow = ref<WindowView>()

  const underLoad = computed(() => view.value !== undefined && UNDER_LOAD.includes(view.value.line.state))
  const ended = computed(() => view.value !== undefined && ENDED.includes(view.value.line.state))
  /** Run second now, not whole; undefined before the start is fixed. */
  const nowS = computed(() =>
    view.value?.line.startAt === undefined ? undefined : (live.controllerNow - view.value.line.startAt) / 1000,
  )

  async function open(runId: number): Promise<void> {
    id.value = runId
    view.value = undefined
    seconds.value = []
    recent.value = undefined
    chosen.value = undefined
    chosenWindow.value = undefined
    live.watch(runId)
    await Promise.all([reload(), reloadSeconds()])
    await reloadChosen()
  }

  let reloading: Promise<void> | undefined
  let again = false
  /** One question at a time, and one more after it, however often the run changes meanwhile. */
  function reload(): Promise<void> {
    if (reloading) {
      again = true
      return reloading
    }
    return (reloading = reloadOnce().finally(() => {
      reloading = undefined
      if (again) {
        again = false
        void reload()
      }
    }))
  }

  async function reloadOnce(): Promise<void> {
    const runId = id.value!
    try {
      const loaded = await api<RunView>(`runs/${runId}`)
      if (runId !== id.value) return
      const endedNow = !ended.value && view.value !== undefined
      view.value = loaded
      problem.value = undefined
      if (endedNow && ended.value) {
        await reloadSeconds()
        await reloadChosen()
      }
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  async function reloadSeconds(): Promise<void> {
    try {
      take(await api<SecondFigures[]>(`runs/${id.value!}/seconds`))
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  function take(news: SecondFigures[]): void {
    const all = seconds.value.slice()
    for (const s of news) all[s.second] = s
    seconds.value = all
  }

  async function reloadRecent(): Promise<void> {
    const to = Math.floor(nowS.value ?? 0) - BEHIND_S
    if (!underLoad.value || to < 1) return
    try {
      recent.value = await api<WindowView>(`runs/${id.value!}/window?from=${Math.max(0, to - RECENT_S)}&to=${to}`)
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  /** Chooses a window of a result; undefined is the whole. */
  async function choose(window: { fromS: number, toS: number } | undefined): Promise<void> {
    chosen.value = window
    await reloadChosen()
  }

  async function reloadChosen(): Promise<void> {
    const whole = view.value?.summary?.lengthS
    if (!whole) return
    const { fromS, toS } = chosen.value ?? { fromS: 0, toS: whole }
    try {
      chosenWindow.value = await api<WindowView>(`runs/${id.value!}/window?from=${fromS}&to=${toS}`)
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  async function act(what: 'stop' | 'abort' | 'go'): Promise<void> {
    try {
      await api(`runs/${id.value!}/${what}`, 'POST')
    }
    catch (error) {
      problem.value = problemOf(error)
    }
    await reload()
  }

  async function mark(text: string): Promise<void> {
    try {
      await api(`runs/${id.value!}/mark`, 'POST', { text })
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  return {
    id,
    view,
    problem,
    seconds,
    recent,
    chosen,
    chosenWindow,
    underLoad,
    ended,
    nowS,
    open,
    reload,
    take,
    reloadRecent,
    choose,
    act,
    mark,
  }
})

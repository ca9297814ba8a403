/** The run on the screen: what it is, its seconds as they come, and windows of it. */
import { defineStore } from 'pinia'
import { ENDED, UNDER_LOAD } from '~~/core/run/life'
import { filledSeconds } from './filled-seconds'
import type { ApiProblem, RunView, SecondFigures, WindowView } from '~~/api/views'
import { present } from '~~/core/values/present'

/** Seconds merged for the figures of a running run, and how far behind now they end: the last ones are provisional. */
const RECENT_S = 10
const BEHIND_S = 2
/** Seconds asked for at once: of a longer run the slowest of each stretch, until one looks closer. */
const MOST_SECONDS = 3600
/** A server that did not answer is asked again after this, ms. */
const AGAIN_MS = 3000

export const useRun = defineStore('run', () => {
  const live = useLive()
  const id = ref<number>()
  /** Asked for again and again: what has not changed in it stays the same object. */
  const view = shallowRef<RunView>()
  const problem = ref<ApiProblem>()
  /** By run second; holes where nothing came. */
  const seconds = shallowRef<(SecondFigures | undefined)[]>([])
  /** Of a long run each second stands for a stretch of this many, as it was asked for whole. */
  const stretchS = ref(1)
  const recent = shallowRef<WindowView>()
  /** The window chosen in a result, and its figures. */
  const chosen = ref<{ fromS: number, toS: number }>()
  const chosenWindow = shallowRef<WindowView>()

  const underLoad = computed(() => view.value !== undefined && UNDER_LOAD.includes(view.value.line.state))
  const ended = computed(() => view.value !== undefined && ENDED.includes(view.value.line.state))
  /** Run second now, not whole; undefined before the start is fixed. */
  const nowS = computed(() =>
    view.value?.line.startAt === undefined ? undefined : (live.controllerNow - view.value.line.startAt) / 1000,
  )

  /** The run second it is, whole, from 0: what depends on it alone is worked out once a second. */
  const secondNow = computed(() => Math.max(0, Math.floor(nowS.value ?? 0)))

  /** Opens a run. One that is over and was the last here stands as it was while it is read again. */
  async function open(runId: number): Promise<void> {
    live.watch(runId)
    if (id.value === runId && ended.value) {
      await Promise.all([reload(), reloadSeconds(), reloadChosen()])
      return
    }
    id.value = runId
    view.value = undefined
    seconds.value = []
    stretchS.value = 1
    recent.value = undefined
    chosen.value = undefined
    chosenWindow.value = undefined
    await Promise.all([reload(), reloadSeconds()])
  }

  let reloading: Promise<void> | undefined
  let again = false
  /** One question at a time, and one more after it, however often the run changes meanwhile. */
  /** Its number, once one is open. */
  const opened = () => present(id.value, 'the run that is open')

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
    const runId = opened()
    try {
      const loaded = await api('run', { run: runId })
      if (runId !== id.value) return
      const endedNow = !ended.value && view.value !== undefined
      view.value = keepingUnchanged(view.value, loaded)
      problem.value = undefined
      if (endedNow && ended.value) await reloadSeconds()
    }
    catch (error) {
      problem.value = problemOf(error)
      // As the sentence says: this page tries again.
      if (problem.value.code === 'silent') setTimeout(() => void (runId === id.value && reload()), AGAIN_MS)
    }
  }

  async function reloadSeconds(): Promise<void> {
    try {
      const told = await api('seconds', { run: opened(), most: MOST_SECONDS })
      take(filledSeconds(told))
      stretchS.value = told[0]?.stretchS ?? 1
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  /** What is looked at closely is told second by second, or as nearly as that can be. */
  async function refine({ fromS, toS }: { fromS: number, toS: number }): Promise<void> {
    const runId = opened()
    const finer = Math.ceil((toS - fromS) / MOST_SECONDS)
    const there = seconds.value[fromS]?.stretchS ?? 1
    if (finer >= there) return
    try {
      const told = await api('seconds', { run: runId, from: fromS, to: toS, most: MOST_SECONDS })
      if (runId === id.value) take(filledSeconds(told))
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  function take(news: SecondFigures[]): void {
    const all = seconds.value.slice()
    for (const s of news) all[s.second] = keepingUnchanged(all[s.second], s)
    if (all.length !== seconds.value.length || all.some((s, i) => s !== seconds.value[i])) seconds.value = all
  }

  async function reloadRecent(): Promise<void> {
    const to = secondNow.value - BEHIND_S
    if (!underLoad.value || to < 1) return
    try {
      recent.value = await api('window', { run: opened(), from: Math.max(0, to - RECENT_S), to })
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  /** Chooses a window of a result; undefined is the whole. */
  function choose(window: { fromS: number, toS: number } | undefined): void {
    chosen.value = window
  }

  /** The window whose figures are shown: there as soon as there is a result, whatever came first. */
  const shown = computed(() => {
    const to = view.value?.summary?.lengthS
    return to ? { run: opened(), from: chosen.value?.fromS ?? 0, to: chosen.value?.toS ?? to } : undefined
  })
  const sameWindow = (a: typeof shown.value, b: typeof shown.value) =>
    a?.run === b?.run && a?.from === b?.from && a?.to === b?.to
  watch(shown, (now, before) => {
    if (!sameWindow(now, before)) void reloadChosen()
  })

  async function reloadChosen(): Promise<void> {
    const asked = shown.value
    if (!asked) return
    try {
      const found = await api('window', asked)
      if (sameWindow(asked, shown.value)) chosenWindow.value = keepingUnchanged(chosenWindow.value, found)
    }
    catch (error) {
      problem.value = problemOf(error)
      if (problem.value.code === 'silent')
        setTimeout(() => void (sameWindow(asked, shown.value) && reloadChosen()), AGAIN_MS)
    }
  }

  async function act(what: 'stopRun' | 'abortRun' | 'goWith'): Promise<void> {
    try {
      await api(what, { run: opened() })
    }
    catch (error) {
      problem.value = problemOf(error)
    }
    await reload()
  }

  async function mark(text: string): Promise<void> {
    try {
      await api('markRun', { run: opened() }, { text })
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
    secondNow,
    stretchS,
    open,
    reload,
    refine,
    take,
    reloadRecent,
    choose,
    act,
    mark,
  }
})

/** What a run's target says of itself: asked for whole, and while it is read again and again of what is new alone. */
import type { ApiProblem, TargetView } from '~~/api/views'

/** News are asked for so often, ms. */
const NEWS_MS = 2000
/** Of what was told before, so much is told again, s: a source may have been late. */
const AGAIN_S = 10

type Line = TargetView['series'][number]['lines'][number]

/**
 * @param run its number @param wanted names of series that are shown; undefined: all @param isOn the run itself is on
 */
export function useTargetAccount(run: () => number, wanted: () => readonly string[] | undefined, isOn: () => boolean) {
  const view = shallowRef<TargetView>()
  const problem = ref<ApiProblem>()
  let isAsking = false

  async function ask(isWhole: boolean): Promise<void> {
    const series = wanted()
    if (isAsking || series?.length === 0) return
    isAsking = true
    const id = run()
    const before = isWhole ? undefined : view.value
    const since = before && newestOf(before) - AGAIN_S
    try {
      const news = await api('targetAccount', {
        run: id,
        ...(since === undefined ? {} : { since }),
        ...(series === undefined ? {} : { series: series.join(',') }),
      })
      if (id === run() && String(series) === String(wanted())) {
        view.value = before && since !== undefined ? withNews(before, news, since) : news
        problem.value = undefined
      }
    }
    catch (error) {
      problem.value = problemOf(error)
    }
    isAsking = false
  }

  watch(() => `${run()} ${String(wanted())}`, () => {
    view.value = undefined
    isAsking = false
    void ask(true)
  }, { immediate: true })
  // The start of the load moves what run times count from; its end is told once more.
  watch(isOn, () => void ask(true))
  let timer: ReturnType<typeof setInterval>
  onMounted(() => {
    timer = setInterval(() => {
      if (isOn() || view.value?.isReading) void ask(view.value === undefined)
    }, NEWS_MS)
  })
  onUnmounted(() => clearInterval(timer))
  return { view, problem }
}

const newestOf = ({ series }: TargetView) =>
  Math.max(0, ...series.flatMap(s => s.lines.map(l => l.atS[l.atS.length - 1] ?? 0)))

function withNews(before: TargetView, news: TargetView, since: number): TargetView {
  const known = new Map(before.series.map(s => [s.name, s]))
  return {
    ...news,
    series: news.series.map(s => ({
      ...s,
      lines: s.lines.map(line => joined(known.get(s.name)?.lines.find(l => l.split === line.split), line, since)),
    })),
  }
}

function joined(before: Line | undefined, news: Line, since: number): Line {
  if (!before) return news
  const from = news.atS[0] ?? since
  const kept = before.atS.findIndex(at => at >= from)
  const end = kept < 0 ? before.atS.length : kept
  return {
    ...news,
    atS: [...before.atS.slice(0, end), ...news.atS],
    values: [...before.values.slice(0, end), ...news.values],
  }
}

/**
 * What staffs of one's own draw: asked for whole, and while a run loads again and again of what is new alone. With it
 * what they say of one window.
 */
import type { Staff } from '~~/core/result/staff'
import type { ApiProblem, CoursesView } from '~~/api/views'

interface Asked {
  run: number
  span: { fromS: number, toS: number }
  staffs: readonly Staff[]
}

/** News are asked for so often, ms. */
const NEWS_MS = 2000
/** Bins over a whole span at most: as many as a screen is wide. */
const MOST_BINS = 1200

const wishOf = ({ limit: _, ...wish }: Staff) => wish
const keyOf = (staff: Staff) => JSON.stringify(wishOf(staff))

/** An answer, and what it is to. */
interface Found {
  question: string
  /** Keys of the staffs, in the answer's order. */
  staffs: string[]
  /** Run second up to which nothing changed any more when it was asked. */
  sureS: number
  view: CoursesView
}

/**
 * @param asked which run, which seconds of it, and what
 * @param nowS run second now, while the run is on
 * @param finalS run second up to which nothing changes any more
 */
export function useOwnCourses(asked: () => Asked, nowS: () => number | undefined, finalS: () => number) {
  const found = shallowRef<Found>()
  const problem = ref<ApiProblem>()
  let isAsking = false
  const questionNow = () => JSON.stringify(asked())
  const newest = newestOnly()

  async function guarded(ask: () => Promise<Found | undefined>): Promise<void> {
    try {
      const answer = await ask()
      if (!answer || answer.question !== questionNow()) return
      found.value = answer
      problem.value = undefined
    }
    catch (error) {
      problem.value = problemOf(error)
    }
  }

  /** All of it, of what has passed so far. What was there before stays until then. */
  function load(): Promise<void> {
    const question = questionNow()
    const { run, span: { fromS, toS }, staffs } = asked()
    if (staffs.length === 0) return Promise.resolve()
    const sureS = finalS()
    return guarded(async () => {
      // While it loads bins are those of the whole span, so that they stay the same.
      const view = await newest(() => api('courses', { run }, {
        fromS: Math.floor(fromS),
        toS: Math.ceil(toS),
        most: MOST_BINS,
        staffs: staffs.map(wishOf),
      }))
      const now = nowS()
      if (!view) return undefined
      const seen = now === undefined ? view : cutAt(view, Math.floor(now))
      return { question, staffs: staffs.map(keyOf), sureS, view: seen }
    })
  }

  /** What has come since: from the first bin on that may have changed. */
  async function more({ question, staffs, sureS: sure, view }: Found): Promise<void> {
    const now = Math.floor(nowS() ?? 0)
    const { fromS, binS, courses } = view
    const done = Math.max(0, Math.floor((Math.min(sure, view.toS) - fromS) / binS))
    const from = fromS + done * binS
    const toS = Math.min(now, Math.ceil(asked().span.toS))
    if (toS <= from) return
    isAsking = true
    const sureS = finalS()
    await guarded(async () => {
      const wish = { fromS: from, toS, binS, staffs: asked().staffs.map(wishOf) }
      const news = await api('courses', { run: asked().run }, wish)
      return {
        question,
        staffs,
        sureS,
        view: {
          ...view,
          toS: news.toS,
          courses: courses.map(({ lines }, s) => ({
            lines: lines.map((line, l) => ({
              ...line,
              values: [...line.values.slice(0, done), ...(news.courses[s]!.lines[l]?.values ?? [])],
            })),
          })),
        },
      }
    })
    isAsking = false
  }

  function lookForNews(): void {
    if (nowS() === undefined || isAsking || asked().staffs.length === 0) return
    const have = found.value
    void (have?.question === questionNow() ? more(have) : load())
  }

  watch(questionNow, load, { immediate: true })
  // Once it is over, all of it is told once more.
  watch(() => nowS() === undefined, () => void load())
  let timer: ReturnType<typeof setInterval>
  onMounted(() => {
    timer = setInterval(lookForNews, NEWS_MS)
  })
  onUnmounted(() => clearInterval(timer))
  return {
    problem,
    /** What one staff draws, and in which bins; undefined: not known yet. */
    courseOf(staff: Staff) {
      const at = found.value?.staffs.indexOf(keyOf(staff)) ?? -1
      if (at < 0) return undefined
      // It has a place in what was found.
      const { courses, ...bins } = found.value!.view
      return { bins, lines: courses[at]!.lines }
    },
  }
}

/** Bins that have not begun are not there yet. */
function cutAt(view: CoursesView, nowS: number): CoursesView {
  const bins = Math.max(0, Math.ceil((nowS - view.fromS) / view.binS))
  return {
    ...view,
    toS: Math.min(view.toS, nowS),
    courses: view.courses.map(({ lines }) => ({
      lines: lines.map(line => ({ ...line, values: line.values.slice(0, bins) })),
    })),
  }
}

/** What each staff says of one window, exact: a value per line. */
export function useOwnWindow(
  asked: () => { run: number, window: { fromS: number, toS: number } | undefined, staffs: readonly Staff[] },
) {
  const { found } = useNewestAnswer(asked, async ({ run, window, staffs }) => {
    if (!window || staffs.length === 0) return new Map<string, Map<string, number | null>>()
    const { fromS, toS } = window
    const { courses } = await api('courses', { run }, { fromS, toS, binS: toS - fromS, staffs: staffs.map(wishOf) })
    return new Map(staffs.map((staff, s) => [
      keyOf(staff),
      new Map(courses[s]!.lines.map(l => [l.value, l.values[0] ?? null])),
    ]))
  })
  return { valueOf: (staff: Staff, line: string) => found.value?.get(keyOf(staff))?.get(line) }
}

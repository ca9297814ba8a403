/** Runs in large type: a sentence, four figures and the course of each, made once however many look at it. */
import { TargetValues } from '../../core/objectives/target-values'
import { wallOf, type Wall } from '../../core/result/wall'
import { courseStretchS, wallCourse, type WallCourse } from '../../core/result/wall-course'
import { ENDED, UNDER_LOAD } from '../../core/run/life'
import type { Clock } from '../clock'
import { judgedValues } from '../target/judged-values'
import type { Runs } from './runs'

export interface WallsOptions {
  clock: Pick<Clock, 'now'>
  runs: Pick<Runs, 'view' | 'window' | 'seconds'>
  targetFile: (runId: number) => string
}

/** Seconds together, and how far behind now they end: the last ones are provisional. */
const RECENT_S = 10
const BEHIND_S = 2
/** Seconds looked at one by one. */
const SINGLE_S = 20
/** One is shown again for so long, ms. */
const FRESH_MS = 900
/** A course is made anew when it has one point more, and not more often than this, ms. */
const COURSE_MS = 2000
/** Points that are asked for, of each that is drawn. */
const ASKED = 2
/** This many are remembered. */
const MOST_KEPT = 100

export class Walls {
  private readonly made = new Map<number, { at: number, wall: Promise<Wall> }>()
  private readonly courses = new Map<number, { at: number, isOver: boolean, course: WallCourse }>()

  constructor(private readonly options: WallsOptions) {}

  /** @throws ControlError where there is no such run */
  of(id: number): Promise<Wall> {
    const at = this.options.clock.now()
    const before = this.made.get(id)
    if (before && at - before.at < FRESH_MS) return before.wall
    const wall = this.make(id)
    wall.catch(() => this.made.delete(id))
    this.made.delete(id)
    this.made.set(id, { at, wall })
    const [oldest] = this.made.keys()
    if (this.made.size > MOST_KEPT && oldest !== undefined) {
      this.made.delete(oldest)
      this.courses.delete(oldest)
    }
    return wall
  }

  private async make(id: number): Promise<Wall> {
    const { runs, clock, targetFile } = this.options
    const { line, document, planned, lengthS, summary } = runs.view(id)
    const { state, startAt, endedAt } = line
    const isOver = ENDED.includes(state)
    const toS = startAt === undefined ? 0 : Math.floor((clock.now() - startAt) / 1000) - BEHIND_S
    const isThere = !isOver && UNDER_LOAD.includes(state) && toS >= 1
    const [recent, whole, seconds] = isThere
      ? await Promise.all([
          runs.window(id, Math.max(0, toS - RECENT_S), toS),
          runs.window(id, 0, toS),
          runs.seconds(id, Math.max(0, toS - SINGLE_S), toS + BEHIND_S),
        ])
      : [undefined, undefined, []]
    const reachedS = isOver ? (summary?.lengthS ?? lengthS) : Math.max(lengthS, toS)
    const course = startAt === undefined ? undefined : await this.courseOf(id, isOver, reachedS)
    return wallOf({
      run: id,
      name: line.name || line.planName,
      document,
      state,
      ...(startAt === undefined ? {} : { startAt }),
      ...(endedAt === undefined ? {} : { endedAt }),
      sentence: line.sentence,
      peakUsers: line.peakUsers,
      lengthS,
      planned,
      ...(summary ? { summary } : {}),
      seconds,
      ...(recent ? { recent } : {}),
      ...(whole ? { soFar: whole.total } : {}),
      ...(course ? { course } : {}),
      target: new TargetValues(isThere && startAt !== undefined ? judgedValues(document, targetFile(id), startAt) : []),
    })
  }

  /** @param lengthS of all of it, as planned, or as it was */
  private async courseOf(id: number, isOver: boolean, lengthS: number): Promise<WallCourse | undefined> {
    const { runs, clock } = this.options
    const stretchS = courseStretchS(lengthS)
    const before = this.courses.get(id)
    const isFresh = isOver || (before && clock.now() - before.at < Math.max(COURSE_MS, stretchS * 1000))
    // One that was made under load lacks the end.
    if (before && before.isOver === isOver && isFresh) return before.course
    const seconds = await runs.seconds(id, undefined, undefined, ASKED * Math.ceil(lengthS / stretchS))
    if (seconds.length === 0) return undefined
    const { document, planned } = runs.view(id)
    const course = wallCourse(document, seconds, planned, lengthS)
    this.courses.set(id, { at: clock.now(), isOver, course })
    return course
  }
}

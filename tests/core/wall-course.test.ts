/** The course of a run as it is drawn from afar: few points, each true of its stretch. */
import type { SecondFigures } from '../../core/merge/second-figures'
import { courseStretchS, wallCourse } from '../../core/result/wall-course'
import { plan, runDocument } from '../build/plans'

const asking = (objectives: Parameters<typeof plan>[0]) => runDocument({ plan: plan(objectives) })
const timed = asking({ objectives: [{ metric: 'failures', atMost: 0.1 }, { metric: 'p95', step: 'Look', atMost: 800 }] })

/** A second with users at two locations, and what its objectives measured. */
const second = (at: number, users: number, ms: number | null, p95: number | null = null): SecondFigures =>
  ({
    second: at,
    usersByLocation: [users - 1, 1],
    judged: [[0, 1, 1, 0], [ms, 1, 1, 0]],
    all: [1, 0, 1, p95, 1],
  }) as unknown as SecondFigures

describe('a course', () => {
  it('of a short run has a point a second: users of all locations, what the timed objective measured, its limit', () => {
    const course = wallCourse(timed, [second(0, 4, 90), second(1, 8, null), second(3, 6, 900)], [4, 8, 8, 6, 0], 5)
    expect(course).toEqual({
      stretchS: 1,
      planned: [4, 8, 8, 6, 0],
      users: [4, 8, null, 6],
      name: 'p95 of Look',
      ms: [90, null, null, 900],
      limitMs: 800,
    })
  })

  it('without an objective that limits a time shows that of all requests', () => {
    expect(wallCourse(asking({ objectives: [] }), [second(0, 4, null, 70)], [4], 1))
      .toEqual({ stretchS: 1, planned: [4], users: [4], name: 'p95 of all requests', ms: [70] })
  })

  it('of a long run has 240 points at most: users at the end of each stretch, times at their slowest in it', () => {
    const lengthS = 8 * 3600
    const seconds = Array.from({ length: lengthS / 60 }, (_, i) => second(i * 60 + 30, i + 1, i % 2 ? 500 : 100))
    const planned = Array.from({ length: lengthS }, (_, s) => s)
    const course = wallCourse(timed, seconds, planned, lengthS)
    expect([course.stretchS, course.planned.length, course.users.length]).toEqual([120, 240, 240])
    expect(course.users.slice(0, 3)).toEqual([2, 4, 6])
    expect(course.planned.slice(0, 2)).toEqual([119, 239])
    expect(new Set(course.ms)).toEqual(new Set([500]))
    expect([courseStretchS(0), courseStretchS(240), courseStretchS(241)]).toEqual([1, 1, 2])
  })

  it('before anything has come back has none to draw', () => {
    expect(wallCourse(timed, [], [4, 8], 2)).toMatchObject({ users: [], ms: [], planned: [4, 8] })
  })
})

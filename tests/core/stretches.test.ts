/** Stretches in which an objective was broken, against values written down second by second. */
import { NO_FIGURES } from '../../core/merge/figures'
import type { EvidenceFor } from '../../core/objectives/judge'
import type { Objective } from '../../core/plan/document'
import { brokenStretches } from '../../core/result/stretches'

const LOAD = { asked: true, shortfalls: [], users: undefined }
/** What a second took, ms; a window takes as long as its slowest second. */
const slowest = (ms: (second: number) => number): EvidenceFor => ({ fromS, toS }) => ({
  figures: {
    ...NO_FIGURES,
    started: 1,
    right: 10 * (toS - fromS),
    p95Ms: Math.max(...Array.from({ length: toS - fromS }, (_, i) => ms(fromS + i))),
  },
  load: LOAD,
})
const usersIn = ({ fromS }: { fromS: number }) => fromS * 2
const p95: Objective = { metric: 'p95', atMost: 800 }
const levels = [
  { fromS: 20, toS: 50, users: 100 },
  { fromS: 60, toS: 93, users: 200 },
]
const found = (objective: Objective, ms: (second: number) => number) =>
  brokenStretches({ objectives: [objective], levels, lengthS: 100, evidenceFor: slowest(ms), usersIn })

it('nothing broken is no stretch', () => {
  expect(found(p95, () => 800)).toEqual([])
})

it('neighbouring windows are one stretch, with its worst; where a hold begins or ends another begins', () => {
  // Slow from 42 to 66: in the first hold, between the two, and in the second.
  const stretches = found(p95, s => (s >= 42 && s < 66 ? 1000 + s : 500))
  expect(stretches.map(s => [s.fromS, s.toS, s.judged, s.worst, s.worstFromS, s.worstToS])).toEqual([
    [40, 50, true, 1049, 40, 50],
    [50, 60, false, 1059, 50, 60],
    [60, 70, true, 1065, 60, 70],
  ])
  expect(stretches.map(s => s.users)).toEqual([80, 100, 120])
})

it('a stretch over several windows says which was worst', () => {
  const [only, ...more] = found(p95, s => (s >= 20 && s < 50 ? (s === 35 ? 3000 : 900) : 100))
  expect(more).toEqual([])
  expect(only).toMatchObject({ fromS: 20, toS: 50, judged: true, worst: 3000, worstFromS: 30, worstToS: 40 })
})

it('the remainder of a hold that is shorter than a window is judged with the one before it', () => {
  const every: Objective = { ...p95, window: { everyS: 7 } }
  // 60 to 93 in sevens: 60, 67, 74, 81 to 93, since 88 to 93 is too short.
  expect(found(every, s => (s === 92 ? 2000 : 100)).map(s => [s.fromS, s.toS])).toEqual([[81, 93]])
  expect(found(every, s => (s === 80 ? 2000 : 100)).map(s => [s.fromS, s.toS])).toEqual([[74, 81]])
  // Whole multiples of ten otherwise; three seconds go with those before.
  expect(found(p95, s => (s === 92 ? 2000 : 100)).map(s => [s.fromS, s.toS])).toEqual([[80, 93]])
})

it('what is judged over the whole load is judged from its first second to its last', () => {
  const stretches = found({ ...p95, window: 'whole' }, s => (s < 5 || s > 97 ? 900 : 100))
  expect(stretches.map(s => [s.fromS, s.toS, s.judged])).toEqual([[0, 10, true], [90, 100, true]])
})

it('a floor is a ceiling on the negative, and says nothing while the load rises', () => {
  // Ten right answers a second wherever one looks.
  expect(found({ metric: 'throughput', atLeast: 10 }, () => 1)).toEqual([])
  const below = found({ metric: 'throughput', atLeast: 11 }, () => 1)
  expect(below.map(s => [s.fromS, s.toS, s.judged, s.worst])).toEqual([[20, 50, true, 10], [60, 93, true, 10]])
})

it('objectives are told side by side, in the order of time', () => {
  const stretches = brokenStretches({
    objectives: [{ ...p95, atMost: 2000 }, p95],
    levels,
    lengthS: 100,
    evidenceFor: slowest(s => (s === 25 ? 3000 : s === 45 ? 1000 : 1)),
    usersIn: () => undefined,
  })
  expect(stretches.map(s => [s.objective, s.fromS])).toEqual([[0, 20], [1, 20], [1, 40]])
  expect(stretches.every(s => !('users' in s))).toBe(true)
})

/** One figure of a run, as it is laid over the same of others: by time, by the levels that were held, or by users. */
import type { CompareView } from '~~/api/views'
import { dotsOf } from '~~/core/result/against-users'
import type { StaffWish } from '~~/core/result/staff'
import { inAxisUnit } from '../stave/own-lines'
import { present } from '~~/core/values/present'

export const LAID_OVER = ['time', 'levels', 'users'] as const
export type LaidOver = (typeof LAID_OVER)[number]

/** What it is laid over by: a second of the run, or a number of users; in that order, but for users. */
export interface LaidCourse {
  id: number
  at: readonly number[]
  /** In the unit of the axis. */
  values: readonly (number | null)[]
}

type Row = Pick<CompareView['rows'][number], 'subject' | 'steps' | 'metric' | 'target'>
type Run = Pick<CompareView['runs'][number], 'id' | 'lengthS' | 'holds'>

/** Bins drawn of a run, about. */
const MOST_BINS = 300

/** What a row is, as charts ask for it. */
export function staffOfRow({ subject, steps, metric }: Row): StaffWish {
  const only = { ...(steps ? { step: steps } : {}), ...usersChosen(subject) }
  const what: StaffWish
    = metric === 'failures'
      ? { statistics: ['share'], measure: 'failed' }
      : metric === 'throughput'
        ? { statistics: ['perSecond'], measure: 'right' }
        : { statistics: [metric], measure: 'answered' }
  return { ...what, ...(Object.keys(only).length > 0 ? { only } : {}) }
}

/** Of users it cannot be said which step they are at. */
function usersChosen({ step, journeyId, group, location }: Row['subject']) {
  return {
    ...(step === undefined && journeyId !== undefined ? { journey: [journeyId] } : {}),
    ...(group === undefined ? {} : { group: [group] }),
    ...(location === undefined ? {} : { location: [location] }),
  }
}

export function laidCourse(run: Run, row: Row, over: LaidOver): Promise<LaidCourse> {
  return row.target ? ofTarget(run, row, over) : ofRun(run, row, over)
}

async function ofRun(run: Run, row: Row, over: LaidOver): Promise<LaidCourse> {
  const staff = staffOfRow(row)
  const toAxis = (values: readonly (number | null)[]) => values.map(v => (v === null ? null : inAxisUnit(staff, v)))
  if (over === 'levels') {
    const held = await Promise.all(run.holds.map(async ({ fromS, toS }) => {
      const [values = []] = await courses(run.id, [staff], { fromS, toS, binS: toS - fromS })
      return values[0] ?? null
    }))
    return { id: run.id, at: run.holds.map(h => h.users), values: toAxis(held) }
  }
  const bins = wholeRun(run)
  if (over === 'time') {
    const [values = []] = await courses(run.id, [staff], bins)
    return { id: run.id, at: values.map((_, i) => (i + 0.5) * bins.binS), values: toAxis(values) }
  }
  const [users = [], values = []] = await courses(run.id, [usersOf(row), staff], bins)
  const dots = dotsOf(users, toAxis(values), () => true)
  return { id: run.id, at: dots.map(d => d.users), values: dots.map(d => d.value) }
}

/** One line of what the target said of itself, while the load was on. */
async function ofTarget(run: Run, row: Row, over: LaidOver): Promise<LaidCourse> {
  const { series, split } = present(row.target, 'what the target tells')
  const told = await api('targetAccount', { run: run.id, series })
  const line = told.series[0]?.lines.find(l => l.split === split)
  const read = (line?.atS ?? [])
    .map((atS, i) => ({ atS, value: line?.values[i] ?? null }))
    .filter(({ atS }) => atS >= 0 && atS <= run.lengthS)
  if (over === 'levels') {
    const held = run.holds.map(({ users, fromS, toS }) => {
      const inside = read.flatMap(p => (p.value !== null && p.atS >= fromS && p.atS < toS ? [p.value] : []))
      return { users, value: inside.length > 0 ? inside.reduce((sum, v) => sum + v, 0) / inside.length : null }
    })
    return { id: run.id, at: held.map(h => h.users), values: held.map(h => h.value) }
  }
  if (over === 'time') return { id: run.id, at: read.map(p => p.atS), values: read.map(p => p.value) }
  const bins = wholeRun(run)
  const [users = []] = await courses(run.id, [usersOf(row)], bins)
  const dots = read.flatMap(({ atS, value }) => {
    const there = users[Math.floor(atS / bins.binS)]
    return there === null || there === undefined ? [] : [{ users: there, value }]
  })
  return { id: run.id, at: dots.map(d => d.users), values: dots.map(d => d.value) }
}

function usersOf({ subject }: Row): StaffWish {
  return { statistics: ['present'], measure: 'users', only: usersChosen(subject) }
}

const wholeRun = ({ lengthS }: Run) => ({ fromS: 0, toS: lengthS, binS: Math.max(1, Math.ceil(lengthS / MOST_BINS)) })

async function courses(run: number, staffs: StaffWish[], bins: { fromS: number, toS: number, binS: number }) {
  const told = await api('courses', { run }, { ...bins, staffs })
  return told.courses.map(c => c.lines[0]?.values ?? [])
}
